package sheet

import "slices"

// Viewer is who looks at a sheet.
type Viewer struct {
	Student  bool // else a person who marks
	Released bool // the marks are out, those of hidden trials too
	NoMarks  bool // verdicts may be seen, marks not yet
}

// For gives the sheet as a viewer may see it: the only way out of it. A student sees no notes for markers; of a hidden
// trial nothing before the marks are released, neither in totals, and its marks alone after that.
func (s *Sheet) For(v Viewer) *Sheet {
	if !v.Student {
		return s
	}
	out := *s
	out.Trials, out.Findings, out.ByHand = nil, []Finding{}, slices.Clone(s.ByHand)
	for i := range out.ByHand {
		out.ByHand[i].Notes = ""
	}
	hidden := map[string]bool{}
	for _, t := range s.Trials {
		t.Notes = ""
		if t.Hidden {
			hidden[t.Name] = true
			if !v.Released {
				out.Of = out.Of.Sub(t.Of)
				continue
			}
			t = Trial{Name: "hidden trial", Hidden: true, Marks: t.Marks, Of: t.Of, Verdicts: []Verdict{}}
		}
		t.Verdicts = slices.Clone(t.Verdicts)
		for i := range t.Verdicts {
			t.Verdicts[i].Notes = ""
		}
		out.Trials = append(out.Trials, t)
	}
	for _, f := range s.Findings {
		if hidden[f.Trial] {
			continue
		}
		if len(hidden) > 0 { // these marks are those of all trials
			f.Repaired = nil
			if f.Price != nil && !v.Released {
				f.Price = s.paid(f, hidden)
			}
			f.Paid = nil
		}
		out.Findings = append(out.Findings, f)
	}
	// exact marks here, rounded as a whole elsewhere, would tell what the hidden ones gave
	if len(hidden) > 0 && !v.Released {
		out.Marks, out.Exact = NewMarks(nil), nil
		for _, t := range out.Trials {
			out.Marks = out.Marks.Add(t.Marks)
		}
		out.Given, out.Deducted = nil, nil
		for i := range out.ByHand {
			out.ByHand[i].Given = nil
		}
	}
	if v.NoMarks {
		out.withoutMarks()
	}
	return &out
}

// withoutMarks leaves every mark out, and what would tell of one.
func (s *Sheet) withoutMarks() {
	none := NewMarks(nil)
	s.Marks, s.Exact, s.Given, s.Deducted, s.Unmarked = none, nil, nil, nil, true
	for i := range s.Trials {
		t := &s.Trials[i]
		t.Marks = none
		for k := range t.Verdicts {
			t.Verdicts[k].Marks, t.Verdicts[k].Plain, t.Verdicts[k].Given = none, nil, nil
		}
	}
	for i := range s.ByHand {
		s.ByHand[i].Given = nil
	}
	for i := range s.Findings {
		s.Findings[i].Repaired, s.Findings[i].Price, s.Findings[i].Paid = nil, nil, nil
	}
}

// paid is what a mistake costs in the trials that are not hidden.
func (s *Sheet) paid(f Finding, hidden map[string]bool) *Marks {
	sum := NewMarks(nil)
	for i, p := range f.Paid {
		if i < len(s.Trials) && !hidden[s.Trials[i].Name] {
			sum = sum.Add(p)
		}
	}
	return &sum
}
