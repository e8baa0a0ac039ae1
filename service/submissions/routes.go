package submissions

import (
	"net/http"

	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about submissions.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodPost, Path: web.AssignmentPath + "/submissions", Access: web.Members,
			Doc:   "submits: a form with file and optionally wiring, comment and, from markers, student (a login)",
			Takes: web.MediaForm, Form: []web.Field{{Name: "file", File: true, Required: true},
				{Name: "wiring", File: true}, {Name: "comment"}, {Name: "student"}}, Answer: wire.Receipt{},
			Status: 201, Submits: true, Do: a.submit},
		{Method: http.MethodPost, Path: web.AssignmentPath + "/bulk", Access: web.Staff,
			Doc: "prepares many files at once, matched to the roster: a form with one or more `file`", Takes: web.MediaForm,
			Form: []web.Field{{Name: "file", File: true, Required: true}}, Answer: wire.Bulk{}, Status: 201,
			Do: a.addBulk},
		{Method: http.MethodGet, Path: web.AssignmentPath + "/bulk/:bulk", Access: web.Staff,
			Doc: "files submitted together", Answer: wire.Bulk{}, Do: a.bulk},
		{Method: http.MethodPost, Path: web.AssignmentPath + "/bulk/:bulk", Access: web.Staff,
			Doc: "submits them, after the doubtful ones were checked", Body: wire.Confirm{}, Answer: wire.Bulk{},
			Do: a.confirmBulk},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/file", Access: web.Owner, Doc: "the submitted file",
			Gives: web.MediaBytes, Do: a.file},
	}
}
