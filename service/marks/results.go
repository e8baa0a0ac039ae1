package marks

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/render"
	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) submissions(r *web.Request) (any, error) {
	limit, offset, err := web.Page(r)
	if err != nil {
		return nil, err
	}
	f := submissions.Filter{State: r.Query("state"), Search: r.Query("search"), Alike: r.Query("alike"), Limit: limit,
		Offset: offset}
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	switch {
	case r.IsStudent():
		f.Student, f.Alike = r.Account.ID, ""
	case r.Query("student") != "":
		m, err := a.Classes.Student(r, r.Class.ID, r.Query("student"))
		if err != nil {
			return nil, err
		}
		f.Student = m.AccountID
	}
	rows, total, err := a.Submissions.Submissions(r, r.Assignment.ID, f)
	if err != nil {
		return nil, err
	}
	counts := map[string]bool{}
	if len(rows) > 0 {
		whose := map[int64]bool{}
		for _, s := range rows {
			whose[s.AccountID] = true
		}
		counts, err = v.counting(r, slices.Collect(maps.Keys(whose))...)
	}
	if err != nil {
		return nil, err
	}
	out := wire.Page[wire.Submission]{Items: []wire.Submission{}, Total: total}
	for i := range rows {
		s, err := v.one(r, &rows[i])
		if err != nil {
			return nil, err
		}
		s.Counts = counts[s.ID]
		out.Items = append(out.Items, s)
	}
	if offset+len(rows) < total {
		out.Next = strconv.Itoa(offset + len(rows))
	}
	return out, nil
}

func (a *API) submission(r *web.Request) (any, error) {
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	return v.result(r, r.Submission)
}

// reel gives what the displays showed in one trial. A student counts the trials of the sheet that they see.
// seenTrial finds the trial that a number on the sheet means to who looks.
func (a *API) seenTrial(r *web.Request) (v *view, trial int, err error) {
	seen, err := web.Numbered(r, "trial")
	if err != nil {
		return nil, 0, err
	}
	if v, err = a.viewOf(r, r.Class, r.Assignment, r.Account); err != nil {
		return nil, 0, err
	}
	trial, err = v.trial(r, r.Submission, int(seen))
	return v, trial, err
}

func (a *API) reel(r *web.Request) (any, error) {
	_, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	data, err := a.reelOf(r, r.Submission, trial)
	return json.RawMessage(data), err
}

// reelRead is a trial's reel, to be drawn.
func (a *API) reelRead(r *web.Request, trial int) (*reel.Reel, error) {
	data, err := a.reelOf(r, r.Submission, trial)
	if err != nil {
		return nil, err
	}
	seen := &reel.Reel{}
	return seen, json.Unmarshal(data, seen)
}

func (a *API) film(r *web.Request) (any, error) {
	v, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	seen, err := a.reelRead(r, trial)
	if err != nil {
		return nil, err
	}
	sh, err := v.sheet(r, r.Submission)
	if err != nil {
		return nil, err
	}
	var judged *sheet.Trial
	for i := range sh.Trials {
		if sh.Trials[i].Name == seen.Trial && !sh.Unmarked {
			judged = &sh.Trials[i]
		}
	}
	return web.Raw{Data: []byte(render.Film(seen, judged).SVG())}, nil
}

func (a *API) still(r *web.Request) (any, error) {
	_, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	at, err := microseconds(r, "at", 0)
	if err != nil {
		return nil, err
	}
	seen, err := a.reelRead(r, trial)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = render.Still(seen, min(at, seen.Length)).PNG(&b, 2)
	return web.Raw{Data: b.Bytes()}, err
}

// microseconds reads a time of a query.
func microseconds(r *web.Request, name string, otherwise clock.Time) (clock.Time, error) {
	if r.Query(name) == "" {
		return otherwise, nil
	}
	n, err := strconv.ParseInt(r.Query(name), 10, 64)
	if err != nil || n < 0 || n > 1e12 {
		return 0, web.Bad("%s is a number of microseconds, not %.20q", name, r.Query(name))
	}
	return clock.Time(n) * clock.Microsecond, nil
}

// maxWindow bounds a look as driven.
const maxWindow = clock.Second

func (a *API) window(r *web.Request) (any, error) {
	_, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	from, err := microseconds(r, "from", 0)
	if err != nil {
		return nil, err
	}
	to, err := microseconds(r, "to", from+20*clock.Millisecond)
	if err != nil {
		return nil, err
	}
	if to <= from || to-from > maxWindow {
		return nil, web.Bad("a window ends after it begins, at most %s later", maxWindow.Short())
	}
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	w, err := a.Grader.Window(ctx, r.Submission.ID, r.Submission.Job, trial, from, to)
	if err != nil {
		return nil, grading.OutOfTime(ctx, err)
	}
	return wire.Window{From: from, To: to, Moments: append([]reel.Moment{}, w.Moments...), Left: w.Left()}, nil
}

func (a *API) source(r *web.Request) (any, error) {
	files, err := a.Grader.Source(r, r.Submission.ID)
	out := []wire.SourceFile{}
	for _, f := range files {
		out = append(out, wire.SourceFile{Path: f.Path, Text: strings.ToValidUTF8(string(f.Data), "�")})
	}
	return out, err
}

func (a *API) reelOf(r *web.Request, s *record.Submission, trial int) ([]byte, error) {
	if data, err := a.Grading.Reel(s.Job, trial); err == nil {
		return data, nil
	}
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	data, err := a.Grader.Reel(ctx, s.ID, s.Job, trial)
	return data, grading.OutOfTime(ctx, err)
}

// trial turns the number of a trial as a viewer sees it into that of the exercise.
func (v *view) trial(ctx context.Context, s *record.Submission, seen int) (int, error) {
	if s.State != wire.Marked || !v.seesSheet() {
		return 0, db.ErrNotFound
	}
	if !v.student {
		return seen, nil
	}
	sh, err := v.a.Grading.Sheet(ctx, s.Job)
	if err != nil || sh == nil {
		return 0, errors.Join(err, db.ErrNotFound)
	}
	n := 0
	for i, t := range sh.Trials {
		switch {
		case t.Hidden && v.assignment.Released == nil:
		case n == seen && t.Hidden:
			return 0, db.ErrNotFound
		case n == seen:
			return i, nil
		default:
			n++
		}
	}
	return 0, db.ErrNotFound
}

func (a *API) sheetPage(r *web.Request) (any, error) {
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := v.page(r, &b, r.Submission); err != nil {
		return nil, err
	}
	return web.Raw{Data: b.Bytes(), Name: r.Submission.Exercise + "-" + r.Submission.Login + ".html"}, nil
}

// page writes a submission's sheet as HTML.
func (v *view) page(r *web.Request, w io.Writer, s *record.Submission) error {
	if !v.seesSheet() {
		return db.ErrNotFound
	}
	sh, err := v.sheet(r, s)
	if err != nil {
		return err
	}
	if sh == nil {
		return db.ErrNotFound
	}
	m := render.Marked{Sheet: sh}
	for i, t := range sh.Trials {
		if v.student && t.Hidden {
			m.Reels = append(m.Reels, nil)
			continue
		}
		trial, err := v.trial(r, s, i)
		if err != nil {
			return err
		}
		data, err := v.a.reelOf(r, s, trial)
		if err != nil {
			return err
		}
		var run reel.Reel
		if err := json.Unmarshal(data, &run); err != nil {
			return err
		}
		m.Reels = append(m.Reels, &run)
	}
	return render.HTML(w, s.Title+" · "+s.Student, []render.Marked{m})
}

func (a *API) seedSensitivity(r *web.Request) (any, error) {
	n := 8
	if q := r.Query("seeds"); q != "" {
		var err error
		if n, err = strconv.Atoi(q); err != nil || n < 2 || n > 32 {
			return nil, web.Bad("seeds: expected 2 to 32, got %.20q", q)
		}
	}
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	l, err := a.Grader.SeedSensitivity(ctx, r.Submission.ID, n)
	if err != nil {
		return nil, grading.OutOfTime(ctx, err)
	}
	out := wire.SeedSensitivity{Passed: l.Passed, Depends: l.Depends(), Marks: []json.Number{}}
	for _, m := range l.Marks {
		out.Marks = append(out.Marks, json.Number(m.String()))
	}
	return out, nil
}
