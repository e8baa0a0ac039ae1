package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/render"
	"hemble/service/desk"
	"hemble/service/store"
	"hemble/service/terms"
	"hemble/wire"
)

// Bounds of a page of a list.
const (
	usualPage = 100
	mostPage  = 1000
)

// page reads limit and after.
func page(r *request) (limit, offset int, err error) {
	limit = usualPage
	if q := r.Query("limit"); q != "" {
		if limit, err = strconv.Atoi(q); err != nil || limit < 1 || limit > mostPage {
			return 0, 0, bad("limit is 1 to %d, not %.20q", mostPage, q)
		}
	}
	if q := r.Query("after"); q != "" {
		if offset, err = strconv.Atoi(q); err != nil || offset < 0 {
			return 0, 0, bad("after is the next of the page before, not %.20q", q)
		}
	}
	return limit, offset, nil
}

func (a *API) submissions(r *request) (any, error) {
	limit, offset, err := page(r)
	if err != nil {
		return nil, err
	}
	f := store.Filter{State: r.Query("state"), Search: r.Query("search"), Alike: r.Query("alike"), Limit: limit, Offset: offset}
	v, err := a.viewOf(r, r.class, r.opening, r.account)
	if err != nil {
		return nil, err
	}
	switch {
	case r.student():
		f.Student, f.Alike = r.account.ID, ""
	case r.Query("student") != "":
		m, err := a.Store.Student(r, r.class.ID, r.Query("student"))
		if err != nil {
			return nil, err
		}
		f.Student = m.AccountID
	}
	rows, total, err := a.Store.Submissions(r, r.opening.ID, f)
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

func (a *API) submission(r *request) (any, error) {
	v, err := a.viewOf(r, r.class, r.opening, r.account)
	if err != nil {
		return nil, err
	}
	return v.result(r, r.submission)
}

// upload is a form with files.
type upload struct {
	values map[string]string
	files  []formFile
}

type formFile struct {
	key, name string
	data      []byte
}

// Bounds of a form.
const (
	maxValues = 32
	maxValue  = maxBody
)

// readForm reads a form part by part: of so many bytes, and so many files, at most.
func readForm(r *request, most int64, files int) (*upload, error) {
	if ct := r.ContentType(); ct != mediaForm {
		return nil, &problem{http.StatusUnsupportedMediaType, "media-type", fmt.Sprintf("this takes %s, not %.60q", mediaForm, ct)}
	}
	r.Request.Body = http.MaxBytesReader(r.Writer, r.Request.Body, most)
	parts, err := r.Request.MultipartReader()
	if err != nil {
		return nil, bad("this is no form: %s", err)
	}
	u := &upload{values: map[string]string{}}
	for {
		p, err := parts.NextPart()
		if err == io.EOF {
			return u, nil
		}
		if err != nil {
			return nil, formError(err)
		}
		data, err := io.ReadAll(p)
		if err != nil {
			return nil, formError(err)
		}
		name := p.FileName()
		switch {
		case name != "" && len(u.files) == files:
			return nil, unfit("form", "there are more than %d files; that many are taken at once", files)
		case name != "":
			u.files = append(u.files, formFile{p.FormName(), fileName(name), data})
		case len(u.values) == maxValues || len(data) > maxValue:
			return nil, unfit("form", "a form has at most %d values of %d bytes", maxValues, maxValue)
		default:
			if _, again := u.values[p.FormName()]; !again {
				u.values[p.FormName()] = string(data)
			}
		}
	}
}

func formError(err error) error {
	var large *http.MaxBytesError
	var late net.Error
	switch {
	case errors.As(err, &large):
		return err
	case errors.As(err, &late) && late.Timeout():
		return &problem{http.StatusRequestTimeout, "slow", fmt.Sprintf("what was announced did not arrive within %s", uploadTime)}
	}
	return bad("this is no form: %s", err)
}

// file gives the content of one file of a form and its name without folders; "" where there is none.
func (u *upload) file(key string) (name string, data []byte) {
	for _, f := range u.files {
		if f.key == key {
			return f.name, f.data
		}
	}
	return "", nil
}

func (u *upload) value(key string) string { return u.values[key] }

// fileName keeps of a path its last part, without what no name needs.
func fileName(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == utf8.RuneError {
			return -1
		}
		return r
	}, path.Base(strings.ReplaceAll(s, `\`, "/")))
	if r := []rune(s); len(r) > 120 {
		s = string(r[len(r)-120:])
	}
	if s == "" || s == "." || s == "/" {
		return "firmware"
	}
	return s
}

// takes gives the kinds of work that an opening takes: its own, or those of its exercise.
func (a *API) takes(ctx context.Context, o *store.Opening) ([]string, error) {
	if len(o.Takes) > 0 {
		return o.Takes, nil
	}
	text, err := a.Store.Blobs.Get(ctx, o.Blob)
	if err != nil {
		return nil, err
	}
	x, err := a.Desk.Exercise(text, o.Exercise, "")
	if err != nil {
		return nil, err
	}
	return x.Takes, nil
}

// taken tells why a file cannot be work where these kinds are taken; nil where it can.
func taken(kinds []string, name string, data []byte) error {
	kind, err := desk.Kind(name, data)
	if err == nil {
		err = desk.Takes(kinds, kind)
	}
	return err
}

const maxComment = 4000

func (a *API) submit(r *request) (any, error) {
	form, err := readForm(r, maxUpload, 2)
	if err != nil {
		return nil, err
	}
	name, data := form.file("file")
	if name == "" {
		return nil, bad("a submission is a form with a file")
	}
	h := store.Handed{Opening: r.opening, By: r.account, File: name, Data: data, Comment: strings.TrimSpace(form.value("comment"))}
	kinds, err := a.takes(r, r.opening)
	if err != nil {
		return nil, err
	}
	if err := taken(kinds, name, data); err != nil {
		return nil, unfit("file", "%s: %s", name, err)
	}
	if len(h.Comment) > maxComment || !utf8.ValidString(h.Comment) {
		return nil, unfit("comment", "a comment has at most %d bytes", maxComment)
	}
	_, h.Wiring = form.file("wiring")
	login := r.account.Login
	if who := form.value("student"); who != "" && !r.student() {
		login = who
	}
	if h.Student, err = a.Store.Student(r, r.class.ID, login); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			err = unfit("student", "the class has no student %.64q", login)
		}
		return nil, err
	}
	if err := a.fits(r, r.opening, h.Student.Login, h.Wiring); err != nil {
		return nil, err
	}
	if r.student() {
		own := terms.Of(r.opening.Terms, r.opening.Extensions, h.Student.Login, h.Student.Group)
		h.Admit = func(attempts int, last time.Time) error {
			s := terms.Standing(own, attempts, last, a.Store.Now())
			if r.opening.Archived {
				s.Open, s.Why = false, "the class is archived"
			}
			if !s.Open {
				return &store.Refusal{Code: "not-open", Text: "this was not taken: " + s.Why}
			}
			return nil
		}
	}
	out, err := a.hand(r, h)
	if err != nil {
		return nil, err
	}
	return out, nil
}

// fits checks a wiring file before the work is taken, so that a slip of the pen costs no attempt.
func (a *API) fits(ctx context.Context, o *store.Opening, login string, wiring []byte) error {
	if len(wiring) == 0 {
		return nil
	}
	text, err := a.Store.Blobs.Get(ctx, o.Blob)
	if err != nil {
		return err
	}
	x, err := a.Desk.Exercise(text, o.Exercise, login)
	if err != nil {
		return err
	}
	if out, problems := x.Rewire("wiring.yaml", wiring); out == nil {
		return &faulty{"wiring", "this wiring cannot be built", mistakes(problems)}
	}
	return nil
}

// hand keeps work and tells of it. From the moment it is begun, the one who sends it may go away.
func (a *API) hand(r *request, h store.Handed) (*wire.Receipt, error) {
	id, same, err := a.Store.Submit(context.WithoutCancel(r), h)
	if err != nil {
		return nil, err
	}
	a.Queue.Wake()
	a.Hub.Changed(id)
	s, err := a.Store.Submission(r, id)
	if err != nil {
		return nil, err
	}
	v, err := a.viewOf(r, r.class, h.Opening, r.account)
	if err != nil {
		return nil, err
	}
	one, err := v.one(r, s)
	return &wire.Receipt{Submission: one, Same: same}, err
}

func (a *API) cancel(r *request) (any, error) {
	if err := a.Store.Cancel(r, r.account.Login, r.submission); err != nil {
		return nil, err
	}
	a.Hub.Changed(r.submission.ID)
	return nil, nil
}

func (a *API) file(r *request) (any, error) {
	data, err := a.Store.Blobs.Get(r, r.submission.Blob)
	return raw{data, r.submission.File}, err
}

// reel gives what the displays showed in one trial. A student counts the trials of the sheet that they see.
// seenTrial finds the trial that a number on the sheet means to who looks.
func (a *API) seenTrial(r *request) (v *view, trial int, err error) {
	seen, err := numbered(r, "trial")
	if err != nil {
		return nil, 0, err
	}
	if v, err = a.viewOf(r, r.class, r.opening, r.account); err != nil {
		return nil, 0, err
	}
	trial, err = v.trial(r, r.submission, int(seen))
	return v, trial, err
}

func (a *API) reel(r *request) (any, error) {
	_, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	data, err := a.reelOf(r, r.submission, trial)
	return json.RawMessage(data), err
}

// reelRead is a trial's reel, to be drawn.
func (a *API) reelRead(r *request, trial int) (*reel.Reel, error) {
	data, err := a.reelOf(r, r.submission, trial)
	if err != nil {
		return nil, err
	}
	seen := &reel.Reel{}
	return seen, json.Unmarshal(data, seen)
}

func (a *API) film(r *request) (any, error) {
	v, trial, err := a.seenTrial(r)
	if err != nil {
		return nil, err
	}
	seen, err := a.reelRead(r, trial)
	if err != nil {
		return nil, err
	}
	sh, err := v.sheet(r, r.submission)
	if err != nil {
		return nil, err
	}
	var judged *sheet.Trial
	for i := range sh.Trials {
		if sh.Trials[i].Name == seen.Trial && !sh.Unmarked {
			judged = &sh.Trials[i]
		}
	}
	return raw{[]byte(render.Film(seen, judged).SVG()), ""}, nil
}

func (a *API) still(r *request) (any, error) {
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
	return raw{b.Bytes(), ""}, err
}

// microseconds reads a time of a query.
func microseconds(r *request, name string, otherwise clock.Time) (clock.Time, error) {
	if r.Query(name) == "" {
		return otherwise, nil
	}
	n, err := strconv.ParseInt(r.Query(name), 10, 64)
	if err != nil || n < 0 || n > 1e12 {
		return 0, bad("%s is a number of microseconds, not %.20q", name, r.Query(name))
	}
	return clock.Time(n) * clock.Microsecond, nil
}

// maxWindow bounds a look with the eye off.
const maxWindow = clock.Second

func (a *API) window(r *request) (any, error) {
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
		return nil, bad("a window ends after it begins, at most %s later", maxWindow.Short())
	}
	ctx, done, err := a.turn(r)
	if err != nil {
		return nil, err
	}
	defer done()
	w, err := a.Desk.Window(ctx, r.submission.ID, r.submission.Job, trial, from, to)
	if err != nil {
		return nil, outOfTime(ctx, err)
	}
	return wire.Window{From: from, To: to, Moments: append([]reel.Moment{}, w.Moments...), Left: w.Left()}, nil
}

func (a *API) source(r *request) (any, error) {
	files, err := a.Desk.Source(r, r.submission.ID)
	out := []wire.SourceFile{}
	for _, f := range files {
		out = append(out, wire.SourceFile{Path: f.Path, Text: strings.ToValidUTF8(string(f.Data), "�")})
	}
	return out, err
}

func (a *API) reelOf(r *request, s *store.Submission, trial int) ([]byte, error) {
	if data, err := a.Store.Reel(s.Job, trial); err == nil {
		return data, nil
	}
	ctx, done, err := a.turn(r)
	if err != nil {
		return nil, err
	}
	defer done()
	data, err := a.Desk.Reel(ctx, s.ID, s.Job, trial)
	return data, outOfTime(ctx, err)
}

// trial turns the number of a trial as a viewer sees it into that of the exercise.
func (v *view) trial(ctx context.Context, s *store.Submission, seen int) (int, error) {
	if s.State != wire.Marked || !v.seesSheet() {
		return 0, store.ErrNotFound
	}
	if !v.student {
		return seen, nil
	}
	sh, err := v.a.Store.Sheet(ctx, s.Job)
	if err != nil || sh == nil {
		return 0, errors.Join(err, store.ErrNotFound)
	}
	n := 0
	for i, t := range sh.Trials {
		switch {
		case t.Hidden && v.opening.Released == nil:
		case n == seen && t.Hidden:
			return 0, store.ErrNotFound
		case n == seen:
			return i, nil
		default:
			n++
		}
	}
	return 0, store.ErrNotFound
}

func (a *API) sheetPage(r *request) (any, error) {
	v, err := a.viewOf(r, r.class, r.opening, r.account)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := v.page(r, &b, r.submission); err != nil {
		return nil, err
	}
	return raw{b.Bytes(), r.submission.Exercise + "-" + r.submission.Login + ".html"}, nil
}

// page writes a submission's sheet as HTML.
func (v *view) page(r *request, w io.Writer, s *store.Submission) error {
	if !v.seesSheet() {
		return store.ErrNotFound
	}
	sh, err := v.sheet(r, s)
	if err != nil {
		return err
	}
	if sh == nil {
		return store.ErrNotFound
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

func (a *API) luck(r *request) (any, error) {
	n := 8
	if q := r.Query("seeds"); q != "" {
		var err error
		if n, err = strconv.Atoi(q); err != nil || n < 2 || n > 32 {
			return nil, bad("seeds are 2 to 32, not %.20q", q)
		}
	}
	ctx, done, err := a.turn(r)
	if err != nil {
		return nil, err
	}
	defer done()
	l, err := a.Desk.Luck(ctx, r.submission.ID, n)
	if err != nil {
		return nil, outOfTime(ctx, err)
	}
	out := wire.Luck{Passed: l.Passed, Lucky: l.Lucky(), Marks: []json.Number{}}
	for _, m := range l.Marks {
		out.Marks = append(out.Marks, json.Number(m.String()))
	}
	return out, nil
}
