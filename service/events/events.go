// Package events tells open pages and waiting clients what has changed.
package events

import "sync"

// Event is a change of one submission. Numbers grow by one.
type Event struct {
	Number     int64
	Submission string
}

// kept is how many events are remembered for those who come back, backlog how many may wait for one listener.
const (
	kept    = 4096
	backlog = 256
)

// Hub hands each event to everyone who listens. A listener that does not keep up loses events, never holds anybody up; it
// is told by the closing of its channel, and looks again by itself.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
	last      int64
	recent    [kept]Event // by number modulo kept
	closed    bool
}

// NewHub makes a hub without listeners. Numbers begin behind first, which differs from start to start of a service: what
// was heard before a start is then never taken for what was heard after it.
func NewHub(first int64) *Hub {
	return &Hub{listeners: map[chan Event]bool{}, last: first}
}

// Publish hands on an event.
func (h *Hub) Publish(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.last++
	e.Number = h.last
	h.recent[e.Number%kept] = e
	for c := range h.listeners {
		select {
		case c <- e:
		default:
			delete(h.listeners, c)
			close(c)
		}
	}
}

// Listen gives a channel of events behind number after (0: from now on), and a function that ends it. whole is false
// where some of them are no longer remembered: the listener has to look by itself first.
func (h *Hub) Listen(after int64) (c <-chan Event, last int64, whole bool, stop func()) {
	h.mu.Lock()
	defer h.mu.Unlock()
	missed := h.last - after
	whole = after == 0 || missed >= 0 && missed <= backlog && (missed == 0 || h.recent[(after+1)%kept].Number == after+1)
	if !whole || after == 0 {
		missed = 0
	}
	own := make(chan Event, 2*backlog)
	if h.closed {
		close(own)
		return own, h.last, whole, func() {}
	}
	for n := h.last - missed + 1; n <= h.last; n++ {
		own <- h.recent[n%kept]
	}
	h.listeners[own] = true
	return own, h.last, whole, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		if h.listeners[own] {
			delete(h.listeners, own)
			close(own)
		}
	}
}

// Close ends all listening.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for c := range h.listeners {
		delete(h.listeners, c)
		close(c)
	}
}
