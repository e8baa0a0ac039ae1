package judge

import (
	"fmt"
	"math/big"

	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "writes",
		Free: true,
		Doc:  "The program writes a limited number of bytes to EEPROM in the trial, counting every time a byte is programmed: values should be stored when they change, not over and over, which wears the memory out.",
		Fields: []spec.Field{
			{Name: "at-most", Was: "most", Kind: spec.Int, Min: 0, Max: 1 << 20, Required: true,
				Doc: "the most bytes it may write"},
			{Name: "at-least", Was: "least", Kind: spec.Int, Min: 0, Max: 1 << 20, Default: "0",
				Doc: "how many bytes it must write"},
		},
		Example: "{writes: eeprom, at-least: 1, at-most: 8, marks: 1}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			if what := v.Text("writes"); what != "eeprom" {
				ps.Add(v.At("writes"), "%q is no memory that a program writes; it can be eeprom", what)
			}
			if v.Int("at-least") > v.Int("at-most") {
				ps.Add(v.At("at-least"), "at least %d and at most %d: no program can do both", v.Int("at-least"),
					v.Int("at-most"))
			}
			return writes{v.Int("at-least"), v.Int("at-most")}
		},
	})
}

type writes struct{ least, most int64 }

// Judge goes by the chip's count.
func (x writes) Judge(r *reel.Reel) Verdict {
	v := Verdict{Fraction: new(big.Rat), Text: fmt.Sprintf("the program writes at most %d bytes of EEPROM", x.most)}
	if x.least > 0 {
		v.Text = fmt.Sprintf("the program writes %d to %d bytes of EEPROM", x.least, x.most)
	}
	if r.Program == nil {
		v.Outcome, v.Evidence = NotJudged, []string{"there is no program"}
		return v
	}
	n := r.Counters.Writes
	v.Evidence = []string{fmt.Sprintf("%d bytes written", n)}
	if x.least <= n && n <= x.most {
		v.Fraction.SetInt64(1)
	} else {
		v.First = &Difference{Expected: v.Text, Seen: v.Evidence[0]}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
