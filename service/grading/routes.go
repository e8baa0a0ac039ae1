package grading

import (
	"net/http"

	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about grading.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodGet, Path: "/place", Access: web.SignedIn,
			Doc:    "how many simulations on request are ahead of the caller's",
			Answer: wire.Place{}, Do: a.place},
		{Method: http.MethodGet, Path: "/queue", Access: web.Admins,
			Doc: "the queue: waiting, running and quarantined jobs", Answer: wire.QueueState{}, Do: a.queue},
		{Method: http.MethodPost, Path: "/queue/:job", Access: web.Admins,
			Doc: "puts a quarantined job back in the queue",
			Do:  a.retry},
		{Method: http.MethodPost, Path: "/try", Access: web.Instructors,
			Doc:   "marks firmware against a draft and stores nothing: a form with text and either file, or exercise and reference (a file of its folder)",
			Takes: web.MediaForm, Form: tried, Answer: wire.Tried{}, Do: a.try},
		{Method: http.MethodPost, Path: "/record", Access: web.Instructors,
			Doc:   "writes what a reference shows as expectations into a draft; with `replace` also in place of those it does not meet: a form as for /try",
			Takes: web.MediaForm, Form: tried, Answer: wire.Recorded{}, Do: a.record},
		{Method: http.MethodPost, Path: "/demonstrate", Access: web.Instructors,
			Doc:   "makes a trial of what was done by hand on a live bench, with cues and expectations: a form as for /try, with `demonstration` as JSON",
			Takes: web.MediaForm, Form: shown, Answer: wire.Demonstrated{}, Do: a.demonstrate},
		{Method: http.MethodPost, Path: "/strength", Access: web.Instructors,
			Doc: "tests which faults of a reference a draft notices: a form as for /try", Takes: web.MediaForm,
			Form: tried, Answer: []wire.Variant{}, Do: a.strength},
		{Method: http.MethodPost, Path: "/build", Access: web.Instructors,
			Doc:   "gives what a draft's chip is programmed with, source built first, for the live bench: a form as for /try",
			Takes: web.MediaForm, Form: tried, Answer: wire.Firmware{}, Do: a.build},
		{Method: http.MethodDelete, Path: web.SubmissionPath, Access: web.Owner,
			Doc: "cancels a submission that is not marked yet", Do: a.cancel},
	}
}
