// Package vision computes what a person saw from what the lights and cells of a display did.
//
// It treats two questions separately. Which states exist is decided by perception: light is averaged, short gaps are
// bridged, and a mixture of an old and a new picture is not a picture. When a state began is decided by the pins: it
// is moved to the edge that caused it.
//
// docs/vision.md gives the reason for every number here.
package vision

import (
	"hemble/core/clock"
	"hemble/core/display"
)

// The numbers of a person's state.
const (
	// Window is how long vision adds up light.
	Window = 20 * clock.Millisecond
	// Settle is the shortest time for which a mixture of two pictures, or a dark gap between them,
	// is noticed.
	Settle = display.Mixture
	// SteadyPeriod is the longest period at which repeated light looks steady, FlickerPeriod the
	// longest at which it looks like one flickering light; above that it comes and goes.
	SteadyPeriod  = 25 * clock.Millisecond
	FlickerPeriod = 60 * clock.Millisecond
	// Visible is the mean current in nA below which a light is out.
	Visible = 200_000
	// LevelTime is how long brightness is added up for one look at it, LevelRatio and LevelShare how much it must
	// change to be noticed: by that ratio, and by that part of full brightness.
	LevelTime     = 40 * clock.Millisecond
	LevelRatio    = 140 // percent
	LevelFraction = 5   // percent
	// LitFraction of the brightness of a digit's brightest segment makes a segment lit; less is dim.
	LitFraction = 35 // percent
	// DigitFraction of the brightness of the display's brightest digit is what a digit needs to be read.
	DigitFraction = 12 // percent
	// EvenFraction of the brightness of the brightest digit is what another needs not to look uneven.
	EvenFraction = 50 // percent
	// GhostFraction of its slot is how long a digit may show the tail of its scan neighbour's pattern
	// before that counts as shown on purpose.
	GhostFraction = 40 // percent
	// Slow is how long an LCD averages, SlowShare the share of that time that makes a character.
	Slow         = 150 * clock.Millisecond
	SlowFraction = 60 // percent
)
