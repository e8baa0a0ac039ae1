package submissions

import (
	"context"
	"errors"
	"strings"
	"time"
	"unicode/utf8"

	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/exercises/policy"
	"hemble/service/ports"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls that submit work.
type API struct {
	Store     *Store
	Classes   *classes.Store
	Exercises *exercises.Store
	Reader    *exercises.Reader
	Events    ports.Events

	// Wake tells the workers that there is something new.
	Wake func()
	// Shown is a submission as who asks may see it.
	Shown func(r *web.Request, o *record.Assignment, s *record.Submission) (wire.Submission, error)
}

// taken tells why a file cannot be work where these kinds are taken; nil where it can.
func taken(kinds []string, name string, data []byte) error {
	kind, err := Kind(name, data)
	if err == nil {
		err = Takes(kinds, kind)
	}
	return err
}

// MaxComment bounds a comment, in bytes.
const MaxComment = 4000

func (a *API) submit(r *web.Request) (any, error) {
	form, err := web.ReadForm(r, web.MaxUpload, 2)
	if err != nil {
		return nil, err
	}
	name, data := form.File("file")
	if name == "" {
		return nil, web.Bad("expected a form with a file")
	}
	h := Work{Assignment: r.Assignment, By: r.Account, File: name, Data: data,
		Comment: strings.TrimSpace(form.Value("comment"))}
	kinds, err := a.Reader.Takes(r, r.Assignment)
	if err != nil {
		return nil, err
	}
	if err := taken(kinds, name, data); err != nil {
		return nil, web.Unfit("file", "%s: %s", name, err)
	}
	if len(h.Comment) > MaxComment || !utf8.ValidString(h.Comment) {
		return nil, web.Unfit("comment", "a comment can have at most %d bytes", MaxComment)
	}
	_, h.Wiring = form.File("wiring")
	login := r.Account.Login
	if who := form.Value("student"); who != "" && !r.IsStudent() {
		login = who
	}
	if h.Student, err = a.Classes.Student(r, r.Class.ID, login); err != nil {
		if errors.Is(err, db.ErrNotFound) {
			err = web.Unfit("student", "the class has no student %.64q", login)
		}
		return nil, err
	}
	if err := a.fits(r, r.Assignment, h.Student.Login, h.Wiring); err != nil {
		return nil, err
	}
	if r.IsStudent() {
		own := policy.Of(r.Assignment.Policy, r.Assignment.Extensions, h.Student.Login, h.Student.Group)
		h.Admit = func(attempts int, last time.Time) error {
			s := policy.Standing(own, attempts, last, a.Store.Now())
			if r.Assignment.Archived {
				s.Open, s.Why = false, "the class is archived"
			}
			if !s.Open {
				return &db.Refusal{Code: "not-open", Text: "not accepted: " + s.Why}
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
func (a *API) fits(ctx context.Context, o *record.Assignment, login string, wiring []byte) error {
	if len(wiring) == 0 {
		return nil
	}
	x, err := a.Reader.Of(ctx, o, login)
	if err != nil {
		return err
	}
	if out, problems := x.Rewire("wiring.yaml", wiring); out == nil {
		return &web.Faulty{Code: "wiring", Detail: "this wiring cannot be built", Mistakes: web.Mistakes(problems)}
	}
	return nil
}

// hand keeps work and tells of it. From the moment it is begun, the one who sends it may go away.
func (a *API) hand(r *web.Request, h Work) (*wire.Receipt, error) {
	id, same, err := a.Store.Submit(context.WithoutCancel(r), h)
	if err != nil {
		return nil, err
	}
	a.Wake()
	a.Events.Changed(id)
	s, err := a.Store.Submission(r, id)
	if err != nil {
		return nil, err
	}
	one, err := a.Shown(r, h.Assignment, s)
	return &wire.Receipt{Submission: one, Same: same}, err
}

func (a *API) file(r *web.Request) (any, error) {
	data, err := a.Store.Blobs.Get(r, r.Submission.Blob)
	return web.Raw{Data: data, Name: r.Submission.File}, err
}
