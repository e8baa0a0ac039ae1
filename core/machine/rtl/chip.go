package rtl

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// rows and columns of a ball grid are counted as on the larger packages; letters that look like digits are left out.
const letters = "ABCDEFGHJKLMNPRTUVWY"

// legs are how many pins a flat package has at most.
const legs = 144

// Chip is a device of programmable logic in any package: A1 to Y20 are the balls of a grid, P1 to P144 the legs of a
// flat one. Its constraints say which port of a design sits where.
var Chip = &machine.Chip{
	Name: "fpga", Title: "FPGA", Source: "IEEE 1364-2005, IEEE 1076-2008; the yosys manual for its word-level cells",
	Clock: 100_000_000, Clocks: [2]clock.Rate{1_000, 500_000_000}, ClockPin: "E3",
	Pins: pins(),
	Electric: machine.Electric{Supply: 3_300_000, Supplies: [2]int64{1_140_000, 3_450_000}, Drive: 40, Pull: 20_000,
		Over: 300_000},
	Limits:   machine.Limits{Pin: 24_000_000, Chip: 800_000_000},
	Firmware: firmware.Layout{Design: true, Regions: []firmware.Region{{Kind: firmware.Ignored}}},
	Models: []string{"registers, latches and memories", "several and derived clocks, both edges", "asynchronous resets",
		"three-state pins", "pull-ups and pull-downs"},
	Unmodelled: []string{"primitives of a maker's own", "delays: logic takes no time", "undefined values: what is not set begins as 0"},
	Toolchain:  machine.Toolchain{Compiler: "yosys"},
	Notes: []finding.Entry{{Code: "floating", Doc: "a pin was read while nothing drove it"},
		{Code: "unused", Doc: "a design does nothing with an input that is wired"},
		{Code: "narrow-register", Doc: "a register is too narrow for the number that it is compared with"}},
	Settings: []machine.Setting{{Code: machine.NarrowCode, Note: "narrow-register", Change: widened}},

	ReturnAddresses: func(*firmware.Image, []uint8) []uint32 { return nil }, Alterations: alterations,
}

func init() {
	Chip.New = func(c machine.Config) machine.Machine { return newMachine(Chip, c) }
	Chip.Reset = machine.Pin(len(Chip.Pins) - 1)
	machine.Register(Chip)
}

func pins() (out []machine.PinInfo) {
	for _, letter := range letters {
		for n := 1; n <= 20; n++ {
			out = append(out, machine.PinInfo{Name: fmt.Sprintf("%c%d", letter, n)})
		}
	}
	for n := 1; n <= legs; n++ {
		out = append(out, machine.PinInfo{Name: fmt.Sprintf("P%d", n)})
	}
	return append(out, machine.PinInfo{Name: "PROGRAM"}) // pulled low, the device is configured anew
}

// Passes are those of yosys that make a design what this package reads: one module, words kept whole, registers and
// memories as their own cells.
const Passes = "hierarchy -check -auto-top; proc; flatten; tribuf; opt -nodffe -nosdff; memory -nomap; opt_clean; check"
