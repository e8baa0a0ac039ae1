package render

import (
	"fmt"
	"strings"

	"hemble/core/diagnosis"
	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// Sheet writes a mark sheet with the film strips of its trials.
func Sheet(st Style, s *sheet.Sheet, reels []*reel.Reel) string {
	var b strings.Builder
	total := s.Marks.String() + " / " + s.Of.String()
	if s.Exact != nil {
		total = "rounded from " + s.Exact.String() + "   " + total
	}
	head(&b, st, s.Title+" · "+s.Firmware, total)
	b.WriteString(strings.Repeat("─", st.Width) + "\n")
	for _, v := range s.Values {
		b.WriteString(st.second(v.Name+" is "+v.Value+" for this student") + "\n")
	}
	if s.Failed != "" {
		b.WriteString(st.missed("✗ "+s.Failed) + "\n")
	}
	if len(s.Messages) > 0 {
		b.WriteString("\n" + st.title("About the file") + "\n" + Messages(st, s.Messages))
	}
	if s.Failed != "" {
		return b.String()
	}
	for i, t := range s.Trials {
		b.WriteString("\n")
		head(&b, st, t.Name+" ("+t.Length.Short()+")", t.Marks.String()+" / "+t.Of.String())
		var run *reel.Reel
		if i < len(reels) {
			run = reels[i]
		}
		trial(&b, st, t, run)
	}
	if len(s.ByHand)+len(s.Deducted) > 0 {
		b.WriteString("\n")
	}
	for _, row := range s.ByHand {
		head(&b, st, "by hand: "+row.What, "… / "+row.Of.String())
	}
	for _, d := range s.Deducted {
		b.WriteString(st.missed(d.Marks.String()+" taken off: "+d.Finding) + "\n")
	}
	if len(s.Findings) > 0 || s.CutOff {
		b.WriteString("\n" + st.title("What to know") + "\n")
		for _, f := range s.Findings {
			b.WriteString("  · " + f.Text + "\n")
			if f.Repaired != nil {
				b.WriteString("    " + st.met(fmt.Sprintf("With this repaired: %s of %s", f.Repaired, s.Of)) +
					st.second("  "+fidelity(f.Fidelity)) + "\n")
			}
			if f.Price != nil && f.Price.Sign() > 0 {
				b.WriteString("    " + st.second("One mistake: −"+f.Price.String()) + "\n")
			}
			detail := strings.Join(f.Evidence, ", ")
			if f.Source != nil {
				detail += fmt.Sprintf(", %s line %d", f.Source.File, f.Source.Line)
			}
			if detail != "" {
				b.WriteString("    " + st.second(f.Trial+": "+detail) + "\n")
			}
		}
	}
	if s.CutOff {
		b.WriteString("  · " + sheet.CutOffText + "\n")
	}
	return b.String()
}

// fidelity returns how a repair was tested.
func fidelity(f string) string {
	return map[string]string{string(diagnosis.OnReel): "judged again",
		string(diagnosis.OnReplay): "its pins played again",
		string(diagnosis.Rerun):    "run again"}[f]
}

func head(b *strings.Builder, st Style, left, right string) {
	b.WriteString(st.title(display.Fit(left, st.Width-len([]rune(right))-1)+" "+right) + "\n")
}

// Sign is the mark of an outcome in the margin.
func Sign(o judge.Outcome) string {
	switch o {
	case judge.Met:
		return "✓"
	case judge.Partly:
		return "≈"
	case judge.Missed:
		return "✗"
	}
	return "·"
}

func (st Style) outcome(o judge.Outcome, text string) string {
	switch o {
	case judge.Met:
		return st.met(text)
	case judge.Partly:
		return st.partly(text)
	case judge.Missed:
		return st.missed(text)
	}
	return st.second(text)
}

func trial(b *strings.Builder, st Style, t sheet.Trial, run *reel.Reel) {
	drawn := map[string]bool{}
	for _, v := range t.Verdicts {
		right := v.Marks.String() + " / " + v.Of.String()
		text := display.Fit(Sign(v.Outcome)+" "+v.Expectation, st.Width-4-len(right))
		b.WriteString("  " + st.outcome(v.Outcome, text) + "  " + right + "\n")
		if len(v.Evidence) > 0 {
			b.WriteString("    " + st.second(strings.Join(v.Evidence, "; ")) + "\n")
		}
		if once := v.Once(); once != "" {
			b.WriteString("    " + st.second(once) + "\n")
		}
		if f := v.First; f != nil {
			where := ""
			if v.Source != nil {
				where = fmt.Sprintf("  %s line %d", v.Source.File, v.Source.Line)
			} else if f.By != nil && f.By.PC != 0 {
				where = fmt.Sprintf("  program address 0x%04X", f.By.PC)
			}
			b.WriteString(fmt.Sprintf("    first difference at %s: expected %s, saw %s%s\n", f.At, f.Expected, f.Seen,
				st.second(where)))
		}
		if run == nil || !judge.IsSequence(v.Kind) {
			continue
		}
		if track := run.Track(v.Display); track != nil {
			for _, member := range track.Of { // it is drawn with the group
				drawn[member] = true
			}
			b.WriteString("\n" + scanned(st, track) + Strip(st, track, v.Alignment))
			drawn[v.Display] = true
		}
	}
	if run == nil {
		return
	}
	for i := range run.Tracks {
		if track := &run.Tracks[i]; !drawn[track.Display] && track.Of == nil {
			b.WriteString("\n  " + st.second(track.Display+", as seen") + "\n" + scanned(st, track) + Strip(st, track,
				nil))
		}
	}
}

// scanned returns how well a scanned display was driven.
func scanned(st Style, t *display.Track) string {
	q := t.Quality
	if q == nil {
		return ""
	}
	text := fmt.Sprintf("  scanned at %g Hz, the dimmest digit %d %% as bright as the brightest", q.Refresh, q.Evenness)
	if q.Ghost > 0 {
		text += fmt.Sprintf(", ghosts of %d %% of their pattern", q.Ghost)
	}
	return st.second(text) + "\n"
}

// Row is one line of a table of many submissions.
func Row(st Style, s *sheet.Sheet, nameWidth int) string {
	n := s.Count()
	what := fmt.Sprintf("met %d · partly %d · missed %d", n[judge.Met], n[judge.Partly], n[judge.Missed])
	if s.Failed != "" {
		what = s.Failed
	} else if first := s.First(); first != "" {
		what += "   " + first
	}
	sign, o := "✓", judge.Met
	switch {
	case s.Failed != "" || s.Marks.Sign() == 0:
		sign, o = "✗", judge.Missed
	case s.Marks.Cmp(s.Of.Rat) < 0:
		sign, o = "≈", judge.Partly
	}
	marks := fmt.Sprintf("%5s / %s", s.Marks, s.Of)
	return st.outcome(o, sign) + " " + display.Fit(s.Firmware, nameWidth) + " " + marks + "   " +
		strings.TrimRight(display.Fit(what, max(20, st.Width-nameWidth-len(marks)-6)), " ")
}

// Seeds returns how a submission fares under several seeds.
func Seeds(st Style, s *sheet.Sheet, l *marking.SeedSensitivity) string {
	text := fmt.Sprintf("%s passes %d of %d seeds", s.Firmware, l.Passed, len(l.Marks))
	if !l.Depends() {
		return st.second(text + "; the marks are the same under all of them")
	}
	var marks []string
	for _, m := range l.Marks {
		marks = append(marks, m.String())
	}
	return st.partly("≈ "+text) + ": the result depends on chance; marks " + strings.Join(marks, ", ")
}
