package api

import (
	"encoding/json"
	"net/http"
	"slices"

	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API, those of each subject and the few that are of the service as a whole.
func (a *API) Routes() []web.Route {
	return slices.Concat(a.people.Routes(), a.classes.Routes(), a.exercises.Routes(), a.submissions.Routes(),
		a.grading.Routes(),
		a.marks.Routes(), a.own())
}

// Routes lists the calls of the API for who wants to know of them, and not to make them.
func Routes() []web.Route { return new(API).Routes() }

func (a *API) own() []web.Route {
	return []web.Route{
		{Method: http.MethodGet, Path: "/audit", Access: web.Admins,
			Doc: "the audit log: changes of marks and rights, newest first", Query: web.Paging,
			Answer: wire.Page[wire.AuditEntry]{}, Do: a.audit},
		{Method: http.MethodGet, Path: "/backup", Access: web.Admins,
			Doc: "a copy of everything, while the service runs", Gives: web.MediaTar, Do: a.backup},
		{Method: http.MethodGet, Path: web.ClassPath + "/audit", Access: web.ClassInstructors,
			Doc: "the audit log of the class: changes of marks and rights", Query: web.Paging, Answer: wire.Page[wire.AuditEntry]{},
			Do: a.audit},
		{Method: http.MethodGet, Path: web.ClassPath + "/events", Access: web.Members,
			Doc: "changes of submissions, as server-sent events; Last-Event-ID resumes", Gives: web.MediaEvents,
			Do: a.events},
		{Method: http.MethodGet, Path: "/openapi.json", Access: web.Anyone, Doc: "this document",
			Answer: json.RawMessage{}, Do: a.openAPI},
	}
}
