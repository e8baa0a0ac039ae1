// Package events tells open pages and waiting clients what has changed.
package events

import (
	"context"
	"crypto/sha256"
	"log/slog"
	"sync"
	"time"
)

// Bounds of the hub.
const (
	kept       = 4096                   // changes that are remembered for those who come back
	backlog    = 256                    // events that may wait for one listener
	maxStreams = 8                      // of one account: the oldest ends where one more begins
	gather     = 100 * time.Millisecond // changes of one submission within this time are one
	maxSeen    = 20_000                 // submissions whose last state for their owner is remembered
)

// Event is a changed submission, as its listener may see it. Numbers are times, so that they tell nothing of what
// others do.
type Event struct {
	Number int64  // microseconds since 1970, each greater than the one before
	Data   []byte // nil where the stream ends because its account has too many
}

// Listener is who listens: an account in a class, as one of those who mark or for its own work.
type Listener struct {
	Class, Account int64
	Staff          bool
}

// Told is a changed submission, read once for everybody: for those who mark, and for whose it is. What nobody listens
// to is nil.
type Told struct {
	Class, Owner int64
	Staff, Own   []byte
}

// Reader reads a submission for those who listen: wanted tells for whom.
type Reader func(ctx context.Context, submission string, wanted func(class, owner int64) (staff, own bool)) (Told,
	error)

// Hub hands each change to those who may see it. A listener that does not keep up is let go, and holds nobody up: it is
// told by the closing of its channel, and looks again by itself.
type Hub struct {
	now  func() time.Time
	wake chan struct{}

	mu      sync.Mutex
	open    map[*stream]bool
	changed map[string]bool
	order   []string // of changed
	last    int64
	recent  [kept]change // the newest at next-1, modulo kept
	next    int
	own     map[string][sha256.Size]byte // what the owner of a submission was told last
	closed  bool
}

type change struct {
	number       int64
	submission   string
	class, owner int64
}

type stream struct {
	Listener
	events chan Event
	number int64 // of its beginning
}

// NewHub makes a hub without listeners; Run makes it work.
func NewHub(now func() time.Time) *Hub {
	return &Hub{now: now, wake: make(chan struct{}, 1), open: map[*stream]bool{}, changed: map[string]bool{},
		own: map[string][sha256.Size]byte{}}
}

// Changed says that a submission has changed.
func (h *Hub) Changed(submission string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if !h.changed[submission] {
		h.changed[submission] = true
		h.order = append(h.order, submission)
	}
	select {
	case h.wake <- struct{}{}:
	default:
	}
}

// Run tells of changes until ctx ends.
func (h *Hub) Run(ctx context.Context, read Reader) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-h.wake:
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(gather):
		}
		h.mu.Lock()
		order := h.order
		h.order, h.changed = nil, map[string]bool{}
		h.mu.Unlock()
		for _, submission := range order {
			told, err := read(ctx, submission, h.wanted)
			if ctx.Err() != nil {
				return
			}
			if err != nil {
				slog.Warn("a change could not be published", "submission", submission, "error", err)
				continue
			}
			h.tell(submission, told)
		}
	}
}

// wanted reports whether anybody listens for a submission of a class and an owner.
func (h *Hub) wanted(class, owner int64) (staff, own bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s := range h.open {
		staff = staff || s.Staff && s.Class == class
		own = own || !s.Staff && s.Class == class && s.Account == owner
	}
	return staff, own
}

// number gives the number of a new event.
func (h *Hub) number() int64 {
	h.last = max(h.last+1, h.now().UnixMicro())
	return h.last
}

func (h *Hub) tell(submission string, t Told) {
	h.mu.Lock()
	defer h.mu.Unlock()
	n := h.number()
	h.recent[h.next%kept] = change{n, submission, t.Class, t.Owner}
	h.next++
	if t.Own != nil { // what looks the same to the owner is no event for them: it would tell of what they may not see
		sum := sha256.Sum256(t.Own)
		if h.own[submission] == sum {
			t.Own = nil
		}
		if len(h.own) >= maxSeen {
			clear(h.own)
		}
		h.own[submission] = sum
	}
	for s := range h.open {
		data := t.Own
		if s.Staff {
			data = t.Staff
		}
		if s.Class != t.Class || !s.Staff && s.Account != t.Owner || data == nil {
			continue
		}
		select {
		case s.events <- Event{n, data}:
		default:
			h.end(s)
		}
	}
}

func (h *Hub) end(s *stream) {
	if h.open[s] {
		delete(h.open, s)
		close(s.events)
	}
}

// Listen gives a channel of the events behind number after (0: from now on), the number of its beginning, and a
// function that ends it. whole is false where some events are no longer remembered: the listener has to look by itself
// first.
func (h *Hub) Listen(l Listener, after int64) (c <-chan Event, begin int64, whole bool, stop func()) {
	h.mu.Lock()
	defer h.mu.Unlock()
	s := &stream{Listener: l, events: make(chan Event, backlog), number: h.number()}
	if h.closed {
		close(s.events)
		return s.events, s.number, true, func() {}
	}
	whole = h.again(l, after)
	h.bound(l.Account)
	h.open[s] = true
	return s.events, s.number, whole, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		h.end(s)
	}
}

// again has the changes told once more that a listener missed.
func (h *Hub) again(l Listener, after int64) (whole bool) {
	if after == 0 {
		return true
	}
	if after > h.last {
		return false // of another clock
	}
	missed := map[string]bool{}
	for i := h.next - 1; ; i-- {
		if i < 0 {
			// Numbers of an earlier start are smaller than all that are remembered: what came between is unknown.
			if h.next == 0 || after < h.recent[0].number {
				return false
			}
			break
		}
		if i < h.next-kept {
			return false
		}
		c := h.recent[i%kept]
		if c.number <= after {
			break
		}
		if c.class == l.Class && (l.Staff || c.owner == l.Account) {
			missed[c.submission] = true
		}
	}
	if len(missed) > backlog {
		return false
	}
	for submission := range missed {
		delete(h.own, submission)
		if !h.changed[submission] {
			h.changed[submission] = true
			h.order = append(h.order, submission)
		}
	}
	if len(missed) > 0 {
		select {
		case h.wake <- struct{}{}:
		default:
		}
	}
	return true
}

// bound ends an account's oldest stream where it has as many as it may.
func (h *Hub) bound(account int64) {
	var oldest *stream
	n := 0
	for s := range h.open {
		if s.Account == account {
			if n++; oldest == nil || s.number < oldest.number {
				oldest = s
			}
		}
	}
	if n >= maxStreams {
		select {
		case oldest.events <- Event{}: // told, so that it does not come back at once and end another
		default:
		}
		h.end(oldest)
	}
}

// Streams counts those who listen.
func (h *Hub) Streams() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.open)
}

// Close ends all listening.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for s := range h.open {
		h.end(s)
	}
}
