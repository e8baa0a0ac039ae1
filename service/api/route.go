package api

import (
	"encoding/json"
	"net/http"

	"hemble/core/glyph"
	"hemble/core/reel"
	"hemble/wire"
)

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

// tried is the form of calls that try a firmware on a draft.
var tried = []Field{{"text", false, true}, {"file", true, false}, {"exercise", false, false}, {"reference", false, false}, {"anew", false, false}}

// Route is one call of the API: everything that the router, the access checks, the OpenAPI document and the tests need to
// know of it.
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
	Submits bool   // handing in: personal tokens of scope submit may
	Do      func(*API, *request) (any, error)
}

// success is the status of success.
func (r *Route) success() int {
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
	mediaJSON    = "application/json"
	mediaProblem = "application/problem+json"
	mediaForm    = "multipart/form-data"
	mediaYAML    = "application/yaml"
	mediaZip     = "application/zip"
	mediaCSV     = "text/csv; charset=utf-8"
	mediaSVG     = "image/svg+xml"
	mediaPNG     = "image/png"
	mediaHTML    = "text/html; charset=utf-8"
	mediaEvents  = "text/event-stream"
	mediaBytes   = "application/octet-stream"
	mediaTar     = "application/gzip"
)

var paging = []Param{{"limit", "how many at most, 1 to 1000; 100 where it is not given"}, {"after", "the next of the page before"}}

const (
	classPath   = "/classes/:class"
	openingPath = classPath + "/exercises/:exercise"
	subPath     = "/submissions/:submission"
)

// Routes lists the calls of the API.
func Routes() []Route {
	get, post, put, del, patch := http.MethodGet, http.MethodPost, http.MethodPut, http.MethodDelete, http.MethodPatch
	return []Route{
		{Method: get, Path: "/setup", Access: Anyone, Doc: "whether the service has no account yet", Answer: wire.SetUp{}, Do: (*API).setUp},
		{Method: post, Path: "/setup", Access: Anyone, Doc: "makes the first account, by the token of the set-up link", Body: wire.First{}, Answer: wire.Session{}, Status: 201, Do: (*API).first},
		{Method: post, Path: "/session", Access: Anyone, Doc: "signs in", Body: wire.SignIn{}, Answer: wire.Session{}, Status: 201, Do: (*API).signIn},
		{Method: get, Path: "/session", Access: SignedIn, Doc: "who is signed in, and their classes", Answer: wire.Session{}, Do: (*API).session},
		{Method: del, Path: "/session", Access: SignedIn, Doc: "signs out", Do: (*API).signOut},
		{Method: post, Path: "/link", Access: Anyone, Doc: "signs in by a one-time link", Body: wire.Link{}, Answer: wire.Session{}, Status: 201, Do: (*API).useLink},
		{Method: post, Path: "/join", Access: Anyone, Doc: "joins a class by its code; who is not signed in gives the account to be made", Body: wire.Join{}, Answer: wire.Session{}, Status: 201, Do: (*API).join},

		{Method: get, Path: "/place", Access: SignedIn, Doc: "how many simulations come before the caller's own, of those that are made on request", Answer: wire.Place{}, Do: (*API).place},
		{Method: put, Path: "/account/password", Access: Themselves, Doc: "changes one's password; every other session and every token ends", Body: wire.Password{}, Do: (*API).password},
		{Method: get, Path: "/account/sessions", Access: Themselves, Doc: "one's sessions", Answer: []wire.Access{}, Do: (*API).sessions},
		{Method: del, Path: "/account/sessions", Access: Themselves, Doc: "signs out everywhere", Do: (*API).signOutEverywhere},
		{Method: del, Path: "/account/sessions/:access", Access: Themselves, Doc: "ends one of one's sessions", Do: (*API).endAccess},
		{Method: get, Path: "/account/tokens", Access: Themselves, Doc: "one's personal tokens", Answer: []wire.Access{}, Do: (*API).tokens},
		{Method: post, Path: "/account/tokens", Access: Themselves, Doc: "makes a personal token; it is shown this once", Body: wire.NewToken{}, Answer: wire.Access{}, Status: 201, Do: (*API).newToken},
		{Method: del, Path: "/account/tokens/:access", Access: Themselves, Doc: "ends one of one's tokens", Do: (*API).endAccess},

		{Method: get, Path: "/accounts", Access: Admins, Doc: "all accounts", Answer: []wire.Account{}, Do: (*API).accounts},
		{Method: put, Path: "/accounts/:login", Access: Admins, Doc: "makes or changes an account", Body: wire.SetAccount{}, Do: (*API).setAccount},
		{Method: post, Path: "/accounts/:login/link", Access: Admins, Doc: "makes a link that signs the account in once", Answer: wire.OneTime{}, Status: 201, Do: (*API).accountLink},
		{Method: get, Path: "/audit", Access: Admins, Doc: "what changed marks and rights, the newest first", Query: paging, Answer: wire.Page[wire.AuditEntry]{}, Do: (*API).audit},
		{Method: get, Path: "/queue", Access: Admins, Doc: "what waits, what is under way, what was set aside", Answer: wire.QueueState{}, Do: (*API).queue},
		{Method: post, Path: "/queue/:job", Access: Admins, Doc: "queues a job again that was set aside", Do: (*API).retry},
		{Method: get, Path: "/backup", Access: Admins, Doc: "a copy of everything, while the service goes on", Gives: mediaTar, Do: (*API).backup},

		{Method: get, Path: "/exercises", Access: Instructors, Doc: "all exercises", Answer: []wire.Exercise{}, Do: (*API).exercises},
		{Method: get, Path: "/reference", Access: Instructors, Doc: "what may stand in an exercise file, with pictures and examples", Answer: wire.Reference{}, Do: (*API).fileReference},
		{Method: get, Path: "/exercises/:exercise", Access: Instructors, Doc: "an exercise with its text", Answer: wire.Exercise{}, Do: (*API).exercise},
		{Method: put, Path: "/exercises/:exercise", Access: Instructors, Doc: "adds a revision by its text; the files of the folder stay. With If-None-Match: * only where no exercise has the name", Takes: mediaYAML, Answer: wire.Exercise{}, Do: (*API).putExercise},
		{Method: post, Path: "/exercises/:exercise/compare", Access: Instructors, Doc: "how a text differs from the newest revision", Takes: mediaYAML, Answer: wire.Compared{}, Do: (*API).compare},
		{Method: get, Path: "/exercises/:exercise/folder", Access: Instructors, Doc: "the exercise's folder, as a zip archive", Gives: mediaZip, Do: (*API).exportExercise},
		{Method: put, Path: "/exercises/:exercise/folder", Access: Instructors, Doc: "adds a revision from a zip archive of a folder", Takes: mediaZip, Answer: wire.Exercise{}, Do: (*API).importExercise},
		{Method: get, Path: "/exercises/:exercise/revisions", Access: Instructors, Doc: "its revisions, the newest first", Answer: []wire.Revision{}, Do: (*API).revisions},
		{Method: get, Path: "/exercises/:exercise/revisions/:revision", Access: Instructors, Doc: "one revision with its text", Answer: wire.Revision{}, Do: (*API).revision},
		{Method: post, Path: "/check", Access: Instructors, Doc: "what is to be said of an exercise file", Takes: mediaYAML, Answer: wire.Checked{}, Do: (*API).check},
		{Method: post, Path: "/try", Access: Instructors, Doc: "marks a firmware against a draft, and keeps nothing: a form with text and either file, or exercise and reference (a file of its folder)", Takes: mediaForm, Form: tried, Answer: wire.Tried{}, Do: (*API).try},
		{Method: post, Path: "/record", Access: Instructors, Doc: "writes what a reference shows as expectations into a draft, with anew also in the place of those that it does not meet: a form as of /try", Takes: mediaForm, Form: tried, Answer: wire.Recorded{}, Do: (*API).record},
		{Method: post, Path: "/strength", Access: Instructors, Doc: "tells which faults of a reference a draft catches: a form as of /try", Takes: mediaForm, Form: tried, Answer: []wire.Variant{}, Do: (*API).strength},

		{Method: get, Path: "/classes", Access: SignedIn, Doc: "one's classes", Answer: []wire.Class{}, Do: (*API).classes},
		{Method: post, Path: "/classes/:class", Access: Instructors, Doc: "makes a class", Body: wire.SetClass{}, Answer: wire.Class{}, Status: 201, Do: (*API).addClass},
		{Method: get, Path: classPath, Access: Members, Doc: "a class", Answer: wire.Class{}, Do: (*API).class},
		{Method: patch, Path: classPath, Access: ClassInstructors, Doc: "changes a class", Body: wire.SetClass{}, Answer: wire.Class{}, Do: (*API).setClass},
		{Method: post, Path: classPath + "/links", Access: ClassInstructors, Doc: "makes links for all students who have not signed in yet; open ones stay, but for those that are named", Body: wire.MakeLinks{}, Answer: wire.Links{}, Status: 201, Do: (*API).memberLinks},
		{Method: post, Path: classPath + "/join-code", Access: ClassInstructors, Doc: "gives the class a new join code", Answer: wire.Class{}, Status: 201, Do: (*API).newJoinCode},
		{Method: del, Path: classPath + "/join-code", Access: ClassInstructors, Doc: "takes the join code away", Do: (*API).dropJoinCode},
		{Method: get, Path: classPath + "/members", Access: Staff, Doc: "who is in the class", Answer: []wire.Member{}, Do: (*API).members},
		{Method: put, Path: classPath + "/members/:login", Access: ClassInstructors, Doc: "puts somebody into the class, or changes what is said of them", Body: wire.SetMember{}, Do: (*API).putMember},
		{Method: del, Path: classPath + "/members/:login", Access: ClassInstructors, Doc: "takes somebody out who has handed nothing in", Do: (*API).dropMember},
		{Method: post, Path: classPath + "/members/:login/link", Access: ClassInstructors, Doc: "makes a link that signs a student or assistant in once", Answer: wire.OneTime{}, Status: 201, Do: (*API).memberLink},
		{Method: get, Path: classPath + "/roster", Access: ClassInstructors, Doc: "the students, as CSV", Gives: mediaCSV, Do: (*API).roster},
		{Method: post, Path: classPath + "/roster", Access: ClassInstructors, Doc: "takes students in from CSV", Query: []Param{{"try", "1: only tell what would change"}}, Takes: mediaCSV, Answer: wire.RosterChange{}, Do: (*API).putRoster},
		{Method: get, Path: classPath + "/libraries", Access: Staff, Doc: "libraries that source may include", Answer: []wire.Library{}, Do: (*API).libraries},
		{Method: put, Path: classPath + "/libraries/:library", Access: ClassInstructors, Doc: "registers a library, a zip archive of its folder", Takes: mediaZip, Do: (*API).putLibrary},
		{Method: del, Path: classPath + "/libraries/:library", Access: ClassInstructors, Doc: "forgets a library", Do: (*API).dropLibrary},
		{Method: get, Path: classPath + "/phrases", Access: Staff, Doc: "the bank of comments", Answer: []wire.Phrase{}, Do: (*API).phrases},
		{Method: del, Path: classPath + "/phrases/:phrase", Access: Staff, Doc: "takes a comment out of the bank", Do: (*API).dropPhrase},
		{Method: get, Path: classPath + "/gradebook", Access: Staff, Doc: "the marks of the class", Answer: wire.Gradebook{}, Do: (*API).gradebook},
		{Method: get, Path: classPath + "/gradebook.csv", Access: Staff, Doc: "the marks of the class, as CSV", Query: []Param{{"exercise", "with a column for each expectation of this exercise"}}, Gives: mediaCSV, Do: (*API).gradebookCSV},
		{Method: post, Path: classPath + "/gradebook/fill", Access: Staff, Doc: "fills a column of the school's own CSV", Query: []Param{{"column", "the column to fill, by its heading"}, {"exercise", "whose marks; without it the totals"}, {"students", "the column that tells the students, by its heading; without it the one that fits"}}, Takes: mediaCSV, Answer: wire.Filled{}, Do: (*API).fillGradebook},
		{Method: post, Path: classPath + "/gradebook/columns", Access: Staff, Doc: "what columns the school's own CSV has, and which of them tells the students", Takes: mediaCSV, Answer: wire.Columns{}, Do: (*API).gradebookColumns},
		{Method: get, Path: classPath + "/audit", Access: ClassInstructors, Doc: "what changed marks and rights of the class", Query: paging, Answer: wire.Page[wire.AuditEntry]{}, Do: (*API).audit},
		{Method: get, Path: classPath + "/events", Access: Members, Doc: "changes of submissions, as server-sent events; Last-Event-ID resumes", Gives: mediaEvents, Do: (*API).events},

		{Method: get, Path: classPath + "/exercises", Access: Members, Doc: "what is open to the class", Answer: []wire.Opening{}, Do: (*API).openings},
		{Method: get, Path: openingPath, Access: Members, Doc: "an exercise as it is open to the class", Answer: wire.Opening{}, Do: (*API).opening},
		{Method: put, Path: openingPath, Access: ClassInstructors, Doc: "opens an exercise to the class, or changes its terms", Body: wire.SetOpening{}, Answer: wire.Opening{}, Do: (*API).open},
		{Method: del, Path: openingPath, Access: ClassInstructors, Doc: "takes an exercise away that nobody has handed in for", Do: (*API).closeOpening},
		{Method: get, Path: openingPath + "/brief", Access: Members, Doc: "the exercise as a student gets it, with their own values", Query: []Param{{"student", "a login: as this student gets it; for those who mark"}}, Answer: wire.Brief{}, Do: (*API).brief},
		{Method: put, Path: openingPath + "/revision", Access: ClassInstructors, Doc: "makes another revision the one in force: work to come is marked by it, what is there stays", Body: wire.InForce{}, Answer: wire.Opening{}, Do: (*API).putInForce},
		{Method: put, Path: openingPath + "/release", Access: ClassInstructors, Doc: "releases the marks to the students, or hides them again", Body: wire.Release{}, Answer: wire.Opening{}, Do: (*API).release},
		{Method: get, Path: openingPath + "/extensions", Access: Staff, Doc: "extensions", Answer: []wire.Extension{}, Do: (*API).extensions},
		{Method: put, Path: openingPath + "/extensions", Access: ClassInstructors, Doc: "gives a student or a group more time or attempts", Body: wire.Extension{}, Do: (*API).putExtension},
		{Method: del, Path: openingPath + "/extensions/:kind/:who", Access: ClassInstructors, Doc: "takes an extension back", Do: (*API).dropExtension},

		{Method: get, Path: openingPath + "/submissions", Access: Members, Doc: "submissions by student and attempt; a student's own", Query: append([]Param{{"state", "only those in this state"}, {"search", "in names, logins and files"}, {"alike", "only look-alikes of this key"}, {"student", "only this login's"}}, paging...), Answer: wire.Page[wire.Submission]{}, Do: (*API).submissions},
		{Method: post, Path: openingPath + "/submissions", Access: Members, Doc: "hands in: a form with file, and as they are wanted wiring, comment and, from those who mark, student (a login)", Takes: mediaForm, Form: []Field{{"file", true, true}, {"wiring", true, false}, {"comment", false, false}, {"student", false, false}}, Answer: wire.Receipt{}, Status: 201, Submits: true, Do: (*API).submit},
		{Method: post, Path: openingPath + "/bulk", Access: Staff, Doc: "many files at once, matched to the roster: a form with one or more file", Takes: mediaForm, Form: []Field{{"file", true, true}}, Answer: wire.Bulk{}, Status: 201, Do: (*API).addBulk},
		{Method: get, Path: openingPath + "/bulk/:bulk", Access: Staff, Doc: "files handed in together", Answer: wire.Bulk{}, Do: (*API).bulk},
		{Method: post, Path: openingPath + "/bulk/:bulk", Access: Staff, Doc: "hands them in, after the doubtful ones were looked at", Body: wire.Confirm{}, Answer: wire.Bulk{}, Do: (*API).confirmBulk},
		{Method: get, Path: openingPath + "/alike", Access: Staff, Doc: "look-alikes: submissions that first differ in the same way, among the attempts that count", Answer: []wire.Alike{}, Do: (*API).alike},
		{Method: get, Path: openingPath + "/statistics", Access: Staff, Doc: "how the class did", Answer: wire.Statistics{}, Do: (*API).statistics},
		{Method: get, Path: openingPath + "/routines", Access: Staff, Doc: "routines that several students' submissions share, and neither references nor libraries have", Answer: []wire.Routine{}, Do: (*API).routines},
		{Method: post, Path: openingPath + "/overrides", Access: Staff, Doc: "overrides marks of several submissions", Body: wire.SetOverride{}, Do: (*API).overrideMany},
		{Method: post, Path: openingPath + "/comments", Access: Staff, Doc: "says the same of several submissions", Body: wire.SetComment{}, Do: (*API).commentMany},
		{Method: get, Path: openingPath + "/sheets.zip", Access: Staff, Doc: "a page for each student, as a zip archive", Gives: mediaZip, Do: (*API).sheets},
		{Method: get, Path: openingPath + "/proposals", Access: Staff, Doc: "proposed marks", Answer: []wire.Proposal{}, Do: (*API).proposals},
		{Method: post, Path: openingPath + "/proposals", Access: ClassInstructors, Doc: "marks everything anew by another revision or this engine, and proposes what changes", Body: wire.NewProposal{}, Answer: wire.Proposal{}, Status: 201, Do: (*API).propose},
		{Method: get, Path: openingPath + "/proposals/:proposal", Access: Staff, Doc: "whose marks would change, and why", Answer: wire.Proposal{}, Do: (*API).proposal},
		{Method: post, Path: openingPath + "/proposals/:proposal", Access: ClassInstructors, Doc: "takes proposed marks over, or drops them", Body: wire.Decide{}, Answer: wire.Proposal{}, Do: (*API).decide},

		{Method: get, Path: subPath, Access: Owner, Doc: "a submission with its mark sheet, as its viewer may see it", Answer: wire.Result{}, Do: (*API).submission},
		{Method: del, Path: subPath, Access: Owner, Doc: "cancels a submission that is not marked yet", Do: (*API).cancel},
		{Method: get, Path: subPath + "/file", Access: Owner, Doc: "what was handed in", Gives: mediaBytes, Do: (*API).file},
		{Method: get, Path: subPath + "/reels/:trial", Access: Owner, Doc: "what the displays showed in a trial, counted from 0 as on the sheet", Answer: reel.Reel{}, Do: (*API).reel},
		{Method: get, Path: subPath + "/reels/:trial/film.svg", Access: Owner, Doc: "a trial as a film strip, with what was expected under each frame that is not right", Gives: mediaSVG, Do: (*API).film},
		{Method: get, Path: subPath + "/reels/:trial/still.png", Access: Owner, Doc: "all displays of a trial at one moment", Query: []Param{{"at", "in microseconds since power-on; 0 where it is not given"}}, Gives: mediaPNG, Do: (*API).still},
		{Method: get, Path: subPath + "/reels/:trial/window", Access: Owner, Doc: "what happened on the bench of a trial from one time to another with the eye off: every change of nets and lights as driven", Query: []Param{{"from", "in microseconds since power-on; 0 where it is not given"}, {"to", "in microseconds, at most a second later; 20 ms later where it is not given"}}, Answer: wire.Window{}, Do: (*API).window},
		{Method: get, Path: subPath + "/source", Access: Owner, Doc: "the source files that were handed in; none where it was firmware", Answer: []wire.SourceFile{}, Do: (*API).source},
		{Method: get, Path: subPath + "/sheet.html", Access: Owner, Doc: "the mark sheet with its film strips, as a page that needs nothing else", Gives: mediaHTML, Do: (*API).sheetPage},
		{Method: get, Path: subPath + "/luck", Access: Staff, Doc: "the submission under several seeds", Query: []Param{{"seeds", "2 to 32; 8 where it is not given"}}, Answer: wire.Luck{}, Do: (*API).luck},
		{Method: post, Path: subPath + "/overrides", Access: Staff, Doc: "overrides marks", Body: wire.SetOverride{}, Answer: wire.Result{}, Status: 201, Do: (*API).override},
		{Method: del, Path: subPath + "/overrides/:override", Access: Staff, Doc: "takes an override back", Do: (*API).dropOverride},
		{Method: post, Path: subPath + "/accept", Access: ClassInstructors, Doc: "what it would be to accept something that the submission showed: the exercise with it as an alternative, and whose marks would change; nothing is kept", Body: wire.Accept{}, Answer: wire.Accepted{}, Do: (*API).accept},
		{Method: post, Path: subPath + "/comments", Access: Staff, Doc: "comments", Body: wire.SetComment{}, Answer: wire.Result{}, Status: 201, Do: (*API).comment},
		{Method: del, Path: subPath + "/comments/:comment", Access: Staff, Doc: "takes a comment back", Do: (*API).dropComment},

		{Method: get, Path: "/schema", Access: SignedIn, Doc: "the JSON Schema of exercise files", Answer: json.RawMessage{}, Do: (*API).schema},
		{Method: get, Path: "/character-rom", Access: SignedIn, Doc: "the dots of the character LCD's characters", Answer: glyph.Table(), Do: (*API).characterROM},
		{Method: get, Path: "/openapi.json", Access: Anyone, Doc: "this document", Answer: json.RawMessage{}, Do: (*API).openAPI},
	}
}
