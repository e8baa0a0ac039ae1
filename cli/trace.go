package cli

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"math/bits"
	"os"

	"github.com/urfave/cli/v3"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/render"
)

func traceCommand() *cli.Command {
	return &cli.Command{
		Name:         "trace",
		Usage:        "run a firmware and record serial output and pins",
		ArgsUsage:    "FIRMWARE",
		Description:  "With --on the firmware runs on the bench of an exercise, in one of its trials. The VCD then uses the bench's net names, and --window prints every change in a period, exact to the cycle, with displays as driven instead of as seen.",
		OnUsageError: usage,
		Flags: append([]cli.Flag{
			&cli.StringFlag{Name: "for",
				Usage: "simulated `TIME` to run (default: 1s, or with --on the length of the trial)"},
			&cli.StringFlag{Name: "on", Usage: "run on the bench of this `EXERCISE`"},
			&cli.StringFlag{Name: "trial",
				Usage: "with --on, `NAME` of the trial (default: the first)"},
			&cli.StringFlag{Name: "window",
				Usage: "with --on, print every change in `FROM..TO`, such as 1.2s..1.203s"},
			&cli.BoolFlag{Name: "serial",
				Usage: "print only the bytes sent by the chip's first serial port"},
			&cli.StringFlag{Name: "vcd", Usage: "write all pin changes to a VCD `FILE`"},
			plainFlag,
			formatFlag, libraryFlag,
		}, chipFlags()...),
		Action: trace,
	}
}

// counter counts the changes of pins, and hands them on where somebody wants them.
type counter struct {
	next    machine.Listener
	changes []int
}

func (n *counter) Drive(t clock.Time, changes []machine.Change, at machine.Place) clock.Time {
	for _, c := range changes {
		n.changes[c.Pin]++
	}
	if n.next != nil {
		return n.next.Drive(t, changes, at)
	}
	return clock.Never
}

// follow counts what comes in batches, repeat what comes so many times more.
func (n *counter) follow(edges []machine.Edge) { n.count(edges, 1) }

func (n *counter) repeat(edges []machine.Edge, times int64, _ clock.Time) { n.count(edges, int(times)) }

func (n *counter) count(edges []machine.Edge, times int) {
	for i := range edges {
		changes := n.changes[edges[i].From:]
		for rest := edges[i].Pins; rest != 0; rest &= rest - 1 {
			changes[bits.TrailingZeros32(rest)] += times
		}
	}
}

// traced is what --format json writes.
type traced struct {
	For      clock.Time       `json:"for"`
	Stop     machine.Stop     `json:"stop"`
	Pins     map[string]int   `json:"pins"`
	Serial   int              `json:"serial_bytes"`
	Notes    []machine.Note   `json:"notes"`
	Counters machine.Counters `json:"counters"`
}

func trace(ctx context.Context, c *cli.Command) (err error) {
	if c.Args().Len() != 1 {
		return misused("trace expects one firmware: hemble trace FIRMWARE")
	}
	if c.String("on") != "" {
		return traceOn(ctx, c)
	}
	if c.String("trial") != "" || c.String("window") != "" {
		return misused("--trial and --window go with --on EXERCISE")
	}
	length, err := traceLength(c, clock.Second)
	if err != nil {
		return err
	}
	x, err := bareChip(c)
	if err != nil {
		return err
	}
	path := c.Args().First()
	_, im, err := newSources(c).image(ctx, x, path)
	if err != nil {
		return err
	}
	out := c.Root().Writer
	serial := bufio.NewWriter(out)
	defer serial.Flush()
	bytes := 0
	chip := x.Chip
	config := machine.Config{Clock: x.Clock, ClockPin: x.ClockPin, Seed: 1, Reference: c.Bool("reference"),
		Bytes: func(b machine.Byte) {
			if b.Port != chip.Terminal() {
				return
			}
			if bytes++; c.Bool("serial") {
				serial.WriteByte(b.Value)
			}
		}}
	if c.Bool("serial") && c.String("vcd") == "" {
		config.Watched = []machine.Pin{} // nobody looks at the pins
	}
	l := &counter{changes: make([]int, len(chip.Pins))}
	if c.String("vcd") == "" { // nobody answers
		config.Follow, config.Repeat = l.follow, l.repeat
		for p := range chip.Pins {
			config.Followed = append(config.Followed, machine.Pin(p))
		}
	}
	m := chip.New(config)
	defer machine.Close(m)
	if err := m.Load(im); err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	if name := c.String("vcd"); name != "" {
		f, err := os.Create(name)
		if err != nil {
			return err
		}
		defer f.Close()
		v := render.NewPinVCD(f, chip)
		l.next = v
		defer func() {
			if e := v.Close(min(m.Now(), length)); e != nil && err == nil {
				err = fmt.Errorf("%s: %w", name, e)
			}
		}()
	}
	stop := machine.Stop{}
	for m.Now() < length && stop.Reason == machine.Reached && ctx.Err() == nil {
		stop = m.Run(min(length, m.Now()+100*clock.Millisecond), l)
	}
	if c.Bool("serial") {
		serial.Flush()
		tellNotes(os.Stderr, stop, m.Notes())
		return ctx.Err()
	}
	if c.String("format") == "json" {
		pins := map[string]int{}
		for p, info := range chip.Pins {
			if n := l.changes[p]; n > 0 {
				pins[info.Name] = n
			}
		}
		return writeJSON(out, traced{length, stop, pins, bytes, m.Notes(), m.Counters()})
	}
	size := fmt.Sprintf("%d bytes of flash", im.Size())
	if im.Design != nil {
		size = fmt.Sprintf("%d cells", len(im.Design.Cells))
	}
	if im.Script != nil {
		size = fmt.Sprintf("%d bytes in %s", im.Script.Size(), display.Plural(len(im.Script.Files), "file"))
	}
	fmt.Fprintf(out, "%s on %s at %s: %s, ran %s\n", path, chip.Title, x.Clock, size, m.Now())
	for p, info := range chip.Pins {
		if n := l.changes[p]; n > 0 {
			d := m.Drives(machine.Pin(p))
			fmt.Fprintf(out, "  %-4s %9d changes, now %s\n", info.Name, n, d.Level)
		}
	}
	if port := chip.Terminal(); port != "" {
		fmt.Fprintf(out, "  %s sent %d bytes\n", port, bytes)
	}
	tellNotes(out, stop, m.Notes())
	return ctx.Err()
}

// traceLength is how long to run.
func traceLength(c *cli.Command, otherwise clock.Time) (clock.Time, error) {
	if c.String("for") == "" {
		return otherwise, nil
	}
	t, err := clock.Parse(c.String("for"))
	if err != nil {
		return 0, misuse{err}
	}
	return t, nil
}

func tellNotes(w io.Writer, stop machine.Stop, notes []machine.Note) {
	if stop.Reason != machine.Reached {
		fmt.Fprintf(w, "stopped at %s: %s\n", stop.At, stop.Text)
	}
	for _, n := range notes {
		fmt.Fprintf(w, "note at %s: %s\n", n.At, n.Text)
	}
}
