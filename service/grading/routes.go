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
			Doc:    "how many simulations come before the caller's own, of those that are made on request",
			Answer: wire.Place{}, Do: a.place},
		{Method: http.MethodGet, Path: "/queue", Access: web.Admins,
			Doc: "what waits, what is under way, what was quarantined", Answer: wire.QueueState{}, Do: a.queue},
		{Method: http.MethodPost, Path: "/queue/:job", Access: web.Admins,
			Doc: "queues a job again that was quarantined",
			Do:  a.retry},
		{Method: http.MethodPost, Path: "/try", Access: web.Instructors,
			Doc:   "marks a firmware against a draft, and keeps nothing: a form with text and either file, or exercise and reference (a file of its folder)",
			Takes: web.MediaForm, Form: tried, Answer: wire.Tried{}, Do: a.try},
		{Method: http.MethodPost, Path: "/record", Access: web.Instructors,
			Doc:   "writes what a reference shows as expectations into a draft, with anew also in the place of those that it does not meet: a form as of /try",
			Takes: web.MediaForm, Form: tried, Answer: wire.Recorded{}, Do: a.record},
		{Method: http.MethodPost, Path: "/strength", Access: web.Instructors,
			Doc: "tells which faults of a reference a draft catches: a form as of /try", Takes: web.MediaForm,
			Form: tried, Answer: []wire.Variant{}, Do: a.strength},
		{Method: http.MethodDelete, Path: web.SubmissionPath, Access: web.Owner,
			Doc: "cancels a submission that is not marked yet", Do: a.cancel},
	}
}
