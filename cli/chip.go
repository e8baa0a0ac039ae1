package cli

import (
	"github.com/urfave/cli/v3"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/machine"
)

// chipFlags name a bare chip and its oscillator.
func chipFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "chip", Value: machine.Usual().Name, Usage: "the `CHIP`, as listed by hemble chips"},
		&cli.StringFlag{Name: "clock", Usage: "oscillator `RATE`, such as 8MHz",
			DefaultText: "the chip's usual rate"},
		&cli.StringFlag{Name: "clock-pin", Usage: "`PIN` that the oscillator is at, of programmable logic"},
	}
}

// bareChip is the chip that a command is about, with its clock.
func bareChip(c *cli.Command) (*exercise.Exercise, error) {
	chip, err := machine.Find(c.String("chip"))
	if err != nil {
		return nil, misuse{err}
	}
	x := &exercise.Exercise{Name: "a bare chip", Chip: chip, Clock: chip.Clock, ClockPin: c.String("clock-pin")}
	if x.ClockPin != "" {
		if _, ok := chip.Pin(x.ClockPin); !ok || chip.ClockPin == "" {
			return nil, misused("an %s has no oscillator at a pin called %q", chip.Title, x.ClockPin)
		}
	}
	if !c.IsSet("clock") {
		return x, nil
	}
	if x.Clock, err = clock.ParseRate(c.String("clock")); err != nil {
		return nil, misuse{err}
	}
	if slowest, fastest := chip.Clocks[0], chip.Clocks[1]; x.Clock < slowest || x.Clock > fastest {
		return nil, misused("an %s runs at %s to %s, not at %s", chip.Title, slowest, fastest, x.Clock)
	}
	return x, nil
}
