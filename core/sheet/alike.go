package sheet

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"hemble/core/judge"
)

// Alike is the same for look-alikes: sheets that first differ in the same way, whenever they do. It is "" where nothing
// differs.
func (s *Sheet) Alike() string {
	if s.Failed != "" {
		return key("failed", s.Failed)
	}
	for i, t := range s.Trials {
		for k, v := range t.Verdicts {
			switch {
			case v.Outcome == judge.Met || v.Outcome == judge.NotJudged:
			case v.First != nil:
				return key(fmt.Sprint(i, k), v.First.Expected, v.First.Seen)
			default:
				return key(fmt.Sprint(i, k), string(v.Outcome))
			}
		}
	}
	return ""
}

func key(parts ...string) string {
	sum := sha256.Sum256(fmt.Appendf(nil, "%q", parts))
	return hex.EncodeToString(sum[:6])
}
