package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// ofParts are the signs that parts find in their logs.
func ofParts() (out []symptom) {
	of := map[finding.Code]map[string]part.Sign{}
	for _, k := range part.Kinds() {
		for _, sign := range k.Signs {
			if of[sign.Code] == nil {
				of[sign.Code] = map[string]part.Sign{}
				out = append(out, symptom{sign.Entry, func(v *view) (string, clock.Time, bool) {
					p := v.x.Part(v.track.Display)
					if p == nil {
						return "", 0, false
					}
					own, ok := of[sign.Code][p.Kind.Name]
					if !ok {
						return "", 0, false
					}
					text, at := own.Find(*p, v.reel.Taken(p.Name))
					return text, at, text != ""
				}})
			}
			of[sign.Code][k.Name] = sign
		}
	}
	return out
}

// cured are the codes of notes that runs made before a repair, and none of them with it.
func cured(before, after []*reel.Reel) (out []string) {
	noted := func(reels []*reel.Reel, code string) bool {
		return slices.ContainsFunc(reels, func(r *reel.Reel) bool {
			return slices.ContainsFunc(r.Notes, func(n machine.Note) bool { return n.Code == code })
		})
	}
	for _, r := range before {
		for _, n := range r.Notes {
			if !noted(after, n.Code) && !slices.Contains(out, n.Code) {
				out = append(out, n.Code)
			}
		}
	}
	return out
}
