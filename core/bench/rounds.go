package bench

import (
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/part"
)

// A round is what a program does again and again with the same answers; see machine.Around. The bench is the same as at
// the beginning of one where all nets are driven as they were and every part that was told something is in the same
// state, and where nothing came meanwhile that a display shows, that is noted, that sets a timer, or that depends on
// time or chance. Entries of the log can be repeated.

// mostLogged is how many calls of the log a round may have.
const mostLogged = 64

// rounds is what the bench knows of the round under way.
type rounds struct {
	unlike  int    // counts what a round may not have
	stirred uint64 // the parts that were told something
	on      bool   // something is remembered:
	was     int    // unlike then
	drives  []circuit.Drive
	now     []circuit.Drive // a buffer of Same
	states  []any
	logged  []logged
}

// logged is a call of the log.
type logged struct {
	at        clock.Time
	who, what string
	data      []byte
}

func (r *rounds) log(t clock.Time, who, what string, data []byte) {
	switch {
	case !r.on:
	case len(r.logged) == mostLogged:
		r.on = false
	default:
		r.logged = append(r.logged, logged{t, who, what, append([]byte(nil), data...)})
	}
}

// Remember notes how the bench is.
func (b *Bench) Remember() {
	r := &b.rounds
	r.on, r.was, r.stirred = len(b.changed) == 0, r.unlike, 0
	r.drives, r.states, r.logged = b.drives(r.drives[:0]), r.states[:0], r.logged[:0]
	for _, f := range b.parts {
		r.states = append(r.states, f.state())
	}
}

// Same reports whether it is the same now.
func (b *Bench) Same() bool {
	r := &b.rounds
	if !r.on || r.unlike != r.was || len(b.changed) > 0 {
		return false
	}
	for i, f := range b.parts {
		if r.stirred>>i&1 == 1 && (r.states[i] == nil || r.states[i] != f.state()) {
			return false
		}
	}
	r.now = b.drives(r.now[:0])
	return slices.Equal(r.now, r.drives) &&
		!slices.ContainsFunc(b.order, func(n *node) bool { return n.contended >= 0 })
}

// Again repeats what was logged. Once a whole round found no room, those after it find none either, and are counted.
func (b *Bench) Again(times int64, period clock.Time) {
	r := &b.rounds
	r.on = false
	for k := int64(1); k <= times && len(r.logged) > 0; k++ {
		before := b.reel.Unlogged
		for _, l := range r.logged {
			b.log(l.at+clock.Time(k)*period, l.who, l.what, l.data)
		}
		if n := len(r.logged); k > 1 && b.reel.Unlogged-before == n {
			b.reel.Unlogged += n * int(times-k)
			b.loggedAt += clock.Time(times-k) * period
			return
		}
	}
}

// drives lists what all terminals do.
func (b *Bench) drives(out []circuit.Drive) []circuit.Drive {
	for _, n := range b.order {
		for k := range n.Terminals() {
			out = append(out, n.Of(k))
		}
	}
	return out
}

// state is what decides how the part goes on; nil where it does not tell, where it is at another supply, which its
// inputs remember, or where it shows something else than lights, which may look at the time.
func (f *instance) state() any {
	s, ok := f.part.(part.Steady)
	if _, lights := f.sink.(*lightSink); !ok || f.inputs != nil || f.sink != nil && !lights {
		return nil
	}
	return s.State()
}

var _ machine.Around = (*Bench)(nil)
