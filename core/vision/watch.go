package vision

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// WatchEmissive is the observer of a display of lights, and the sink of its part; of tells of each light which digit or
// row it belongs to, -1 for none.
func WatchEmissive(b display.Bench, of []int) display.Observer {
	return &emissiveWatch{NewEmissive(of, display.Nominal), b}
}

type emissiveWatch struct {
	*Emissive
	bench display.Bench
}

func (w *emissiveWatch) Light(light int, nA int64) {
	w.Set(w.bench.Now(), light, nA, w.bench.Place())
}

func (w *emissiveWatch) LightAt(at clock.Time, light int, nA int64, place *machine.Place) {
	w.Set(at, light, nA, place)
}

func (w *emissiveWatch) Now(t clock.Time) []display.Frame     { return now(t, w.Emissive.Now(t)) }
func (w *emissiveWatch) Glimpse(t clock.Time) []display.Frame { return now(t, w.Emissive.Glimpse(t)) }

// WatchLCD is the observer of a display of n cells.
func WatchLCD(b display.Bench, n int, response Response, pixels bool) display.Observer {
	return &lcdWatch{LCD: NewLCD(n, response, pixels), bench: b}
}

type lcdWatch struct {
	*LCD
	bench  display.Bench
	custom [][8]uint8
}

// maxCustom bounds the different custom characters of one run; a program that draws more shows the last one.
const maxCustom = 4096

func (w *lcdWatch) Cell(cell int, value display.Cell) {
	w.Paint(w.bench.Now(), cell, uint16(value), *w.bench.Place())
}

func (w *lcdWatch) Custom(dots [8]uint8) display.Cell {
	for i, d := range w.custom {
		if d == dots {
			return display.CustomCell + display.Cell(i)
		}
	}
	if len(w.custom) < maxCustom {
		w.custom = append(w.custom, dots)
	}
	return display.CustomCell + display.Cell(len(w.custom)-1)
}

// Customs are the custom characters so far, in the order of their cells.
func (w *lcdWatch) Customs() [][8]uint8 { return w.custom }

func (w *lcdWatch) Cursor(c *display.Cursor)         { w.LCD.Cursor(w.bench.Now(), c) }
func (w *lcdWatch) Shade(level int)                  { w.LCD.Shade(w.bench.Now(), level) }
func (w *lcdWatch) Now(t clock.Time) []display.Frame { return now(t, w.LCD.Now(t)) }

func (w *lcdWatch) Glimpse(t clock.Time) []display.Frame { return now(t, w.LCD.Glimpse(t)) }

// WatchTone is the observer of what is heard.
func WatchTone(b display.Bench) display.Observer { return &toneWatch{NewTones(), b} }

type toneWatch struct {
	*Tones
	bench display.Bench
}

func (w *toneWatch) Move(pushed bool)                 { w.Tones.Move(w.bench.Now(), pushed, *w.bench.Place()) }
func (w *toneWatch) Tone(hz int)                      { w.Tones.Tone(w.bench.Now(), hz, *w.bench.Place()) }
func (w *toneWatch) Now(t clock.Time) []display.Frame { return now(t, w.Tones.Now(t)) }

// WatchTextLines is the observer of a terminal.
func WatchTextLines(b display.Bench) display.Observer { return &textLinesWatch{NewTextLines(), b} }

type textLinesWatch struct {
	*TextLines
	bench display.Bench
}

func (w *textLinesWatch) Line(from clock.Time, text string) { w.Add(from, text, *w.bench.Place()) }

func (w *textLinesWatch) LineNow(from clock.Time, text string) {
	w.Change(from, text, *w.bench.Place())
}

// recent is how many lines of a terminal are seen at once.
const recent = 8

func (w *textLinesWatch) Now(clock.Time) []display.Frame { return slices.Clone(w.Recent(recent)) }

// now is a state as the only frame up to a moment.
func now(t clock.Time, s display.State) []display.Frame {
	return []display.Frame{{To: t, State: s}}
}
