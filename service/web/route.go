package web

import "net/http"

// Access is who may use a route. What a route is about (a class, a submission) is looked up from its address before, as
// the asking account sees it; what it may not see is as if it were not there.
type Access int

// The kinds of access. There is no default: a route without one is refused when the table is built.
const (
	_                Access = iota
	Anyone                  // without signing in
	SignedIn                // every account
	Themselves              // every account by a session: its own security, which no token touches
	Instructors             // accounts that may make classes and exercises
	Admins                  // accounts that run the service
	Members                 // everybody of the class
	Owner                   // the student whose submission it is, and those who mark the class
	Staff                   // those who mark the class
	ClassInstructors        // those who answer for the class
)

// Param is a parameter of a query.
type Param struct {
	Name string
	Doc  string
}

// Field is a field of a form.
type Field struct {
	Name     string
	File     bool
	Required bool
}

// Route is one call of the API: everything that the router, the access checks, the OpenAPI document and the tests need
// to know of it.
type Route struct {
	Method  string
	Path    string // under /api/v1, parameters as :name
	Access  Access
	Doc     string
	Query   []Param
	Body    any    // an example of what is sent as JSON; nil for nothing
	Takes   string // media type of what is sent, where it is not JSON
	Form    []Field
	Answer  any    // an example of what comes back as JSON; nil for nothing
	Gives   string // media type of what comes back, where it is not JSON
	Status  int    // of success, where it is not 200, or 204 for nothing
	Submits bool   // submitting: personal tokens of scope submit may
	Do      func(*Request) (any, error)
}

// Success is the status of success.
func (r *Route) Success() int {
	switch {
	case r.Status != 0:
		return r.Status
	case r.Answer == nil && r.Gives == "":
		return http.StatusNoContent
	}
	return http.StatusOK
}

// Media types.
const (
	MediaJSON    = "application/json"
	MediaProblem = "application/problem+json"
	MediaForm    = "multipart/form-data"
	MediaYAML    = "application/yaml"
	MediaZip     = "application/zip"
	MediaCSV     = "text/csv; charset=utf-8"
	MediaSVG     = "image/svg+xml"
	MediaPNG     = "image/png"
	MediaHTML    = "text/html; charset=utf-8"
	MediaEvents  = "text/event-stream"
	MediaBytes   = "application/octet-stream"
	MediaTar     = "application/gzip"
)

// Paging are the parameters of lists that come in pages.
var Paging = []Param{{"limit", "how many at most, 1 to 1000; 100 where it is not given"},
	{"after", "the next of the page before"}}

// Addresses that many calls begin with.
const (
	ClassPath      = "/classes/:class"
	AssignmentPath = ClassPath + "/assignments/:exercise"
	SubmissionPath = "/submissions/:submission"
)
