package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"hemble/service/store"
	"hemble/wire"
)

// events streams changes of the class's submissions, as server-sent events (HTML standard, section 9.2): each is a
// submission as who listens may see it. "reset" says that some were missed, and everything is to be read again.
func (a *API) events(r *request) (any, error) {
	after := int64(0)
	if id := r.GetHeader("Last-Event-ID"); id != "" {
		if n, err := strconv.ParseInt(id, 10, 64); err == nil && n > 0 {
			after = n
		}
	}
	changes, last, whole, stop := a.Hub.Listen(after)
	defer stop()
	h := r.Writer.Header()
	h.Set("Content-Type", mediaEvents)
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	out := http.NewResponseController(r.Writer)
	send := func(format string, args ...any) error {
		// A reader that takes nothing for this long is gone.
		_ = out.SetWriteDeadline(time.Now().Add(2 * keepAlive))
		if _, err := fmt.Fprintf(r.Writer, format, args...); err != nil {
			return err
		}
		return out.Flush()
	}
	r.Writer.WriteHeaderNow()
	first := "listening"
	if !whole {
		first = "reset"
	}
	if send("event: %s\nid: %d\ndata: {}\n\n", first, last) != nil {
		return handled{}, nil
	}
	tick := time.NewTicker(keepAlive)
	defer tick.Stop()
	for {
		select {
		case <-r.Request.Context().Done():
			return handled{}, nil
		case <-tick.C:
			if !a.stillIn(r) || send(": still here\n\n") != nil {
				return handled{}, nil
			}
		case e, ok := <-changes:
			if !ok {
				return handled{}, nil
			}
			s, err := a.change(r, e.Submission)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return handled{}, nil
			}
			data, err := json.Marshal(s)
			if err != nil || send("event: submission\nid: %d\ndata: %s\n\n", e.Number, data) != nil {
				return handled{}, nil
			}
		}
	}
}

// stillIn tells whether who listens is still signed in and in the class.
func (a *API) stillIn(r *request) bool {
	t, _ := token(r)
	if _, err := a.Store.Session(r, t); err != nil {
		return false
	}
	c, err := a.Store.Class(r, r.account, r.class.Name)
	return err == nil && c.Role == r.class.Role
}

// change is a changed submission as who listens sees it; ErrNotFound where they do not.
func (a *API) change(r *request, id string) (*wire.Submission, error) {
	s, err := a.Store.Submission(r, id)
	if err != nil {
		return nil, err
	}
	if s.ClassID != r.class.ID || r.student() && s.AccountID != r.account.ID {
		return nil, store.ErrNotFound
	}
	o, err := a.Store.OpeningOf(r, id)
	if err != nil {
		return nil, err
	}
	v, err := a.viewOf(r, r.class, o, r.account)
	if err != nil {
		return nil, err
	}
	one, err := v.one(r, s)
	return &one, err
}
