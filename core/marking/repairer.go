package marking

import (
	"context"
	"math/big"
	"slices"

	"hemble/core/bench"
	"hemble/core/clock"
	"hemble/core/diagnosis"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/core/source"
)

// Repairer runs a firmware on an exercise, perhaps changed, and judges what was seen by the exercise as it is: see
// diagnosis.Repairer.
type Repairer struct {
	exercise  *exercise.Exercise
	image     *firmware.Image
	source    *source.Program // that it was built from; nil where nobody knows
	reference bool
	replays   map[int]*bench.Replay // of each trial that one was asked for
}

// NewRepairer reads the contents of a firmware file.
func NewRepairer(x *exercise.Exercise, file []byte) (*Repairer, error) {
	im, err := image(x, file)
	if err != nil {
		return nil, err
	}
	return &Repairer{exercise: x, image: im}, nil
}

// Score judges a reel of one trial.
func (m *Repairer) Score(trial int, r *reel.Reel) *big.Rat {
	o := outcome{reel: r}
	o.judge(&m.exercise.Trials[trial])
	return o.trial.Marks.Rat
}

// Marks gives the marks of each expectation of a trial.
func (m *Repairer) Marks(trial int, r *reel.Reel) (out []*big.Rat) {
	o := outcome{reel: r}
	o.judge(&m.exercise.Trials[trial])
	for _, v := range o.trial.Verdicts {
		out = append(out, v.Marks.Rat)
	}
	return out
}

// Run runs the firmware on a changed exercise, with an effort that it may take at most (see machine.Counters); 0 is
// any.
func (m *Repairer) Run(ctx context.Context, x *exercise.Exercise, trial int, effort int64) (*reel.Reel, error) {
	r, _, err := run(ctx, x, trial, m.image, bench.Options{Reference: m.reference, Effort: effort})
	return r, err
}

// Alterations runs the program as it is, and lists how it may have been meant in one place of what was carried out.
func (m *Repairer) Alterations(ctx context.Context, x *exercise.Exercise, trial int, hints machine.Hints) (*reel.Reel,
	[]machine.Alteration, error) {
	if m.image == nil || x.Chip == nil || x.Chip.Alterations == nil {
		return nil, nil, nil
	}
	b, err := bench.New(x, &x.Trials[trial], m.image, bench.Options{Reference: m.reference, Cover: true})
	if err != nil {
		return nil, nil, err
	}
	covered, ok := b.Covering()
	for _, at := range []clock.Time{hints.Quiet, hints.Since, hints.Until} {
		if err := b.Advance(ctx, at); err != nil {
			return nil, nil, err
		}
		if ok {
			covered.Anew()
		}
	}
	if err := b.Advance(ctx, x.Trials[trial].Length); err != nil {
		return nil, nil, err
	}
	r := b.Finish()
	if ok {
		hints.Reached = covered.Reached
	}
	if ok && hints.Since > 0 {
		const quiet, since = 1 << 1, 1 << 2
		hints.Recent = func(address uint32) bool { return covered.Rounds(address)&(quiet|since) == since }
	}
	list := x.Chip.Alterations(m.image, hints)
	hints.Compared = map[firmware.Line]bool{}
	for i := range list {
		if ok {
			list[i].Reached, _ = covered.Reached(list[i].Address)
		}
		if hints.Recent != nil && list[i].Table == "" {
			list[i].Recent = list[i].Recent || hints.Recent(list[i].Address)
		}
		if list[i].Slip == machine.Inclusive {
			hints.Compared[firmware.Line{File: list[i].Line.File, Line: list[i].Line.Line}] = true
		}
	}
	if m.source != nil {
		m.source.Weigh(list)
		list = append(m.source.Alterations(ctx, m.image, hints), list...)
	}
	if hints.Recent != nil {
		m.decides(hints.Recent, list)
	}
	if hints.By != nil {
		m.leads(x, *hints.By, list)
	}
	return r, list, nil
}

// decides marks the changes of what decides about something recent, which is on the next line: it may have been carried
// out all the time.
func (m *Repairer) decides(recent func(address uint32) bool, list []machine.Alteration) {
	lately := map[firmware.Line]bool{}
	for address, line := range m.image.Rows() {
		if recent(address) {
			lately[firmware.Line{File: line.File, Line: line.Line}] = true
		}
	}
	for i := range list {
		a := &list[i]
		if a.Line.File != "" && a.Table == "" {
			a.Recent = a.Recent || lately[firmware.Line{File: a.Line.File, Line: a.Line.Line + 1}]
		}
	}
}

// What leads to a place is on its line, and on those that it was called from, or so much before one of them.
const (
	linesBefore = 3
	bytesBefore = 16 // where nobody knows the lines
)

// leads marks the changes of what leads to a place of the program.
func (m *Repairer) leads(x *exercise.Exercise, by machine.Place, list []machine.Alteration) {
	chain := append([]uint32{by.PC}, x.Chip.ReturnAddresses(m.image, by.Stack[:])...)
	var lines []firmware.Line
	for _, at := range chain {
		for _, line := range m.image.Calls(at) {
			if !line.System {
				lines = append(lines, line)
			}
		}
	}
	for i := range list {
		a := &list[i]
		if a.Line.File != "" {
			a.Leads = slices.ContainsFunc(lines, func(l firmware.Line) bool {
				return l.File == a.Line.File && a.Line.Line <= l.Line && l.Line <= a.Line.Line+linesBefore
			})
		} else if a.Table == "" {
			a.Leads = slices.ContainsFunc(chain, func(at uint32) bool {
				return a.Address <= at && at <= a.Address+bytesBefore
			})
		}
	}
}

// Attempt runs the firmware like Run, up to the first point at which displays show something else: see
// diagnosis.Repairer.
func (m *Repairer) Attempt(ctx context.Context, x *exercise.Exercise, trial int, effort int64,
	points []diagnosis.Point) (*reel.Reel, int64, error) {
	b, err := bench.New(x, &x.Trials[trial], m.image, bench.Options{Reference: m.reference, Effort: effort})
	if err != nil {
		return nil, 0, err
	}
	until := x.Trials[trial].Length
	for _, p := range points {
		if err := b.Advance(ctx, p.At); err != nil {
			return nil, 0, err
		}
		other := slices.ContainsFunc(b.Live(), func(t display.Track) bool {
			want, ok := p.States[t.Display]
			return ok && !t.Alike(want, t.Frames[0].State)
		})
		switch {
		case other && !p.Ends:
			return nil, b.Finish().Counters.Effort(), nil
		case !other && p.Ends:
			until = p.At
		}
	}
	if err := b.Advance(ctx, until); err != nil {
		return nil, 0, err
	}
	r := b.Finish()
	spent := r.Counters.Effort()
	if r.Stop != nil && r.Stop.Reason == machine.TooMuch {
		r = nil
	}
	return r, spent, nil
}

// Replay runs a changed bench by a replay of what the program did on the bench as it is: see diagnosis.Repairer. The
// first one of a trial records it; its counters tell that, too.
func (m *Repairer) Replay(ctx context.Context, x *exercise.Exercise, trial int) (r *reel.Reel, held bool, err error) {
	if m.image == nil || m.reference {
		return nil, false, nil
	}
	recorded := int64(0)
	tape := m.replays[trial]
	if tape == nil {
		tape = &bench.Replay{}
		r, _, err := run(ctx, m.exercise, trial, m.image, bench.Options{Record: tape})
		if err != nil {
			return nil, false, err
		}
		if m.replays == nil {
			m.replays = map[int]*bench.Replay{}
		}
		m.replays[trial], recorded = tape, r.Counters.Instructions
	}
	if !tape.Fits(x, &x.Trials[trial]) {
		return nil, false, nil
	}
	r, b, err := run(ctx, x, trial, m.image, bench.Options{Replay: tape})
	if err != nil {
		return nil, false, err
	}
	r.Counters.Instructions += recorded
	return r, b.Held(), nil
}

func run(ctx context.Context, x *exercise.Exercise, trial int, im *firmware.Image, o bench.Options) (*reel.Reel,
	*bench.Bench, error) {
	b, err := bench.New(x, &x.Trials[trial], im, o)
	if err != nil {
		return nil, nil, err
	}
	if err := b.Advance(ctx, x.Trials[trial].Length); err != nil {
		return nil, nil, err
	}
	return b.Finish(), b, nil
}

// advise finds the likely causes of lost marks.
func (k *Marker) advise(ctx context.Context, x *exercise.Exercise, im *firmware.Image, from *source.Program,
	s *sheet.Sheet, runs []*outcome) (diagnosis.Advice, error) {
	var seen []diagnosis.Seen
	for i, run := range runs {
		if stop := run.reel.Stop; stop != nil && stop.Reason == machine.TooMuch { // nobody saw how it goes on
			return diagnosis.Advice{}, nil
		}
		var verdicts []judge.Verdict
		for _, v := range s.Trials[i].Verdicts {
			verdicts = append(verdicts, v.Verdict)
		}
		seen = append(seen, diagnosis.Seen{Reel: run.reel, Verdicts: verdicts})
	}
	return diagnosis.Find(ctx, x, seen, &Repairer{exercise: x, image: im, source: from, reference: k.Reference})
}

// told puts findings on a sheet, with the source lines of an image.
func told(x *exercise.Exercise, im *firmware.Image, found []diagnosis.Finding) (out []sheet.Finding) {
	out = []sheet.Finding{}
	for _, f := range found {
		c := sheet.Finding{Code: f.Code, Text: f.Text, Trial: x.Trials[f.Trial].Name, At: f.At, Evidence: f.Evidence,
			Fidelity: string(f.Fidelity)}
		if f.Marks != nil {
			m := sheet.NewMarks(f.Marks).Round(x.Step)
			c.Repaired = &m
		}
		if c.Source = f.Line; c.Source == nil && f.By != nil {
			c.Source = sourceLine(x, im, *f.By)
		}
		out = append(out, c)
	}
	return out
}
