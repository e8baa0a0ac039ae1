package part

import "hemble/core/circuit"

// Levels keeps what the terminals of a digital part are at, and were before, to tell edges.
type Levels struct{ now, before uint64 }

// Read looks at the first n terminals. One that floats reads as its bit of pulled.
func (l *Levels) Read(w Host, n int, pulled uint64) {
	l.before, l.now = l.now, 0
	for i := 0; i < n; i++ {
		switch w.Net(i).Level {
		case circuit.High:
			l.now |= 1 << i
		case circuit.Float:
			l.now |= pulled & (1 << i)
		}
	}
}

// High returns what a terminal is at.
func (l *Levels) High(terminal int) bool { return l.now>>terminal&1 == 1 }

// Was returns what it was at before.
func (l *Levels) Was(terminal int) bool { return l.before>>terminal&1 == 1 }

// Rose tells of a rising edge.
func (l *Levels) Rose(terminal int) bool { return (l.now&^l.before)>>terminal&1 == 1 }

// Fell tells of a falling edge.
func (l *Levels) Fell(terminal int) bool { return (l.before&^l.now)>>terminal&1 == 1 }
