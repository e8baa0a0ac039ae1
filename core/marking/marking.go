// Package marking takes one submission from firmware to mark sheet: it runs every trial, judges what was seen, and
// adds up the marks.
package marking

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/core/source"
)

// Engine names what decides about results. It changes whenever the same inputs could give another
// reel or other marks.
const Engine = "8"

// Result is a marked submission.
type Result struct {
	Sheet *sheet.Sheet
	Reels []*reel.Reel // one for each trial that ran
}

// Mark marks the contents of one firmware file, and keeps its reels. Whatever is wrong with the file is on the
// sheet; an error means that ctx was cancelled.
func Mark(ctx context.Context, x *exercise.Exercise, name string, file []byte) (*Result, error) {
	return (&Marker{Reels: true}).Mark(ctx, x, name, file)
}

// Marker marks many submissions; a run that was made before is not made again. The zero one is ready, and may be used
// by many at a time.
type Marker struct {
	Reels     bool // keep what the displays showed
	Reference bool // by the reference interpreter

	runs runs
}

// Mark marks the contents of one firmware file.
func (k *Marker) Mark(ctx context.Context, x *exercise.Exercise, name string, file []byte) (*Result, error) {
	return k.MarkWork(ctx, x, Work{Name: name, File: file})
}

// Work is a piece of work to be marked.
type Work struct {
	Name   string
	File   []byte             // the contents of a firmware file
	Source *source.Program    // that it was built from; nil where it was handed in built
	Told   func(done, of int) // hears how many of the trials are done; nil where nobody does
}

// MarkWork is Mark for what more may be known of a firmware than its file.
func (k *Marker) MarkWork(ctx context.Context, x *exercise.Exercise, w Work) (*Result, error) {
	x = x.For(w.File)
	r := &Result{Sheet: empty(x, w.Name)}
	s := r.Sheet
	im, err := image(x, w.File)
	if err != nil {
		fail(s, Firmware, "The file could not be put on the chip: "+err.Error(), err.Error())
		return r, nil
	}
	var sum [32]byte
	var dataEnd uint32
	if im != nil {
		sum = im.Hash()
		dataEnd, _ = im.DataEnd()
		s.Image = hex.EncodeToString(sum[:8])
		if im.Note != "" {
			s.Messages = append(s.Messages, sheet.Message{Kind: "note", Text: im.Note})
		}
		if which := x.OnChip(); which != "" {
			s.Messages = append(s.Messages, sheet.Message{Kind: "note", Text: which})
		}
		if says := x.Chip.SaysOf(im).Tell(x.Chip); says != "" {
			s.Messages = append(s.Messages, sheet.Message{Kind: "note", Text: "the file says of itself: " + says})
		}
	}
	key := runKey{image: sum, exercise: x.Hash, dataEnd: dataEnd, plain: k.Reference}
	k.runs.start()
	causes := key // they are told in the words of the source
	causes.source = w.Source.Hash()
	advice, known := k.runs.advised.Get(causes)
	var made []*outcome
	var alive []map[string]bool
	for i := range x.Trials {
		if w.Told != nil {
			w.Told(i, len(x.Trials))
		}
		run, err := k.runs.get(ctx, key.of(i), k.Reels || !known, func() (*outcome, error) {
			return k.run(ctx, x, i, im)
		})
		if err != nil {
			return nil, err
		}
		trial, reported := run.located(x, im)
		if k.Reels {
			r.Reels = append(r.Reels, run.reel)
		}
		made = append(made, run)
		s.Trials = append(s.Trials, trial)
		s.Findings = append(s.Findings, reported...)
		alive = append(alive, run.alive)
	}
	neverAlive(x, s, alive)
	if !known {
		if advice, err = k.advise(ctx, x, im, w.Source, s, made); err != nil {
			return nil, err
		}
		k.runs.advised.Add(causes, advice)
	}
	found := explained(x, advice.Findings, s.Findings)
	s.CutOff = advice.CutOff
	s.Findings = joined(told(x, im, found), once(x, uncured(x, s.Findings, found)))
	price(x, s, found)
	credit(x, s)
	return r, nil
}

// explained leaves out causes that would explain what an exception had for its consequence: all where it ended the
// program, those that show from then on where it ended a thread.
func explained(x *exercise.Exercise, found []diagnosis.Finding, told []sheet.Finding) []diagnosis.Finding {
	return slices.DeleteFunc(slices.Clone(found), func(d diagnosis.Finding) bool {
		return slices.ContainsFunc(told, func(f sheet.Finding) bool {
			follows := f.Code == finding.Code(machine.Exception) || f.Code == machine.ThreadException &&
				f.Trial == x.Trials[d.Trial].Name && f.At <= d.At
			return follows && !(d.Tested && slices.Contains(d.Cured, string(f.Code)))
		})
	})
}

// joined puts what runs noted behind the causes, and in the place of a sign that is about the same: it knows where. A
// fact, as a pin that reads 0 whatever is at it, comes before what is only told by displays.
func joined(causes, noted []sheet.Finding) []sheet.Finding {
	for i, c := range causes {
		same := slices.IndexFunc(noted, func(f sheet.Finding) bool { return f.Code == c.Code })
		if same >= 0 && c.Repaired == nil {
			causes[i] = noted[same]
			noted = slices.Delete(noted, same, same+1)
		}
	}
	first := slices.IndexFunc(causes, func(c sheet.Finding) bool { return c.Repaired == nil })
	if first < 0 {
		first = len(causes)
	}
	var facts, others []sheet.Finding
	for _, f := range noted {
		of := finding.Of(f.Code)
		same := slices.IndexFunc(facts, func(g sheet.Finding) bool { return finding.Of(g.Code).Code == of.Code })
		switch {
		case !of.Fact:
			others = append(others, f)
		case same < 0:
			facts = append(facts, f)
		default: // of another pin: one thing to mend
			facts[same].Evidence = append(slices.Clone(facts[same].Evidence),
				"the same of "+strings.TrimPrefix(string(f.Code), string(of.Code)+"-"))
		}
	}
	return append([]sheet.Finding{}, slices.Concat(causes[:first], facts, causes[first:], others)...) // none is no null
}

// uncured leaves out what runs noted because of a mistake that is told, but what the exercise takes marks off for.
func uncured(x *exercise.Exercise, findings []sheet.Finding, found []diagnosis.Finding) []sheet.Finding {
	return slices.DeleteFunc(slices.Clone(findings), func(f sheet.Finding) bool {
		return !slices.ContainsFunc(x.Deductions, func(d exercise.Deduction) bool {
			return finding.Family(string(f.Code), string(d.Finding))
		}) && slices.ContainsFunc(found, func(d diagnosis.Finding) bool {
			return d.Tested && (slices.Contains(d.Cured, string(f.Code)) || f.Code == "nothing-happened")
		})
	})
}

// once returns what several trials reported alike a single time, where it came first, with the others as evidence. What
// hidden trials reported stays apart.
func once(x *exercise.Exercise, findings []sheet.Finding) []sheet.Finding {
	hidden := map[string]bool{}
	for _, t := range x.Trials {
		hidden[t.Name] = t.Hidden
	}
	type cause struct {
		code   finding.Code
		hidden bool
	}
	at := map[cause]int{}
	out := []sheet.Finding{}
	for _, f := range findings {
		key := cause{f.Code, hidden[f.Trial]}
		first, told := at[key]
		switch {
		case !told:
			at[key] = len(out)
			out = append(out, f)
		case out[first].Trial != f.Trial:
			out[first].Evidence = append(slices.Clone(out[first].Evidence),
				fmt.Sprintf("also in the trial %q, at %s", f.Trial, f.At))
		default:
			out = append(out, f)
		}
	}
	return out
}

// Rejudge marks what a firmware showed before, by an exercise with the same bench, trials and cues, without running it:
// reels has one of each trial. Causes of lost marks are not sought; Causal reports whether marks depend on them.
func Rejudge(x *exercise.Exercise, name string, reels []*reel.Reel) *sheet.Sheet {
	s := empty(x, name)
	var alive []map[string]bool
	for i := range x.Trials {
		run := &outcome{reel: reels[i]}
		run.judge(&x.Trials[i])
		run.tell(x.Chip)
		s.Trials = append(s.Trials, run.trial)
		s.Findings = append(s.Findings, run.findings...)
		alive = append(alive, run.alive)
	}
	neverAlive(x, s, alive)
	s.Findings = once(x, s.Findings)
	credit(x, s)
	return s
}

// Causal reports whether the marks of an exercise depend on the causes that are found.
func Causal(x *exercise.Exercise) bool { return !x.Each || len(x.Deductions) > 0 }

func empty(x *exercise.Exercise, name string) *sheet.Sheet {
	s := &sheet.Sheet{Exercise: x.Name, Title: x.Title, Firmware: name, Of: sheet.NewMarks(x.Marks()), Engine: Engine,
		Times: clock.Unit, Findings: []sheet.Finding{}, Trials: []sheet.Trial{}}
	for _, row := range x.ByHand {
		s.ByHand = append(s.ByHand, sheet.ByHand{What: row.What, Of: sheet.NewMarks(row.Marks), Notes: row.Notes})
	}
	for _, v := range x.Varied {
		s.Values = append(s.Values, sheet.Value{Name: v.Name, Value: v.Value})
	}
	return s
}

func fail(s *sheet.Sheet, code finding.Code, text, why string) {
	s.Failed = why
	s.Marks = sheet.NewMarks(nil)
	s.Findings = append(s.Findings, sheet.Finding{Code: code, Text: text, Evidence: []string{}})
}

// Unbuilt is the result of a source that did not compile, with the compiler's messages.
func Unbuilt(x *exercise.Exercise, name, why string, messages []sheet.Message) *Result {
	s := empty(x, name)
	fail(s, Build, why, why)
	s.Messages = messages
	return &Result{Sheet: s}
}

// Stopped is the result of work whose marking was stopped, for a reason.
func Stopped(x *exercise.Exercise, name, why string) *Result {
	s := empty(x, name)
	fail(s, Effort, why, why)
	return &Result{Sheet: s}
}

// image reads a firmware and tries it on a chip of the exercise's kind. A bench without a chip takes none.
func image(x *exercise.Exercise, file []byte) (*firmware.Image, error) {
	if x.Chip == nil {
		if len(file) > 0 {
			return nil, errors.New("this bench has no chip that a firmware could run on")
		}
		return nil, nil
	}
	im, err := firmware.Read(file, x.Chip.Firmware)
	if err != nil {
		return nil, err
	}
	return im, x.Chip.Takes(im, x.Clock)
}

// run makes one run and judges it.
func (k *Marker) run(ctx context.Context, x *exercise.Exercise, trial int, im *firmware.Image) (*outcome, error) {
	r, err := (&Repairer{exercise: x, image: im, reference: k.Reference}).Run(ctx, x, trial, 0)
	if err != nil {
		return nil, err
	}
	o := &outcome{reel: r}
	o.judge(&x.Trials[trial])
	o.tell(x.Chip)
	return o, nil
}

// outcome is a run, judged. It does not know the program's source: the same bytes may come from several.
type outcome struct {
	trial    sheet.Trial
	findings []sheet.Finding
	places   []machine.Place // of the findings
	reel     *reel.Reel      // nil where it is not kept
	alive    map[string]bool // displays that were asked to show something, with whether they did
}

func (o *outcome) judge(t *exercise.Trial) {
	o.trial = sheet.Trial{Name: t.Name, Hidden: t.Hidden, Notes: t.Notes, Length: t.Length, Stop: o.reel.Stop,
		Marks: sheet.NewMarks(nil), Of: sheet.NewMarks(nil)}
	var judged []judge.Verdict
	for _, e := range t.Expect {
		judged = append(judged, e.Judge(o.reel))
	}
	o.alive = neverLit(o.reel, judged)
	for i, e := range t.Expect {
		v := sheet.Verdict{Kind: e.Kind, Sequence: judge.IsSequence(e.Kind), Line: e.Line, Of: sheet.NewMarks(e.Marks),
			Bonus: e.Bonus, Gate: e.Gate, Notes: e.Notes, Verdict: judged[i]}
		v.Expectation = v.Text
		v.Marks = sheet.NewMarks(new(big.Rat).Mul(e.Marks, v.Fraction))
		if !e.Bonus {
			o.trial.Of = o.trial.Of.Add(v.Of)
		}
		o.trial.Verdicts = append(o.trial.Verdicts, v)
	}
	o.trial.Marks = trialMarks(t, o.trial.Verdicts)
}

// tell returns what the run itself reported: why it ended, and what the chip, nil where there is none, and the parts
// noted.
func (o *outcome) tell(chip *machine.Chip) {
	add := func(code finding.Code, text string, n machine.Note) {
		evidence := fmt.Sprintf("at %s", n.At)
		if chip != nil {
			if address := chip.Firmware.Address(n.PC); address != "" {
				evidence += ", program address " + address
			}
		}
		o.findings = append(o.findings, sheet.Finding{Code: code, Text: text, Trial: o.reel.Trial, At: n.At,
			Evidence: []string{evidence}})
		o.places = append(o.places, machine.Place{PC: n.PC})
	}
	if s := o.reel.Stop; s != nil {
		text := "The program stopped: " + s.Text
		switch s.Reason {
		case machine.Asleep:
			text = "The chip fell asleep for good: " + s.Text
		case machine.TooMuch:
			text = "It was not followed to the end, and must be marked by hand: " + s.Text
		}
		add(finding.Code(s.Reason), text, machine.Note{At: s.At, PC: s.PC})
	}
	for _, n := range o.reel.Notes {
		if !wired(chip, n.Code) {
			add(finding.Code(n.Code), n.Text, n)
		}
	}
	still := true
	for _, t := range o.reel.Tracks {
		still = still && len(t.Frames) <= 1
	}
	if still && o.reel.Counters.Edges == 0 && chip != nil {
		o.findings = append(o.findings,
			sheet.Finding{Code: "nothing-happened",
				Text:  "The program never changed anything on the bench: no wired pin was ever switched.",
				Trial: o.reel.Trial, Evidence: []string{}})
	}
}

// wired reports whether a note tells of too much current at one pin. That comes of the bench, as its author is told by
// `check`: nobody's program can help it.
func wired(chip *machine.Chip, code string) bool {
	name, ok := strings.CutPrefix(code, "current-")
	if !ok || chip == nil {
		return false
	}
	_, pin := chip.Pin(name)
	return pin
}

// located gives trial and findings with the source lines of an image.
func (o *outcome) located(x *exercise.Exercise, im *firmware.Image) (sheet.Trial, []sheet.Finding) {
	trial := o.trial
	trial.Verdicts = slices.Clone(o.trial.Verdicts)
	for i := range trial.Verdicts {
		if first := trial.Verdicts[i].First; first != nil && first.By != nil {
			trial.Verdicts[i].Source = sourceLine(x, im, *first.By)
		}
	}
	found := slices.Clone(o.findings)
	for i := range o.places {
		found[i].Source = sourceLine(x, im, o.places[i])
	}
	return trial, found
}

// sourceLine is the line of the author's own program that is behind a program point.
func sourceLine(x *exercise.Exercise, im *firmware.Image, p machine.Place) *firmware.Line {
	if im == nil {
		return nil
	}
	if line, ok := im.Own(p.PC, x.Chip.ReturnAddresses(im, p.Stack[:])); ok {
		return &line
	}
	return nil
}
