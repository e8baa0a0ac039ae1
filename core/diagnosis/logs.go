package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
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
	noted := func(r *reel.Reel) (codes []string) {
		for _, n := range r.Notes {
			codes = append(codes, n.Code)
		}
		if r.Stop != nil {
			codes = append(codes, string(r.Stop.Reason))
		}
		return codes
	}
	still := map[string]bool{}
	for _, r := range after {
		for _, code := range noted(r) {
			still[code] = true
		}
	}
	for _, r := range before {
		for _, code := range noted(r) {
			if !still[code] && !slices.Contains(out, code) {
				out = append(out, code)
			}
		}
	}
	return out
}
