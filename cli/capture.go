package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/core/capture"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/marking"
)

// captureFlags go with grade, for captures in the place of firmware.
var captureFlags = []cli.Flag{
	&cli.StringFlag{Name: "trial",
		Usage: "`NAME` of the trial that a capture belongs to (default: the first)"},
	&cli.StringSliceFlag{Name: "signal",
		Usage: "map a chip pin to a signal of the capture, such as PB0=lamp: `PIN=NAME`; repeatable"},
	&cli.StringFlag{Name: "zero", Value: "0", Usage: "`TIME` in the capture that counts as power-on"},
}

// captures are how captures are to be read.
type captures struct {
	trial, zero string
	signals     []string
}

func isCapture(path string) bool { return strings.EqualFold(filepath.Ext(path), ".vcd") }

// mark judges a capture against one trial.
func (k captures) mark(ctx context.Context, x *exercise.Exercise, path string) (*marking.Result, error) {
	if x.Chip == nil {
		return nil, misused("the bench of %s has no chip whose pins could have been captured", x.Name)
	}
	if !slices.Contains(x.Takes, exercise.Capture) {
		return nil, misused("%s expects %s; a capture is taken where the exercise says so: takes: [%s, %s]", x.Name,
			strings.Join(x.Takes, " and "), strings.Join(x.Takes, ", "), exercise.Capture)
	}
	o := capture.Options{Names: map[string]string{}}
	for _, s := range k.signals {
		pin, name, ok := strings.Cut(s, "=")
		if !ok {
			return nil, misused("--signal expects PIN=NAME, as in PB0=lamp; it was given %q", s)
		}
		o.Names[name] = pin
	}
	var err error
	if o.Zero, err = clock.Parse(k.zero); err != nil {
		return nil, misused("--zero: %s", err)
	}
	t, err := findTrial(x, k.trial)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	tape, err := capture.Open(f, x.Chip, o)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	for i := range x.Trials {
		if &x.Trials[i] == t {
			return marking.MarkCapture(ctx, x, i, filepath.Base(path), tape)
		}
	}
	return nil, fmt.Errorf("no trial %q", k.trial)
}
