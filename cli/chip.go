package cli

import (
	"github.com/urfave/cli/v3"

	"hemble/core/clock"
	"hemble/core/machine"
)

// chipFlags name a bare chip and its oscillator.
func chipFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "chip", Value: machine.Usual().Name, Usage: "the `CHIP`, as listed by hemble chips"},
		&cli.StringFlag{Name: "clock", Usage: "oscillator `RATE`, such as 8MHz",
			DefaultText: "the chip's usual rate"},
	}
}

// chipOf is the chip that a command is about, and its clock.
func chipOf(c *cli.Command) (*machine.Chip, clock.Rate, error) {
	chip, err := machine.Find(c.String("chip"))
	if err != nil {
		return nil, 0, misuse{err}
	}
	if !c.IsSet("clock") {
		return chip, chip.Clock, nil
	}
	rate, err := clock.ParseRate(c.String("clock"))
	if err != nil {
		return nil, 0, misuse{err}
	}
	if slowest, fastest := chip.Clocks[0], chip.Clocks[1]; rate < slowest || rate > fastest {
		return nil, 0, misused("an %s runs at %s to %s, not at %s", chip.Title, slowest, fastest, rate)
	}
	return chip, rate, nil
}
