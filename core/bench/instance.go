package bench

import (
	"hash/fnv"
	"math/rand/v2"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
)

// instance is a part on its bench: it is the World of the part.
type instance struct {
	bench     *Bench
	number    int
	of        *part.Instance
	part      part.Part
	terminals []*node // nil for one that is wired to nothing
	index     []int   // of the terminal on its net
	changed   uint64
	timers    map[int]int // serial of each timer's latest setting
	random    *rand.Rand
	look      display.Geometry
	observer  display.Observer // nil for what shows nothing
	sink      any              // what the part tells of its display
	backlight display.Observer // nil where there is none
	inputs    *inputs          // nil at the board's supply
	currents  []int64          // of each light, nA
	taps      [][]tap          // of each light; nil where no load is watched
}

func newInstance(b *Bench, number int, p *part.Instance, seed uint64) *instance {
	h := fnv.New64a()
	h.Write([]byte(p.Name))
	f := &instance{bench: b, number: number, of: p, timers: map[int]int{},
		random: rand.New(rand.NewPCG(seed, h.Sum64()))}
	f.inputs = newInputs(f)
	if p.Kind.Geometry == nil {
		return f
	}
	f.look = p.Kind.Geometry(*p)
	if p.Lit() {
		f.backlight = part.BacklightGeometry.Type().Watch(part.BacklightGeometry, f)
	}
	f.observer = f.look.Type().Watch(f.look, f)
	switch sink := f.observer.(type) { // those that others listen to, too
	case display.LightVision:
		f.currents = make([]int64, f.look.Lights())
		f.sink = &lightSink{f, sink}
	case display.CellSink:
		f.sink = &cellSink{sink, f}
	default:
		f.sink = sink
	}
	return f
}

// Place is the program point behind what happens now.
func (f *instance) Place() *machine.Place { return &f.bench.place }

// Sink is what takes the doings of the part's display.
func (f *instance) Sink() any { return f.sink }

// Backlight takes those of the light behind it.
func (f *instance) Backlight() display.LightSink { return f.backlight.(display.LightSink) }

func (f *instance) Now() clock.Time {
	f.bench.rounds.unlike++
	return f.bench.now
}

func (f *instance) Net(terminal int) circuit.Drive {
	if n := f.terminals[terminal]; n != nil {
		if f.inputs != nil {
			return f.read(terminal)
		}
		return n.Drive
	}
	return circuit.Released
}

func (f *instance) Drive(terminal int, d circuit.Drive) {
	if n := f.terminals[terminal]; n != nil {
		if f.inputs != nil {
			f.tooMuch(terminal, d)
		}
		f.bench.set(n, f.index[terminal], d)
	}
}

func (f *instance) Contact(a, b int, closed bool) {
	x, y := f.terminals[a], f.terminals[b]
	if x == nil || y == nil || x == y {
		return
	}
	f.bench.rounds.unlike++
	if closed {
		circuit.Join(&x.Net, &y.Net)
	} else {
		circuit.Open(&x.Net, &y.Net)
	}
	f.bench.mark(x)
	f.bench.mark(y)
}

func (f *instance) After(timer int, d clock.Time) {
	f.timers[timer]++
	f.bench.rounds.unlike++
	f.bench.events.add(event{at: f.bench.now + d, kind: eventTimer, part: f.number, timer: timer,
		serial: f.timers[timer]})
}

func (f *instance) Random() uint64 {
	f.bench.rounds.unlike++
	return f.random.Uint64()
}

// lightSink has the currents of lights go to vision, to the chip's pins that they pass and to a watcher.
type lightSink struct {
	*instance
	vision display.LightVision
}

func (f *lightSink) Light(light int, nA int64) {
	if r := f.bench.rehearsal; r != nil {
		*r = append(*r, effect{f, light, nA})
		return
	}
	was := f.currents[light]
	if was == nA {
		return
	}
	f.bench.rounds.unlike++
	f.currents[light] = nA
	f.vision.LightAt(f.bench.now, light, nA, &f.bench.place)
	if f.taps != nil {
		f.bench.load.add(f.taps[light], nA-was)
	}
	if w := f.bench.watcher; w != nil {
		w.Light(f.number, light, nA)
	}
}

// cellSink has the contents of cells go to a watcher, too.
type cellSink struct {
	display.CellSink
	of *instance
}

func (f *cellSink) Cell(cell int, value display.Cell) {
	f.CellSink.Cell(cell, value)
	if w := f.of.bench.watcher; w != nil {
		w.Cell(f.of.number, cell, value)
	}
}

func (f *instance) Log(what string, data ...byte) { f.bench.log(f.bench.now, f.of.Name, what, data) }

func (f *instance) Note(code, format string, args ...any) {
	f.bench.note(f.of.Name+" "+code, f.of.Name+": "+format, args...)
}

// join finds the nets at the ends of each light, and where its current goes through the chip.
func (f *instance) join() {
	if f.of.Kind.Ends == nil || f.bench.load == nil {
		return
	}
	for _, e := range f.of.Kind.Ends(*f.of) {
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
func (f *instance) track() (t display.Track, ok bool) {
	if f.observer == nil {
		return t, false
	}
	t = display.Track{Display: f.of.Name, Kind: f.of.Kind.Name, Geometry: f.look}
	if c, ok := f.observer.(interface{ Customs() [][8]uint8 }); ok {
		t.Custom = c.Customs()
	}
	return t, true
}

func (f *instance) backlightTrack() display.Track {
	return display.Track{Display: f.of.Name + part.BacklightSuffix, Kind: f.of.Kind.Name,
		Geometry: part.BacklightGeometry}
}

// sure is what vision is sure of, glimpse what a hand at the bench sees of it sooner.
func sure(o display.Observer, t clock.Time) []display.Frame { return o.Now(t) }

func glimpse(o display.Observer, t clock.Time) []display.Frame {
	if g, ok := o.(display.Glimpsed); ok {
		return g.Glimpse(t)
	}
	return o.Now(t)
}

// live gives the part's tracks with what is seen now.
func (f *instance) live(
	now clock.Time, see func(display.Observer, clock.Time) []display.Frame,
) (out []display.Track) {
	t, ok := f.track()
	if !ok {
		return nil
	}
	add := func(t display.Track, o display.Observer) {
		t.Frames = see(o, now)
		for i := range t.Frames {
			if t.Frames[i].Text == "" {
				t.Frames[i].Text = t.Short(t.Frames[i].State)
			}
		}
		out = append(out, t)
	}
	add(t, f.observer)
	if f.backlight != nil {
		add(f.backlightTrack(), f.backlight)
	}
	return out
}

// finish adds the part's tracks to the reel.
func (f *instance) finish(length clock.Time) {
	if last, ok := f.part.(part.Finisher); ok {
		last.Finish()
	}
	if f.observer == nil {
		return
	}
	frames := f.observer.Finish(length)
	t, _ := f.track()
	t.Frames = frames
	if q, ok := f.observer.(display.Scanned); ok {
		t.Quality = q.Quality()
	}
	f.bench.keep(t)
	if f.backlight != nil {
		b := f.backlightTrack()
		b.Frames = f.backlight.Finish(length)
		f.bench.keep(b)
	}
}
