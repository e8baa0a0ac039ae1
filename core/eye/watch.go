package eye

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// WatchLights is the observer of a display of lights, and the sink of its part; of tells of each light which digit or
// row it belongs to, -1 for none.
func WatchLights(b display.Bench, of []int) display.Observer {
	return &lightsWatch{NewLights(of, display.Nominal), b}
}

type lightsWatch struct {
	*Lights
	bench display.Bench
}

func (w *lightsWatch) Light(light int, nA int64) {
	w.Set(w.bench.Now(), light, nA, w.bench.Place())
}

func (w *lightsWatch) LightAt(at clock.Time, light int, nA int64, place *machine.Place) {
	w.Set(at, light, nA, place)
}

func (w *lightsWatch) Now(t clock.Time) []display.Frame { return now(t, w.Lights.Now(t)) }

// WatchScreen is the observer of a display of n cells.
func WatchScreen(b display.Bench, n int, response Response, pixels bool) display.Observer {
	return &screenWatch{Screen: NewScreen(n, response, pixels), bench: b}
}

type screenWatch struct {
	*Screen
	bench  display.Bench
	custom [][8]uint8
}

// maxCustom bounds the different custom characters of one run; a program that draws more shows the last one.
const maxCustom = 4096

func (w *screenWatch) Cell(cell int, value display.Cell) {
	w.Paint(w.bench.Now(), cell, uint16(value), *w.bench.Place())
}

func (w *screenWatch) Custom(dots [8]uint8) display.Cell {
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
func (w *screenWatch) Customs() [][8]uint8 { return w.custom }

func (w *screenWatch) Cursor(c *display.Cursor)         { w.Screen.Cursor(w.bench.Now(), c) }
func (w *screenWatch) Shade(level int)                  { w.Screen.Shade(w.bench.Now(), level) }
func (w *screenWatch) Now(t clock.Time) []display.Frame { return now(t, w.Screen.Now(t)) }

// WatchTone is the observer of what is heard.
func WatchTone(b display.Bench) display.Observer { return &toneWatch{NewEar(), b} }

type toneWatch struct {
	*Ear
	bench display.Bench
}

func (w *toneWatch) Move(pushed bool)                 { w.Ear.Move(w.bench.Now(), pushed, *w.bench.Place()) }
func (w *toneWatch) Tone(hz int)                      { w.Ear.Tone(w.bench.Now(), hz, *w.bench.Place()) }
func (w *toneWatch) Now(t clock.Time) []display.Frame { return now(t, w.Ear.Now(t)) }

// WatchPage is the observer of a terminal.
func WatchPage(b display.Bench) display.Observer { return &pageWatch{NewPage(), b} }

type pageWatch struct {
	*Page
	bench display.Bench
}

func (w *pageWatch) Line(from clock.Time, text string) { w.Add(from, text, *w.bench.Place()) }

func (w *pageWatch) LineNow(from clock.Time, text string) { w.Change(from, text, *w.bench.Place()) }

// recent is how many lines of a terminal are seen at once.
const recent = 8

func (w *pageWatch) Now(clock.Time) []display.Frame { return slices.Clone(w.Recent(recent)) }

// now is a state as the only frame up to a moment.
func now(t clock.Time, s display.State) []display.Frame {
	return []display.Frame{{To: t, State: s}}
}
