// Package turns shares slow work fairly: a few run at a time, the others wait in a queue that takes turns between
// people, keeps capacity for staff, and can tell its length.
package turns

import (
	"context"
	"errors"
	"slices"
	"sync"
)

// Bounds of the line.
const (
	maxWaitingOf = 4 // of one person
	maxWaiting   = 500
)

// ErrBusy is for one too many: a person who waits for several already, or a line that is too long.
var ErrBusy = errors.New("too much is waiting already")

// Caller is who wants a turn.
type Caller struct {
	Who     string
	Student bool // others go first
}

// Gate is where they wait.
type Gate struct {
	places int

	mu      sync.Mutex
	running map[string]int // of each person
	pupils  int            // running of students
	all     int            // running
	line    []*queued
	served  map[string]int64 // when each person had a turn last
	count   int64
}

type queued struct {
	Caller
	number int64 // of arrival
	turn   chan struct{}
}

// New makes a gate with that many places, two at least: one is kept for those who are not students.
func New(places int) *Gate {
	return &Gate{places: max(2, places), running: map[string]int{}, served: map[string]int64{}}
}

// Enter waits for a turn; leave ends it. It fails with ErrBusy, or when ctx ends.
func (g *Gate) Enter(ctx context.Context, c Caller) (leave func(), err error) {
	g.mu.Lock()
	own := 0
	for _, w := range g.line {
		if w.Who == c.Who {
			own++
		}
	}
	if own >= maxWaitingOf || len(g.line) >= maxWaiting {
		g.mu.Unlock()
		return nil, ErrBusy
	}
	g.count++
	w := &queued{c, g.count, make(chan struct{})}
	g.line = append(g.line, w)
	g.next()
	g.mu.Unlock()
	select {
	case <-w.turn:
	case <-ctx.Done():
		g.mu.Lock()
		defer g.mu.Unlock()
		if i := slices.Index(g.line, w); i >= 0 {
			g.line = slices.Delete(g.line, i, i+1)
			return nil, ctx.Err()
		}
		g.leave(c) // its turn came at the same time
		return nil, ctx.Err()
	}
	return sync.OnceFunc(func() {
		g.mu.Lock()
		defer g.mu.Unlock()
		g.leave(c)
	}), nil
}

func (g *Gate) leave(c Caller) {
	g.all--
	if c.Student {
		g.pupils--
	}
	if g.running[c.Who]--; g.running[c.Who] == 0 {
		delete(g.running, c.Who)
	}
	g.next()
}

// before reports whether x goes before y: those who are not students, then who had a turn longest ago, then who came
// first.
func (g *Gate) before(x, y *queued) bool {
	switch {
	case x.Student != y.Student:
		return !x.Student
	case g.served[x.Who] != g.served[y.Who]:
		return g.served[x.Who] < g.served[y.Who]
	}
	return x.number < y.number
}

func (g *Gate) may(w *queued) bool {
	return g.all < g.places && g.running[w.Who] == 0 && (!w.Student || g.pupils < g.places-1)
}

// next gives turns to those who may have one.
func (g *Gate) next() {
	for {
		best := -1
		for i, w := range g.line {
			if g.may(w) && (best < 0 || g.before(w, g.line[best])) {
				best = i
			}
		}
		if best < 0 {
			return
		}
		w := g.line[best]
		g.line = slices.Delete(g.line, best, best+1)
		g.all++
		if w.Student {
			g.pupils++
		}
		g.running[w.Who]++
		if len(g.served) > 10*maxWaiting {
			clear(g.served)
		}
		g.count++
		g.served[w.Who] = g.count
		close(w.turn)
	}
}

// Ahead returns how many turns come before the first that a person waits for; waiting is false where none waits.
func (g *Gate) Ahead(who string) (ahead int, waiting bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	i := slices.IndexFunc(g.line, func(w *queued) bool { return w.Who == who })
	if i < 0 {
		return 0, false
	}
	for _, w := range g.line {
		if w.Who != who && g.before(w, g.line[i]) {
			ahead++
		}
	}
	return ahead + g.all, true
}

// Waiting counts those who wait.
func (g *Gate) Waiting() int {
	g.mu.Lock()
	defer g.mu.Unlock()
	return len(g.line)
}
