// Package sheet is the mark sheet: all verdicts and findings of one submission.
package sheet

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
)

// Sheet is the mark sheet of one submission.
type Sheet struct {
	Exercise string      `json:"exercise"`
	Title    string      `json:"title"`
	Firmware string      `json:"firmware"` // the file's name
	Image    string      `json:"image"`    // what identifies the programmed bytes
	Marks    Marks       `json:"marks"`
	Of       Marks       `json:"of"`
	Exact    *Marks      `json:"exact,omitempty"`    // what Marks was rounded from, where that is another number
	Failed   string      `json:"failed,omitempty"`   // why nothing could be run
	Messages []Message   `json:"messages,omitempty"` // of the compiler, where source was submitted
	Trials   []Trial     `json:"trials"`
	Findings []Finding   `json:"findings"`
	CutOff   bool        `json:"cut_off,omitempty"` // not every cause was tried of what is lost: see CutOffText
	ByHand   []ByHand    `json:"by_hand,omitempty"` // rows that a person marks; not in Marks yet
	Deducted []Deduction `json:"deducted,omitempty"`
	Values   []Value     `json:"values,omitempty"`   // what varies, as it is for this student
	Given    *Given      `json:"given,omitempty"`    // for the whole, in place of what it adds up to
	Unmarked bool        `json:"unmarked,omitempty"` // its viewer may not see marks yet: they are left out
	Engine   string      `json:"engine"`
	Times    string      `json:"times,omitempty"` // the unit of all times: clock.Unit
}

// CutOffText is what a sheet says where the search for causes ended at its limit, with something unexplained.
const CutOffText = "Not every possible cause was tried: the search ended at its limit. A person should look at what was lost."

// ByHand is a row that a person marks.
type ByHand struct {
	What  string `json:"what"`
	Of    Marks  `json:"of"`
	Notes string `json:"notes,omitempty"` // for markers
	Given *Given `json:"given,omitempty"` // nil until a person marked it
}

// Given is marks that a person gave.
type Given struct {
	Marks  Marks  `json:"marks"`
	Reason string `json:"reason"`
	By     string `json:"by"`
}

// Deduction is what a finding cost.
type Deduction struct {
	Finding string `json:"finding"`
	Marks   Marks  `json:"marks"`
}

// Value is a value that varies from student to student.
type Value struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Trial is one run, judged.
type Trial struct {
	Name     string        `json:"name"`
	Length   clock.Time    `json:"length"`
	Marks    Marks         `json:"marks"`
	Of       Marks         `json:"of"`
	Verdicts []Verdict     `json:"verdicts"`
	Stop     *machine.Stop `json:"stop,omitempty"`
	Hidden   bool          `json:"hidden,omitempty"` // from students
	Notes    string        `json:"notes,omitempty"`  // for markers
}

// Verdict is an expectation with its marks. Marks are exact here; only the sheet's total is
// rounded.
type Verdict struct {
	Expectation string `json:"expectation"`
	Kind        string `json:"kind"`
	Sequence    bool   `json:"sequence,omitempty"` // its lanes lay frames beside frames
	Line        int    `json:"line"`               // of the exercise file
	Marks       Marks  `json:"marks"`
	Plain       *Marks `json:"plain,omitempty"` // by what was seen alone, where a mistake's price changed that
	Of          Marks  `json:"of"`
	Bonus       bool   `json:"bonus,omitempty"`  // on top of the full marks
	Gate        bool   `json:"gate,omitempty"`   // not met, the trial gives nothing
	Notes       string `json:"notes,omitempty"`  // for markers
	Opened      bool   `json:"opened,omitempty"` // of a gate: met where the mistakes that are priced are repaired
	judge.Verdict
	Source *firmware.Line `json:"source,omitempty"` // of the first difference
	Given  *Given         `json:"given,omitempty"`  // by a person: its marks are in Marks
}

// Finding is something a person should know of this submission, with its evidence.
type Finding struct {
	Code     finding.Code   `json:"code"`
	Text     string         `json:"text"`
	Trial    string         `json:"trial"`
	At       clock.Time     `json:"at"`
	Evidence []string       `json:"evidence"`
	Repaired *Marks         `json:"repaired,omitempty"` // the marks of the sheet with this one thing repaired
	Price    *Marks         `json:"price,omitempty"`    // what this one mistake costs, of all that it touched
	Paid     []Marks        `json:"paid,omitempty"`     // that, trial by trial
	Fidelity string         `json:"fidelity,omitempty"` // how that was found: on the reel, or by running again
	Source   *firmware.Line `json:"source,omitempty"`
}

// Count returns how many verdicts came out as each outcome.
func (s *Sheet) Count() map[judge.Outcome]int {
	n := map[judge.Outcome]int{}
	for _, t := range s.Trials {
		for _, v := range t.Verdicts {
			n[v.Outcome]++
		}
	}
	return n
}

// Marks is an exact number of marks.
type Marks struct{ *big.Rat }

// Once says how marks come about that are not those of what was seen alone; "" where they are.
func (v *Verdict) Once() string {
	switch {
	case v.Plain == nil || v.Given != nil || v.Plain.Cmp(v.Marks.Rat) == 0:
		return ""
	case v.Plain.Cmp(v.Marks.Rat) < 0:
		return fmt.Sprintf("%s for what was seen; %s because the mistake counts once", v.Plain, v.Marks)
	}
	return fmt.Sprintf("%s for what was seen; %s, since a mistake costs at least its share", v.Plain, v.Marks)
}

// NewMarks makes marks from a rational; nil counts as none.
func NewMarks(r *big.Rat) Marks {
	if r == nil {
		r = new(big.Rat)
	}
	return Marks{r}
}

// Add gives the sum.
func (m Marks) Add(o Marks) Marks {
	return Marks{new(big.Rat).Add(NewMarks(m.Rat).Rat, NewMarks(o.Rat).Rat)}
}

// Sub gives the difference.
func (m Marks) Sub(o Marks) Marks {
	return Marks{new(big.Rat).Sub(NewMarks(m.Rat).Rat, NewMarks(o.Rat).Rat)}
}

// Round gives the multiple of step that is nearest, half up.
func (m Marks) Round(step *big.Rat) Marks {
	q := new(big.Rat).Quo(NewMarks(m.Rat).Rat, step)
	q.Add(q, big.NewRat(1, 2))
	n := new(big.Int).Div(q.Num(), q.Denom()) // floor
	return Marks{new(big.Rat).Mul(new(big.Rat).SetInt(n), step)}
}

// String writes marks with as many decimals as they need, at most three.
func (m Marks) String() string {
	s := NewMarks(m.Rat).FloatString(3)
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".")
}

// Decimals of marks in JSON: what does not end within the first few is written with that many that its fraction can be
// told from them, for denominators up to 10^8.
const (
	fewDecimals  = 6
	manyDecimals = 18
)

// MarshalJSON writes a number with as many decimals as it needs.
func (m Marks) MarshalJSON() ([]byte, error) {
	r := NewMarks(m.Rat)
	s := r.FloatString(fewDecimals)
	if short, ok := new(big.Rat).SetString(s); !ok || short.Cmp(r.Rat) != 0 {
		return []byte(r.FloatString(manyDecimals)), nil
	}
	return []byte(strings.TrimSuffix(strings.TrimRight(s, "0"), ".")), nil
}

// UnmarshalJSON reads a number as exactly as MarshalJSON was given it.
func (m *Marks) UnmarshalJSON(text []byte) error {
	var n json.Number
	if err := json.Unmarshal(text, &n); err != nil {
		return err
	}
	m.Rat = new(big.Rat)
	if _, ok := m.Rat.SetString(n.String()); !ok {
		return &json.UnsupportedValueError{Str: n.String()}
	}
	if _, decimals, _ := strings.Cut(n.String(), "."); len(decimals) >= manyDecimals {
		m.Rat = simplest(m.Rat)
	}
	return nil
}

// simplest gives the fraction with the smallest denominator that is written the same: one of the convergents of the
// number's continued fraction (Legendre: whatever is closer than 1/2q² is among them).
func simplest(x *big.Rat) *big.Rat {
	tolerance := new(big.Rat).SetFrac(big.NewInt(1), new(big.Int).Exp(big.NewInt(10), big.NewInt(manyDecimals), nil))
	p0, q0, p1, q1 := big.NewInt(0), big.NewInt(1), big.NewInt(1), big.NewInt(0)
	rest := new(big.Rat).Set(x)
	for {
		whole := new(big.Int).Div(rest.Num(), rest.Denom())
		p0, p1 = p1, new(big.Int).Add(new(big.Int).Mul(whole, p1), p0)
		q0, q1 = q1, new(big.Int).Add(new(big.Int).Mul(whole, q1), q0)
		found := new(big.Rat).SetFrac(p1, q1)
		off := new(big.Rat).Sub(found, x)
		rest.Sub(rest, new(big.Rat).SetInt(whole))
		if off.Abs(off).Cmp(tolerance) < 0 || rest.Sign() == 0 {
			return found
		}
		rest.Inv(rest)
	}
}

// First tells in a few words what went wrong: the cause where one was found by repairing it, else where a submission
// first differs; "" where nothing went wrong.
func (s *Sheet) First() string {
	if s.Failed != "" {
		return s.Failed
	}
	if len(s.Findings) > 0 && s.Findings[0].Repaired != nil {
		return s.Findings[0].Text
	}
	for _, t := range s.Trials {
		if t.Stop != nil {
			return t.Stop.Text
		}
		for _, v := range t.Verdicts {
			if v.First != nil {
				return fmt.Sprintf("%s %s: %s → %s", v.Display, v.First.At, v.First.Expected, v.First.Seen)
			}
		}
	}
	return ""
}
