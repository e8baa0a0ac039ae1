package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"hemble/service/events"
	"hemble/service/terms"
)

// crowded is how long a page stays away whose account has too many others open.
const crowded = time.Minute

// events streams changes of the class's submissions, as server-sent events (HTML standard, section 9.2): each is a
// submission as who listens may see it. "reset" says that some were missed, and everything is to be read again.
func (a *API) events(r *request) (any, error) {
	after := int64(0)
	if id := r.GetHeader("Last-Event-ID"); id != "" {
		if n, err := strconv.ParseInt(id, 10, 64); err == nil && n > 0 {
			after = n
		}
	}
	changes, begin, whole, stop := a.Hub.Listen(events.Listener{Class: r.class.ID, Account: r.account.ID, Staff: !r.student()}, after)
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
	if send("event: %s\nid: %d\ndata: {}\n\n", first, begin) != nil {
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
			if e.Data == nil {
				_ = send("retry: %d\n: you have too many pages open\n\n", crowded.Milliseconds())
				return handled{}, nil
			}
			if send("event: submission\nid: %d\ndata: %s\n\n", e.Number, e.Data) != nil {
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

// Told reads a changed submission once for all who listen.
func (a *API) Told(ctx context.Context, id string, wanted func(class, owner int64) (staff, own bool)) (t events.Told, err error) {
	s, err := a.Store.Submission(ctx, id)
	if err != nil {
		return t, err
	}
	t.Class, t.Owner = s.ClassID, s.AccountID
	staff, own := wanted(t.Class, t.Owner)
	if !staff && !own {
		return t, nil
	}
	o, err := a.Store.OpeningOf(ctx, id)
	if err != nil {
		return t, err
	}
	tell := func(v *view) ([]byte, error) {
		one, err := v.one(ctx, s)
		if err != nil {
			return nil, err
		}
		return json.Marshal(one)
	}
	if staff {
		if t.Staff, err = tell(&view{a: a, opening: o}); err != nil {
			return t, err
		}
	}
	if own {
		t.Own, err = tell(&view{a: a, opening: o, student: true, own: terms.Of(o.Terms, o.Extensions, s.Login, s.Group)})
	}
	return t, err
}
