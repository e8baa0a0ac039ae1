package api

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"hemble/service/events"
	"hemble/service/web"
)

// crowded is how long a page stays away whose account has too many others open.
const crowded = time.Minute

// events streams changes of the class's submissions, as server-sent events (HTML standard, section 9.2): each is a
// submission as who listens may see it. "reset" says that some were missed, and everything is to be read again.
func (a *API) events(r *web.Request) (any, error) {
	after := int64(0)
	if id := r.GetHeader("Last-Event-ID"); id != "" {
		if n, err := strconv.ParseInt(id, 10, 64); err == nil && n > 0 {
			after = n
		}
	}
	changes, begin, whole, stop := a.Hub.Listen(events.Listener{Class: r.Class.ID, Account: r.Account.ID,
		Staff: !r.IsStudent()}, after)
	defer stop()
	h := r.Writer.Header()
	h.Set("Content-Type", web.MediaEvents)
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	out := http.NewResponseController(r.Writer)
	send := func(format string, args ...any) error {
		// A reader that takes nothing for this long is gone.
		_ = out.SetWriteDeadline(time.Now().Add(2 * web.KeepAlive))
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
		return web.Handled{}, nil
	}
	tick := time.NewTicker(web.KeepAlive)
	defer tick.Stop()
	for {
		select {
		case <-r.Request.Context().Done():
			return web.Handled{}, nil
		case <-tick.C:
			if !a.stillIn(r) || send(": still here\n\n") != nil {
				return web.Handled{}, nil
			}
		case e, ok := <-changes:
			if !ok {
				return web.Handled{}, nil
			}
			if e.Data == nil {
				_ = send("retry: %d\n: you have too many pages open\n\n", crowded.Milliseconds())
				return web.Handled{}, nil
			}
			if send("event: submission\nid: %d\ndata: %s\n\n", e.Number, e.Data) != nil {
				return web.Handled{}, nil
			}
		}
	}
}

// stillIn reports whether who listens is still signed in and in the class.
func (a *API) stillIn(r *web.Request) bool {
	t, _ := token(r)
	if _, err := a.Store.People.Session(r, t); err != nil {
		return false
	}
	c, err := a.Store.Classes.Class(r, r.Account, r.Class.Name)
	return err == nil && c.Role == r.Class.Role
}

// Told reads a changed submission once for all who listen.
func (a *API) Told(ctx context.Context, id string, wanted func(class, owner int64) (staff, own bool)) (events.Told,
	error) {
	return a.marks.Told(ctx, id, wanted)
}
