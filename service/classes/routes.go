package classes

import (
	"net/http"

	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about classes.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodPost, Path: "/join", Access: web.Anyone,
			Doc: "joins a class by its code; a caller who is not signed in sends the account to create", Body: wire.Join{},
			Answer: wire.Session{}, Status: 201, Do: a.join},
		{Method: http.MethodGet, Path: "/classes", Access: web.SignedIn, Doc: "the caller's classes", Answer: []wire.Class{},
			Do: a.classes},
		{Method: http.MethodPost, Path: "/classes/:class", Access: web.Instructors, Doc: "creates a class",
			Body: wire.SetClass{}, Answer: wire.Class{}, Status: 201, Do: a.addClass},
		{Method: http.MethodGet, Path: web.ClassPath, Access: web.Members, Doc: "a class", Answer: wire.Class{},
			Do: a.class},
		{Method: http.MethodPatch, Path: web.ClassPath, Access: web.ClassInstructors, Doc: "changes a class",
			Body: wire.SetClass{}, Answer: wire.Class{}, Do: a.setClass},
		{Method: http.MethodPost, Path: web.ClassPath + "/links", Access: web.ClassInstructors,
			Doc:  "creates links for all students who have not signed in yet; unused links stay valid, except of the logins given",
			Body: wire.MakeLinks{}, Answer: wire.Links{}, Status: 201, Do: a.memberLinks},
		{Method: http.MethodPost, Path: web.ClassPath + "/join-code", Access: web.ClassInstructors,
			Doc: "gives the class a new join code", Answer: wire.Class{}, Status: 201, Do: a.newJoinCode},
		{Method: http.MethodDelete, Path: web.ClassPath + "/join-code", Access: web.ClassInstructors,
			Doc: "removes the join code", Do: a.dropJoinCode},
		{Method: http.MethodGet, Path: web.ClassPath + "/members", Access: web.Staff, Doc: "the members of the class",
			Answer: []wire.Member{}, Do: a.members},
		{Method: http.MethodPut, Path: web.ClassPath + "/members/:login", Access: web.ClassInstructors,
			Doc: "adds a member to the class, or changes one", Body: wire.SetMember{},
			Do: a.putMember},
		{Method: http.MethodDelete, Path: web.ClassPath + "/members/:login", Access: web.ClassInstructors,
			Doc: "removes a member without submissions", Do: a.dropMember},
		{Method: http.MethodPost, Path: web.ClassPath + "/members/:login/link", Access: web.ClassInstructors,
			Doc: "creates a one-time sign-in link for a student or assistant", Answer: wire.OneTime{}, Status: 201,
			Do: a.memberLink},
		{Method: http.MethodGet, Path: web.ClassPath + "/roster", Access: web.ClassInstructors,
			Doc: "the students, as CSV", Gives: web.MediaCSV, Do: a.roster},
		{Method: http.MethodPost, Path: web.ClassPath + "/roster", Access: web.ClassInstructors,
			Doc: "imports students from CSV", Query: []web.Param{{Name: "try", Doc: "1: only report what would change"}},
			Takes: web.MediaCSV, Answer: wire.RosterChange{}, Do: a.putRoster},
		{Method: http.MethodGet, Path: web.ClassPath + "/libraries", Access: web.Staff,
			Doc: "libraries that source may include", Answer: []wire.Library{}, Do: a.libraries},
		{Method: http.MethodPut, Path: web.ClassPath + "/libraries/:library", Access: web.ClassInstructors,
			Doc: "registers a library, a zip archive of its folder", Takes: web.MediaZip, Do: a.putLibrary},
		{Method: http.MethodDelete, Path: web.ClassPath + "/libraries/:library", Access: web.ClassInstructors,
			Doc: "removes a library", Do: a.dropLibrary},
	}
}
