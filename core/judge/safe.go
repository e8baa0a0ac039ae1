package judge

import (
	"fmt"
	"math/big"
	"strings"

	"hemble/core/reel"
	"hemble/core/spec"
)

// unsafe are the beginnings of the codes of notes that tell of stress on the parts.
var unsafe = []string{"current-", "contention-"}

func init() {
	register(&Kind{
		Name:    "safe",
		Free:    true,
		Doc:     "Nothing on the bench is overloaded: no current above the limits of chip and pins, no two outputs driving against each other. Written as `safe: bench`.",
		Example: "{safe: bench, marks: 1}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			if v.Text("safe") != "bench" {
				ps.Add(v.At("safe"), "safe is about the whole bench: write safe: bench")
			}
			return safe{}
		},
	})
}

type safe struct{}

// Judge looks at what the run noted.
func (safe) Judge(r *reel.Reel) Verdict {
	v := Verdict{Fraction: big.NewRat(1, 1), Text: "nothing on the bench is overloaded"}
	more := 0
	for _, n := range r.Notes {
		for _, code := range unsafe {
			if !strings.HasPrefix(n.Code, code) {
				continue
			}
			v.Fraction.SetInt64(0)
			if v.Evidence = append(v.Evidence, n.Text); len(v.Evidence) > 3 {
				more++
				v.Evidence = v.Evidence[:3]
			}
			if v.First == nil {
				v.First = &Difference{At: n.At, Expected: "nothing overloaded", Seen: n.Text}
			}
		}
	}
	if more > 0 {
		v.Evidence = append(v.Evidence, fmt.Sprintf("and %d more", more))
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
