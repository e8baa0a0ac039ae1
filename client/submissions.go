package client

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"hemble/core/reel"
	"hemble/wire"
)

// Handed is work that is submitted.
type Work struct {
	Student string // a login; "" for oneself
	File    string
	Data    []byte
	Wiring  []byte // nil for none
	Comment string
}

// Submit submits work.
func (c *Client) Submit(ctx context.Context, class, exercise string, h Work) (wire.Receipt, error) {
	files := []File{{"file", h.File, h.Data}}
	if h.Wiring != nil {
		files = append(files, File{"wiring", "wiring.yaml", h.Wiring})
	}
	return form[wire.Receipt](ctx, c, path("classes", class, "assignments", exercise, "submissions"),
		[]string{"student", h.Student, "comment", h.Comment}, files)
}

// Filter says which submissions are wanted; the zero one is for all.
type Filter struct {
	State, Search, Alike, Student string
	Limit                         int // of a page
	After                         string
}

// SubmissionPage gives one page of submissions.
func (c *Client) SubmissionPage(ctx context.Context, class, exercise string, f Filter) (wire.Page[wire.Submission],
	error) {
	limit := ""
	if f.Limit > 0 {
		limit = strconv.Itoa(f.Limit)
	}
	return call[wire.Page[wire.Submission]](ctx, c, http.MethodGet,
		query(path("classes", class, "assignments", exercise, "submissions"),
			"state", f.State, "search", f.Search, "alike", f.Alike, "student", f.Student, "limit", limit, "after",
			f.After),
		nil)
}

// Submissions gives all submissions of an exercise.
func (c *Client) Submissions(ctx context.Context, class, exercise string) (all []wire.Submission, err error) {
	for f := (Filter{Limit: 1000}); ; {
		p, err := c.SubmissionPage(ctx, class, exercise, f)
		if err != nil {
			return nil, err
		}
		all = append(all, p.Items...)
		if f.After = p.Next; p.Next == "" {
			return all, nil
		}
	}
}

// Window gives what happened on the bench of a trial from one time to another, in microseconds, as driven.
func (c *Client) Window(ctx context.Context, id string, trial int, from, to int64) (wire.Window, error) {
	return call[wire.Window](ctx, c, http.MethodGet,
		query(path("submissions", id, "reels", strconv.Itoa(trial), "window"), "from", number(from), "to", number(to)),
		nil)
}

// Film gives a trial as a film strip, an SVG document.
func (c *Client) Film(ctx context.Context, id string, trial int) ([]byte, error) {
	return c.bytes(ctx, path("submissions", id, "reels", strconv.Itoa(trial), "film.svg"))
}

// Still gives all displays of a trial at a moment, in microseconds, as a PNG.
func (c *Client) Still(ctx context.Context, id string, trial int, at int64) ([]byte, error) {
	return c.bytes(ctx, query(path("submissions", id, "reels", strconv.Itoa(trial), "still.png"), "at", number(at)))
}

// Source gives the source files that were submitted.
func (c *Client) Source(ctx context.Context, id string) ([]wire.SourceFile, error) {
	return call[[]wire.SourceFile](ctx, c, http.MethodGet, path("submissions", id, "source"), nil)
}

// Bulk hands many files in at once, to be confirmed.
func (c *Client) Bulk(ctx context.Context, class, exercise string, files []File) (wire.Bulk, error) {
	for i := range files {
		files[i].Field = "file"
	}
	return form[wire.Bulk](ctx, c, path("classes", class, "assignments", exercise, "bulk"), nil, files)
}

// Confirm submits the files of a bulk.
func (c *Client) Confirm(ctx context.Context, class, exercise, id string, in wire.Confirm) (wire.Bulk, error) {
	return call[wire.Bulk](ctx, c, http.MethodPost, path("classes", class, "assignments", exercise, "bulk", id), in)
}

// Result gives a submission with its sheet.
func (c *Client) Result(ctx context.Context, id string) (*wire.Result, error) {
	r, err := call[wire.Result](ctx, c, http.MethodGet, path("submissions", id), nil)
	return &r, err
}

// Cancel takes a submission back that is not marked yet.
func (c *Client) Cancel(ctx context.Context, id string) error {
	return c.do(ctx, http.MethodDelete, path("submissions", id), nil)
}

// File gives what was submitted.
func (c *Client) File(ctx context.Context, id string) ([]byte, error) {
	return c.bytes(ctx, path("submissions", id, "file"))
}

// Reel gives what the displays showed in one trial of a submission.
func (c *Client) Reel(ctx context.Context, id string, trial int) (*reel.Reel, error) {
	return call[*reel.Reel](ctx, c, http.MethodGet, path("submissions", id, "reels", strconv.Itoa(trial)), nil)
}

// SheetPage gives a submission's sheet as a page.
func (c *Client) SheetPage(ctx context.Context, id string) ([]byte, error) {
	return c.bytes(ctx, path("submissions", id, "sheet.html"))
}

// SeedSensitivity marks a submission under several seeds.
func (c *Client) SeedSensitivity(ctx context.Context, id string, seeds int) (wire.SeedSensitivity, error) {
	return call[wire.SeedSensitivity](ctx, c, http.MethodGet,
		query(path("submissions", id, "seeds"), "seeds", strconv.Itoa(seeds)),
		nil)
}

// Done reports whether a submission has come to its end.
func Done(s wire.Submission) bool { return s.State != wire.Queued && s.State != wire.Running }

// Wait returns when all the submissions of an exercise have come to their end, telling of each once. It listens for
// changes, and looks by itself where the stream breaks.
func (c *Client) Wait(ctx context.Context, class, exercise string, ids []string, done func(wire.Submission)) error {
	open := map[string]bool{}
	for _, id := range ids {
		open[id] = true
	}
	take := func(s wire.Submission) {
		if open[s.ID] && Done(s) {
			delete(open, s.ID)
			done(s)
		}
	}
	look := func() error {
		list, err := c.Submissions(ctx, class, exercise)
		for _, s := range list {
			take(s)
		}
		return err
	}
	resume := ""
	for len(open) > 0 {
		err := c.listen(ctx, class, &resume, look, func(s wire.Submission) bool {
			take(s)
			return len(open) > 0
		})
		var refused *Error
		if errors.As(err, &refused) && refused.Status < 500 || ctx.Err() != nil {
			return errors.Join(ctx.Err(), err)
		}
		if len(open) > 0 {
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
	return nil
}

// listen reads the event stream of a class until it breaks, or event says to stop. look is called where something may
// have been missed.
func (c *Client) listen(ctx context.Context, class string, resume *string, look func() error,
	event func(wire.Submission) bool) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, c.Server+"/api/v1"+path("classes", class, "events"), nil)
	if err != nil {
		return err
	}
	r.Header.Set("Authorization", "Bearer "+c.Token)
	if *resume != "" {
		r.Header.Set("Last-Event-ID", *resume)
	}
	answer, err := c.HTTP.Do(r)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		e := &Error{}
		_ = json.NewDecoder(io.LimitReader(answer.Body, 1<<20)).Decode(&e.Problem)
		if e.Status = answer.StatusCode; e.Detail == "" {
			e.Detail = fmt.Sprintf("the service at %s answered %s", c.Server, answer.Status)
		}
		return e
	}
	first := *resume == ""
	kind := ""
	lines := bufio.NewScanner(answer.Body)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		field, value, _ := strings.Cut(lines.Text(), ": ")
		switch field {
		case "event":
			kind = value
		case "id":
			*resume = value
		case "data":
			if kind == "reset" || kind == "listening" && first {
				if err := look(); err != nil {
					return err
				}
				if !event(wire.Submission{}) {
					return nil
				}
			}
			if kind != "submission" {
				continue
			}
			var s wire.Submission
			if err := json.Unmarshal([]byte(value), &s); err != nil {
				return err
			}
			if !event(s) {
				return nil
			}
		}
	}
	return lines.Err()
}

// Place returns how long the line is for what is simulated on request.
func (c *Client) Place(ctx context.Context) (wire.Place, error) {
	return call[wire.Place](ctx, c, http.MethodGet, "/place", nil)
}

// Bench gives a submission for a live bench.
func (c *Client) Bench(ctx context.Context, id string) (wire.Bench, error) {
	return call[wire.Bench](ctx, c, http.MethodGet, path("submissions", id, "bench"), nil)
}
