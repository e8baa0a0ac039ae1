package bench

import (
	"hash/fnv"
	"math/rand/v2"
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/eye"
	"hemble/core/part"
)

// fitted is a part on its bench: it is the World of the part.
type fitted struct {
	bench     *Bench
	number    int
	built     *part.Built
	part      part.Part
	terminals []*node // nil for one that is wired to nothing
	index     []int   // of the terminal on its net
	changed   uint64
	timers    map[int]int // serial of each timer's latest setting
	random    *rand.Rand
	look      display.Geometry
	lights    *eye.Lights
	screen    *eye.Screen
	ear       *eye.Ear
	page      *eye.Page
	backlight *eye.Lights
	currents  []int64 // of each light, nA
	taps      [][]tap // of each light; nil where no load is watched
	custom    [][8]uint8
}

func newFitted(b *Bench, number int, p *part.Built, seed uint64) *fitted {
	h := fnv.New64a()
	h.Write([]byte(p.Name))
	f := &fitted{bench: b, number: number, built: p, timers: map[int]int{}, random: rand.New(rand.NewPCG(seed, h.Sum64()))}
	if p.Kind.Geometry == nil {
		return f
	}
	f.look = p.Kind.Geometry(*p)
	if p.Lit() {
		f.backlight = eye.NewLights([]int{-1}, part.Nominal)
	}
	switch f.look.Form {
	case display.FormText:
		f.screen = eye.NewScreen(f.look.Grid.Columns*f.look.Grid.Rows, eye.Crystal, false)
	case display.FormPixels:
		f.screen = eye.NewScreen(f.look.Pixels.Columns*f.look.Pixels.Rows/8, eye.Shining, true)
	case display.FormLines:
		f.page = eye.NewPage()
	case display.FormSound:
		f.ear = eye.NewEar()
	default:
		digits := make([]int, f.look.Lights())
		for _, s := range f.look.Shapes {
			digits[s.Light] = s.Digit
			if f.look.Form != display.FormDigits && f.look.Form != display.FormMatrix {
				digits[s.Light] = -1 // each light by itself
			}
		}
		f.lights = eye.NewLights(digits, part.Nominal)
		f.currents = make([]int64, len(digits))
	}
	return f
}

func (f *fitted) Now() clock.Time { return f.bench.now }

func (f *fitted) Net(terminal int) circuit.Drive {
	if n := f.terminals[terminal]; n != nil {
		return n.Drive
	}
	return circuit.Released
}

func (f *fitted) Drive(terminal int, d circuit.Drive) {
	if n := f.terminals[terminal]; n != nil {
		f.bench.set(n, f.index[terminal], d)
	}
}

func (f *fitted) Contact(a, b int, closed bool) {
	x, y := f.terminals[a], f.terminals[b]
	if x == nil || y == nil || x == y {
		return
	}
	if closed {
		circuit.Join(&x.Net, &y.Net)
	} else {
		circuit.Part(&x.Net, &y.Net)
	}
	f.bench.mark(x)
	f.bench.mark(y)
}

func (f *fitted) After(timer int, d clock.Time) {
	f.timers[timer]++
	f.bench.events.add(event{at: f.bench.now + d, kind: eventTimer, part: f.number, timer: timer, serial: f.timers[timer]})
}

func (f *fitted) Random() uint64 { return f.random.Uint64() }

func (f *fitted) Light(light int, nA int64) {
	if r := f.bench.rehearsal; r != nil {
		*r = append(*r, effect{f, light, nA})
		return
	}
	was := f.currents[light]
	if was == nA {
		return
	}
	f.currents[light] = nA
	f.lights.Set(f.bench.now, light, nA, &f.bench.place)
	if f.taps != nil {
		f.bench.load.add(f.taps[light], nA-was)
	}
	if w := f.bench.watcher; w != nil {
		w.Light(f.number, light, nA)
	}
}

func (f *fitted) Cell(cell int, value display.Cell) {
	f.screen.Paint(f.bench.now, cell, uint16(value), f.bench.place)
	if w := f.bench.watcher; w != nil {
		w.Cell(f.number, cell, value)
	}
}

// maxCustom bounds the different custom characters of one run; a program that draws more shows the
// last one.
const maxCustom = 4096

func (f *fitted) Custom(dots [8]uint8) display.Cell {
	for i, d := range f.custom {
		if d == dots {
			return display.CustomCell + display.Cell(i)
		}
	}
	if len(f.custom) == maxCustom {
		return display.CustomCell + maxCustom - 1
	}
	f.custom = append(f.custom, dots)
	return display.CustomCell + display.Cell(len(f.custom)-1)
}

func (f *fitted) Cursor(c *display.Cursor) { f.screen.Cursor(f.bench.now, c) }

func (f *fitted) Backlight(nA int64) {
	f.backlight.Set(f.bench.now, 0, nA, &f.bench.place)
}

func (f *fitted) Shade(level int) { f.screen.Shade(f.bench.now, level) }

func (f *fitted) Tone(hz int) { f.ear.Tone(f.bench.now, hz, f.bench.place) }

func (f *fitted) Line(from clock.Time, text string) { f.page.Add(from, text, f.bench.place) }

func (f *fitted) LineNow(from clock.Time, text string) { f.page.Change(from, text, f.bench.place) }

func (f *fitted) Move(pushed bool) { f.ear.Move(f.bench.now, pushed, f.bench.place) }

func (f *fitted) Log(what string, data ...byte) { f.bench.log(f.bench.now, f.built.Name, what, data) }

func (f *fitted) Note(code, format string, args ...any) {
	f.bench.note(f.built.Name+" "+code, f.built.Name+": "+format, args...)
}

// join finds the nets at the ends of each light, and where its current goes through the chip.
func (f *fitted) join() {
	if f.built.Kind.Ends == nil || f.bench.load == nil {
		return
	}
	for _, e := range f.built.Kind.Ends(*f.built) {
		var nets [2]*node
		for i, terminal := range e {
			if terminal >= 0 {
				nets[i] = f.terminals[terminal]
			}
		}
		f.taps = append(f.taps, f.bench.load.taps(nets))
	}
}

// track is that of the part, without frames; ok is false for one that shows nothing.
func (f *fitted) track() (t display.Track, ok bool) {
	return display.Track{Display: f.built.Name, Kind: f.built.Kind.Name, Geometry: f.look, Custom: f.custom}, f.built.Kind.Geometry != nil
}

func (f *fitted) backlightTrack() display.Track {
	return display.Track{Display: f.built.Name + part.BacklightSuffix, Kind: f.built.Kind.Name, Geometry: part.BacklightLook}
}

// recentLines is how many lines of a terminal are shown while it runs.
const recentLines = 8

// live gives the part's tracks with what is seen now.
func (f *fitted) live(now clock.Time) (out []display.Track) {
	t, ok := f.track()
	if !ok {
		return nil
	}
	var s display.State
	switch {
	case f.lights != nil:
		s = f.lights.Now(now)
	case f.screen != nil:
		s = f.screen.Now(now)
	case f.ear != nil:
		s = f.ear.Now(now)
	case f.page != nil:
		t.Frames = slices.Clone(f.page.Recent(recentLines))
		return []display.Track{t}
	}
	t.Frames = []display.Frame{{To: now, Text: t.Short(s), State: s}}
	out = append(out, t)
	if f.backlight != nil {
		b := f.backlightTrack()
		s := f.backlight.Now(now)
		b.Frames = []display.Frame{{To: now, Text: b.Short(s), State: s}}
		out = append(out, b)
	}
	return out
}

// finish adds the part's tracks to the reel.
func (f *fitted) finish(length clock.Time) {
	if last, ok := f.part.(part.Finisher); ok {
		last.Finish()
	}
	t, ok := f.track()
	if !ok {
		return
	}
	switch {
	case f.lights != nil:
		t.Frames = f.lights.Finish(length)
		t.Quality = f.lights.Quality()
	case f.screen != nil:
		t.Frames = f.screen.Finish(length)
	case f.page != nil:
		t.Frames = f.page.Finish(length)
	case f.ear != nil:
		t.Frames = f.ear.Finish(length)
	}
	f.bench.keep(t)
	if f.backlight != nil {
		b := f.backlightTrack()
		b.Frames = f.backlight.Finish(length)
		f.bench.keep(b)
	}
}
