package diagnosis

import (
	"slices"

	"hemble/core/finding"
)

// stated leaves out what another finding brings with it. A sign that leaves no doubt takes the place of a repair that
// it stands for, and what that came to: the mistake is one, by whatever name.
func stated(found []Finding) (out []Finding) {
	over := make([]int, len(found)) // what brings each of them with it; -1 for nothing
	for i, f := range found {
		over[i] = slices.IndexFunc(found, func(g Finding) bool {
			return g.Code != f.Code && slices.Contains(finding.Of(g.Code).Subsumes, f.Code) && g.about(f.Part)
		})
	}
	placed := make([]bool, len(found))
	for i, f := range found {
		k := over[i]
		switch {
		case k < 0 && !placed[i]:
			out, placed[i] = append(out, f), true
		case k >= 0 && over[k] < 0 && !placed[k] && f.Tested && found[k].After == nil && strength(found[k]) > 0:
			g := found[k]
			g.Marks, g.Fidelity, g.After, g.Cured, g.Tested = f.Marks, f.Fidelity, f.After, f.Cured, true
			out, placed[k] = append(out, g), true
		}
	}
	return out
}
