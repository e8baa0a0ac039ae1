package judge

import (
	"fmt"
	"math/big"

	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "fits",
		Free: true,
		Doc:  "The program is small enough: its bytes in flash, or its variables' bytes in RAM (ELF files only).",
		Fields: []spec.Field{
			{Name: "at-most", Was: "most", Kind: spec.Int, Min: 1, Max: 1 << 20, Required: true,
				Doc: "the most bytes it may take up"},
		},
		Example: "{fits: flash, at-most: 2048, marks: 1}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			what := v.Text("fits")
			if what != "flash" && what != "ram" {
				ps.Add(v.At("fits"), "%q is neither flash nor ram", what)
			}
			return fits{what, int(v.Int("at-most"))}
		},
	})
}

type fits struct {
	what string
	most int
}

// Judge compares with what the run's image takes.
func (x fits) Judge(r *reel.Reel) Verdict {
	v := Verdict{Fraction: new(big.Rat), Text: fmt.Sprintf("the program takes at most %d bytes of %s", x.most, x.what)}
	used := -1
	if r.Program != nil {
		if used = r.Program.Flash; x.what == "ram" {
			used = r.Program.RAM
		}
	}
	if used < 0 {
		v.Outcome, v.Evidence = NotJudged, []string{"the file does not tell"}
		return v
	}
	v.Evidence = []string{fmt.Sprintf("%d bytes of %s", used, x.what)}
	if used <= x.most {
		v.Fraction.SetInt64(1)
	} else {
		v.First = &Difference{Expected: v.Text, Seen: v.Evidence[0]}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
