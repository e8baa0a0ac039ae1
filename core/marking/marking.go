// Package marking takes one submission from firmware to mark sheet: it runs every trial, judges
// what was seen, and adds up the marks.
package marking

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"math/big"

	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// Engine names what decides about results. It changes whenever the same inputs could give another
// reel or other marks.
const Engine = "2"

// Result is a marked submission.
type Result struct {
	Sheet *sheet.Sheet
	Reels []*reel.Reel // one for each trial that ran
}

// Mark marks the contents of one firmware file. Whatever is wrong with the file is on the sheet; an
// error means that ctx was cancelled.
func Mark(ctx context.Context, x *exercise.Exercise, name string, file []byte) (*Result, error) {
	r := &Result{Sheet: empty(x, name)}
	s := r.Sheet
	im, err := image(x, file)
	if err != nil {
		fail(s, "firmware", "The file could not be put on the chip: "+err.Error(), err.Error())
		return r, nil
	}
	if im != nil {
		sum := im.Hash()
		s.Image = hex.EncodeToString(sum[:8])
	}
	for i := range x.Trials {
		run, err := bench.Run(ctx, x, &x.Trials[i], im)
		if err != nil {
			return nil, err
		}
		r.Reels = append(r.Reels, run)
		s.Trials = append(s.Trials, judgeTrial(x, &x.Trials[i], run, im))
		s.Findings = append(s.Findings, findings(x, run, im)...)
		s.Marks = s.Marks.Add(s.Trials[i].Marks)
	}
	s.Marks = s.Marks.Round(x.Step)
	return r, nil
}

func empty(x *exercise.Exercise, name string) *sheet.Sheet {
	return &sheet.Sheet{Exercise: x.Name, Title: x.Title, Firmware: name, Of: sheet.NewMarks(x.Marks()), Engine: Engine, Findings: []sheet.Finding{}, Trials: []sheet.Trial{}}
}

func fail(s *sheet.Sheet, code, text, why string) {
	s.Failed = why
	s.Marks = sheet.NewMarks(nil)
	s.Findings = append(s.Findings, sheet.Finding{Code: code, Text: text, Evidence: []string{}})
}

// Unbuilt is the result of a source that did not compile, with the compiler's messages.
func Unbuilt(x *exercise.Exercise, name, why string, messages []sheet.Message) *Result {
	s := empty(x, name)
	fail(s, "build", why, why)
	s.Messages = messages
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
	im, err := firmware.Read(file)
	if err != nil {
		return nil, err
	}
	return im, x.Chip.New(machine.Config{Clock: x.Clock}).Load(im)
}

func judgeTrial(x *exercise.Exercise, t *exercise.Trial, run *reel.Reel, im *firmware.Image) sheet.Trial {
	out := sheet.Trial{Name: t.Name, Length: t.Length, Stop: run.Stop, Marks: sheet.NewMarks(nil), Of: sheet.NewMarks(nil)}
	for _, e := range t.Expect {
		v := sheet.Verdict{Kind: e.Kind, Line: e.Line, Of: sheet.NewMarks(e.Marks), Verdict: e.Judge(run)}
		v.Expectation = v.Text
		v.Marks = sheet.NewMarks(new(big.Rat).Mul(e.Marks, v.Share))
		if v.First != nil && v.First.By != nil {
			v.Source = source(x, im, *v.First.By)
		}
		out.Marks = out.Marks.Add(v.Marks)
		out.Of = out.Of.Add(v.Of)
		out.Verdicts = append(out.Verdicts, v)
	}
	return out
}

// source is the line of the author's own program that is behind a program point.
func source(x *exercise.Exercise, im *firmware.Image, p machine.Place) *firmware.Line {
	if im == nil {
		return nil
	}
	if line, ok := im.Own(p.PC, x.Chip.Callers(im, p.Stack[:])); ok {
		return &line
	}
	return nil
}

// findings tells what the run itself reported: why it ended, and what the chip and the parts noted.
func findings(x *exercise.Exercise, run *reel.Reel, im *firmware.Image) (out []sheet.Finding) {
	add := func(code, text string, n machine.Note) {
		out = append(out, sheet.Finding{Code: code, Text: text, Trial: run.Trial, At: n.At, Source: source(x, im, machine.Place{PC: n.PC}),
			Evidence: []string{fmt.Sprintf("at %s, program address 0x%04X", n.At, n.PC)}})
	}
	if s := run.Stop; s != nil {
		text := "The program stopped: " + s.Text
		if s.Reason == machine.Asleep {
			text = "The chip fell asleep for good: " + s.Text
		}
		add(string(s.Reason), text, machine.Note{At: s.At, PC: s.PC})
	}
	for _, n := range run.Notes {
		add(n.Code, n.Text, n)
	}
	still := true
	for _, t := range run.Tracks {
		still = still && len(t.Frames) <= 1
	}
	if still && run.Counters.Edges == 0 && im != nil {
		out = append(out, sheet.Finding{Code: "nothing-happened", Text: "The program never changed anything on the bench: no wired pin was ever switched.", Trial: run.Trial, Evidence: []string{}})
	}
	return out
}
