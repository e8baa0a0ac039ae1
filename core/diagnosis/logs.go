package diagnosis

import (
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
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
					text, at := own.Find(*p, v.taken())
					return text, at, text != ""
				}})
			}
			of[sign.Code][k.Name] = sign
		}
	}
	return out
}

// taken is what the display took from its bus.
func (v *view) taken() (out []part.Taken) {
	for _, e := range v.reel.Log {
		if e.Part == v.track.Display {
			out = append(out, part.Taken{At: e.At, What: e.What, Data: e.Data})
		}
	}
	return out
}
