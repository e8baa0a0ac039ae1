package part

import (
	"slices"

	"hemble/core/spec"
)

// Input are the levels that the logic inputs of a kind of part are sure of, by its datasheet: in µV, or in thousandths
// of its supply. A kind that has them may be at another supply than the board's.
type Input struct {
	Low, High           int64    // µV
	LowShare, HighShare int64    // thousandths, where the others are 0
	Of                  []string // the terminals that are logic inputs; all where there are none
}

// CMOS is what most data sheets give: three tenths and seven tenths of the supply.
var CMOS = &Input{LowShare: 300, HighShare: 700}

// Bounds are the most µV that are low for sure, and the least that are high, at a supply of µV.
func (i *Input) Bounds(supply int64) (low, high int64) {
	if i.High > 0 {
		return i.Low, i.High
	}
	return supply * i.LowShare / 1000, supply * i.HighShare / 1000
}

// Is reports whether a terminal is a logic input.
func (i *Input) Is(terminal string) bool { return len(i.Of) == 0 || slices.Contains(i.Of, terminal) }

// supplySetting is what kinds with logic inputs take.
var supplySetting = spec.Field{Name: "supply", Kind: spec.Volts,
	Doc: "what the part runs at, where that is another supply than the board's: its data sheet then decides what is high"}
