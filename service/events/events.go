// Package events tells open pages and waiting clients what has changed.
package events

import "sync"

// Event is a change of one submission.
type Event struct {
	Exercise   string
	Submission string
}

// Hub hands each event to everyone who listens. A listener that does not keep up loses events, never
// holds anybody up; it is told by the closing of its channel, and looks again by itself.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
	closed    bool
}

// NewHub makes a hub without listeners.
func NewHub() *Hub { return &Hub{listeners: map[chan Event]bool{}} }

// Publish hands on an event.
func (h *Hub) Publish(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- e:
		default:
			delete(h.listeners, c)
			close(c)
		}
	}
}

// Listen gives a channel of events from now on, and a function that ends it.
func (h *Hub) Listen() (<-chan Event, func()) {
	c := make(chan Event, 256)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		close(c)
		return c, func() {}
	}
	h.listeners[c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		if h.listeners[c] {
			delete(h.listeners, c)
			close(c)
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
