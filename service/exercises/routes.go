package exercises

import (
	"encoding/json"
	"net/http"

	"hemble/core/glyph"
	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about exercises.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodGet, Path: "/exercises", Access: web.Instructors, Doc: "all exercises",
			Answer: []wire.Exercise{}, Do: a.exercises},
		{Method: http.MethodGet, Path: "/reference", Access: web.Instructors,
			Doc: "what may stand in an exercise file, with pictures and examples", Answer: wire.Reference{},
			Do: a.fileReference},
		{Method: http.MethodGet, Path: "/exercises/:exercise", Access: web.Instructors,
			Doc: "an exercise with its text", Answer: wire.Exercise{}, Do: a.exercise},
		{Method: http.MethodPut, Path: "/exercises/:exercise", Access: web.Instructors,
			Doc:   "adds a revision by its text; the files of the folder stay. With If-None-Match: * only where no exercise has the name",
			Takes: web.MediaYAML, Answer: wire.Exercise{}, Do: a.putExercise},
		{Method: http.MethodPost, Path: "/exercises/:exercise/compare", Access: web.Instructors,
			Doc: "how a text differs from the newest revision", Takes: web.MediaYAML, Answer: wire.Compared{},
			Do: a.compare},
		{Method: http.MethodGet, Path: "/exercises/:exercise/folder", Access: web.Instructors,
			Doc: "the exercise's folder, as a zip archive", Gives: web.MediaZip, Do: a.exportExercise},
		{Method: http.MethodPut, Path: "/exercises/:exercise/folder", Access: web.Instructors,
			Doc: "adds a revision from a zip archive of a folder", Takes: web.MediaZip, Answer: wire.Exercise{},
			Do: a.importExercise},
		{Method: http.MethodGet, Path: "/exercises/:exercise/revisions", Access: web.Instructors,
			Doc: "its revisions, the newest first", Answer: []wire.Revision{}, Do: a.revisions},
		{Method: http.MethodGet, Path: "/exercises/:exercise/revisions/:revision", Access: web.Instructors,
			Doc: "one revision with its text", Answer: wire.Revision{}, Do: a.revision},
		{Method: http.MethodPost, Path: "/check", Access: web.Instructors,
			Doc: "what is to be said of an exercise file", Takes: web.MediaYAML, Answer: wire.Checked{}, Do: a.check},
		{Method: http.MethodPut, Path: web.AssignmentPath, Access: web.ClassInstructors,
			Doc: "opens an exercise to the class, or changes its terms", Body: wire.SetAssignment{},
			Answer: wire.Assignment{}, Do: a.assign},
		{Method: http.MethodDelete, Path: web.AssignmentPath, Access: web.ClassInstructors,
			Doc: "takes an exercise away that nobody has submitted for", Do: a.unassign},
		{Method: http.MethodGet, Path: web.AssignmentPath + "/brief", Access: web.Members,
			Doc:    "the exercise as a student gets it, with their own values",
			Query:  []web.Param{{Name: "student", Doc: "a login: as this student gets it; for those who mark"}},
			Answer: wire.Brief{}, Do: a.brief},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/revision", Access: web.ClassInstructors,
			Doc:  "makes another revision the one current: work to come is marked by it, what is there stays",
			Body: wire.InForce{}, Answer: wire.Assignment{}, Do: a.putInForce},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/release", Access: web.ClassInstructors,
			Doc: "releases the marks to the students, or hides them again", Body: wire.Release{},
			Answer: wire.Assignment{}, Do: a.release},
		{Method: http.MethodGet, Path: web.AssignmentPath + "/extensions", Access: web.Staff, Doc: "extensions",
			Answer: []wire.Extension{}, Do: a.extensions},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/extensions", Access: web.ClassInstructors,
			Doc: "gives a student or a group more time or attempts", Body: wire.Extension{}, Do: a.putExtension},
		{Method: http.MethodDelete, Path: web.AssignmentPath + "/extensions/:kind/:who", Access: web.ClassInstructors,
			Doc: "takes an extension back", Do: a.dropExtension},
		{Method: http.MethodGet, Path: "/schema", Access: web.SignedIn, Doc: "the JSON Schema of exercise files",
			Answer: json.RawMessage{}, Do: a.schema},
		{Method: http.MethodGet, Path: "/character-rom", Access: web.SignedIn,
			Doc: "the dots of the character LCD's characters", Answer: glyph.Table(), Do: a.characterROM},
	}
}
