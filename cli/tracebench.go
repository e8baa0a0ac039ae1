package cli

import (
	"context"
	"fmt"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/core/bench"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/machine"
	"hemble/core/reel"
	"hemble/core/spec"
	"hemble/render"
)

// watchers hands everything on to several.
type watchers []bench.Watcher

func (w watchers) Net(name string, d circuit.Drive, contended bool) {
	for _, x := range w {
		x.Net(name, d, contended)
	}
}

func (w watchers) Light(display, light int, nA int64) {
	for _, x := range w {
		x.Light(display, light, nA)
	}
}

func (w watchers) Cell(display, cell int, value display.Cell) {
	for _, x := range w {
		x.Cell(display, cell, value)
	}
}

func (w watchers) Settled(t clock.Time, at machine.Place) {
	for _, x := range w {
		x.Settled(t, at)
	}
}

// tracedOn is what --format json writes of a run on a bench.
type tracedOn struct {
	Exercise string           `json:"exercise"`
	Trial    string           `json:"trial"`
	For      clock.Time       `json:"for"`
	Moments  []reel.Moment    `json:"moments,omitempty"`
	Log      []reel.Entry     `json:"log"`
	Stop     *machine.Stop    `json:"stop,omitempty"`
	Notes    []machine.Note   `json:"notes"`
	Counters machine.Counters `json:"counters"`
}

// traceOn runs a firmware on the bench of an exercise, as driven.
func traceOn(ctx context.Context, c *cli.Command) (err error) {
	x, err := readExercise(c.String("on"))
	if err != nil {
		return err
	}
	t, err := findTrial(x, c.String("trial"))
	if err != nil {
		return err
	}
	trial := *t
	if trial.Length, err = traceLength(c, t.Length); err != nil {
		return err
	}
	x, im, err := newSources(c).image(ctx, x, c.Args().First())
	if err != nil {
		return err
	}
	var all watchers
	var window *bench.Window
	if text := c.String("window"); text != "" {
		from, to, err := parseWindow(text, trial.Length)
		if err != nil {
			return err
		}
		window = bench.NewWindow(x.Parts, from, to)
		window.Place = func(p machine.Place) string {
			if line, ok := im.Own(p.PC, x.Chip.ReturnAddresses(im, p.Stack[:])); ok {
				return fmt.Sprintf("%s line %d", line.File, line.Line)
			}
			return x.Chip.Firmware.Address(p.PC)
		}
		all = append(all, window)
	}
	if name := c.String("vcd"); name != "" {
		f, err := os.Create(name)
		if err != nil {
			return err
		}
		defer f.Close()
		v := render.NewNetVCD(f, x.Name, x.Parts)
		all = append(all, v)
		defer func() {
			if e := v.Close(trial.Length); e != nil && err == nil {
				err = fmt.Errorf("%s: %w", name, e)
			}
		}()
	}
	b, err := bench.New(x, &trial, im, bench.Options{Watcher: all, Reference: c.Bool("reference")})
	if err != nil {
		return err
	}
	if err := b.Advance(ctx, trial.Length); err != nil {
		return err
	}
	r := b.Finish()
	return tellTraced(c, x, r, window)
}

func tellTraced(c *cli.Command, x *exercise.Exercise, r *reel.Reel, window *bench.Window) error {
	out := c.Root().Writer
	switch {
	case c.Bool("serial"):
		_, err := fmt.Fprint(out, r.Serial)
		return err
	case c.String("format") == "json":
		data := tracedOn{Exercise: x.Name, Trial: r.Trial, For: r.Length, Log: r.Log, Stop: r.Stop, Notes: r.Notes,
			Counters: r.Counters}
		if window != nil {
			data.Moments = window.Moments
		}
		return writeJSON(out, data)
	case window != nil:
		fmt.Fprintf(out, "%s on %s, %s: %s to %s\n", c.Args().First(), x.Name, r.Trial, window.From, window.To)
		return render.Window(out, styleFor(out), window)
	}
	fmt.Fprintf(out, "%s on %s, %s: ran %s, %d pin changes\n", c.Args().First(), x.Name, r.Trial, r.Length,
		r.Counters.Edges)
	fmt.Fprint(out, render.Log(styleFor(out), r))
	stop := machine.Stop{}
	if r.Stop != nil {
		stop = *r.Stop
	}
	tellNotes(out, stop, r.Notes)
	return nil
}

// findTrial gives a trial by name, the first one for none.
func findTrial(x *exercise.Exercise, name string) (*exercise.Trial, error) {
	var names []string
	for i := range x.Trials {
		if name == "" || x.Trials[i].Name == name {
			return &x.Trials[i], nil
		}
		names = append(names, x.Trials[i].Name)
	}
	return nil, misused("%s has no trial %q%s", x.Name, name, spec.Nearest(name, names))
}

// parseWindow reads FROM..TO.
func parseWindow(text string, length clock.Time) (from, to clock.Time, err error) {
	first, last, found := strings.Cut(text, "..")
	if from, err = clock.Parse(first); err == nil && found {
		to, err = clock.Parse(last)
	}
	switch {
	case err != nil:
		return 0, 0, misuse{err}
	case !found || to <= from || from >= length:
		return 0, 0, misused("%q is no stretch of this run (%s); write FROM..TO, such as 1.2s..1.203s", text,
			length.Short())
	}
	return from, to, nil
}
