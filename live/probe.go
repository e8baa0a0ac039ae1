package live

import (
	"cmp"
	"maps"
	"slices"
	"sort"

	"hemble/core/bench"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
)

// kept is how many changes of each net a probe keeps, a power of two.
const kept = 1 << 16

// maxColumns bounds how finely a scope is drawn.
const maxColumns = 4000

// Levels of a net, as a scope has them.
const (
	low      = '0'
	high     = '1'
	floating = 'z'
	analog   = '~'
	fought   = 'x' // two outputs drive it against each other
	busy     = '#' // it changes within a column
	unknown  = ' ' // before what is kept
)

// change is a new level of a net.
type change struct {
	at    clock.Time
	level byte
}

// line is what is kept of a net: a ring of its last changes.
type line struct {
	name    string
	changes []change
	count   int // of all changes there were
}

// Probe watches every net and display of a bench as driven.
type Probe struct {
	driven *bench.Driven
	lines  []*line
	byName map[string]*line
	buses  map[string]*traffic
	now    []pending // of this moment
}

// pending is a change whose moment is not over.
type pending struct {
	of    *line
	level byte
}

func newProbe(parts []*part.Instance) *Probe {
	return &Probe{driven: bench.NewDriven(parts), byName: map[string]*line{}, buses: map[string]*traffic{}}
}

// Net takes a net's new level; see bench.Watcher.
func (p *Probe) Net(name string, d circuit.Drive, contended bool) {
	if name == "VCC" || name == "GND" {
		return
	}
	l := p.byName[name]
	if l == nil {
		l = &line{name: name}
		p.byName[name] = l
		p.lines = append(p.lines, l)
	}
	p.now = append(p.now, pending{l, level(d, contended)})
}

func level(d circuit.Drive, contended bool) byte {
	switch {
	case contended:
		return fought
	case d.Strength == circuit.Analog || d.Strength == circuit.Resistive:
		return analog
	case d.Level == circuit.High:
		return high
	case d.Level == circuit.Low:
		return low
	}
	return floating
}

// Light takes a light's new current.
func (p *Probe) Light(number, light int, nA int64) { p.driven.Light(number, light, nA) }

// Cell takes a cell's new content.
func (p *Probe) Cell(number, cell int, value display.Cell) { p.driven.Cell(number, cell, value) }

// Settled ends what happened at one moment.
func (p *Probe) Settled(t clock.Time, _ machine.Place) {
	for _, c := range p.now {
		c.of.add(change{t, c.level})
	}
	p.now = p.now[:0]
}

// add keeps a change; of several at one moment the last one.
func (l *line) add(c change) {
	if l.count > 0 {
		last := &l.changes[(l.count-1)%kept]
		if last.level == c.level {
			return
		}
		if last.at == c.at {
			last.level = c.level
			return
		}
	}
	if l.count < kept {
		l.changes = append(l.changes, c)
	} else {
		l.changes[l.count%kept] = c
	}
	l.count++
}

// Trace is a net or a bus over a stretch of time: a level for each column, or what went over it.
type Trace struct {
	Net     string `json:"net"`
	Columns string `json:"columns,omitempty"`
	Sent    []Mark `json:"sent,omitempty"`
	Bus     bool   `json:"bus,omitempty"`
}

// Scope gives all buses and nets from one time to another, in so many columns.
func (p *Probe) Scope(from, to clock.Time, columns int) []Trace {
	columns = max(1, min(maxColumns, columns))
	out := []Trace{}
	for _, name := range slices.Sorted(maps.Keys(p.buses)) {
		out = append(out, Trace{Net: name, Bus: true, Sent: p.buses[name].marks(from, to, columns)})
	}
	buses := len(out)
	for _, l := range p.lines {
		out = append(out, Trace{Net: l.name, Columns: l.columns(from, to, columns)})
	}
	slices.SortFunc(out[buses:], func(a, b Trace) int { return cmp.Compare(a.Net, b.Net) })
	return out
}

// at is the nth change that is kept, counted from the oldest.
func (l *line) at(n int) change {
	if l.count <= kept {
		return l.changes[n]
	}
	return l.changes[(l.count+n)%kept]
}

func (l *line) columns(from, to clock.Time, columns int) string {
	out := make([]byte, columns)
	n := min(l.count, kept)
	next := sort.Search(n, func(i int) bool { return l.at(i).at > from })
	now := byte(unknown)
	if next > 0 {
		now = l.at(next - 1).level
	}
	for c := range out {
		end := from + (to-from)*clock.Time(c+1)/clock.Time(columns)
		changes := 0
		out[c] = now
		for ; next < n && l.at(next).at < end; next++ {
			now = l.at(next).level
			changes++
		}
		switch {
		case changes > 1:
			out[c] = busy
		case changes == 1:
			out[c] = now
		}
	}
	return string(out)
}

// Driven are the displays as they are driven now, each with a single frame.
func (p *Probe) Driven(now clock.Time) (out []display.Track) {
	for i, t := range p.driven.Tracks {
		if t.Geometry.TypeName == "" {
			continue
		}
		s := p.driven.State(i)
		t.Frames = []display.Frame{{From: now, To: now, Text: t.Short(s), State: s}}
		out = append(out, t)
	}
	return out
}
