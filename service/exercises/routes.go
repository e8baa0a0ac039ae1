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
			Doc: "the reference of exercise files, with pictures and examples", Answer: wire.Reference{},
			Do: a.fileReference},
		{Method: http.MethodGet, Path: "/exercises/:exercise", Access: web.Instructors,
			Doc: "an exercise with its text", Answer: wire.Exercise{}, Do: a.exercise},
		{Method: http.MethodPut, Path: "/exercises/:exercise", Access: web.Instructors,
			Doc:   "adds a revision with this text; the other files stay. With If-None-Match: * only if no exercise has the name",
			Takes: web.MediaYAML, Answer: wire.Exercise{}, Do: a.putExercise},
		{Method: http.MethodGet, Path: "/templates", Access: web.Instructors,
			Doc:    "small complete exercises to begin from, each with its reference",
			Answer: []wire.Template{}, Do: a.templates},
		{Method: http.MethodPost, Path: "/exercises/:exercise/template", Access: web.Instructors,
			Doc:  "makes a new exercise of a template, with its reference; refused where the name is taken",
			Body: wire.FromTemplate{}, Answer: wire.Exercise{}, Do: a.fromTemplate},
		{Method: http.MethodPost, Path: "/exercises/:exercise/compare", Access: web.Instructors,
			Doc: "the differences of a text from the newest revision", Takes: web.MediaYAML, Answer: wire.Compared{},
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
			Doc: "checks an exercise file", Takes: web.MediaYAML, Answer: wire.Checked{}, Do: a.check},
		{Method: http.MethodPut, Path: web.AssignmentPath, Access: web.ClassInstructors,
			Doc: "assigns an exercise to the class, or changes the assignment", Body: wire.SetAssignment{},
			Answer: wire.Assignment{}, Do: a.assign},
		{Method: http.MethodDelete, Path: web.AssignmentPath, Access: web.ClassInstructors,
			Doc: "removes an assignment that has no submissions", Do: a.unassign},
		{Method: http.MethodGet, Path: web.AssignmentPath + "/brief", Access: web.Members,
			Doc:    "the exercise as a student gets it, with their own values",
			Query:  []web.Param{{Name: "student", Doc: "a login: as this student gets it (markers only)"}},
			Answer: wire.Brief{}, Do: a.brief},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/revision", Access: web.ClassInstructors,
			Doc:  "makes another revision the current one: future submissions are marked by it, existing results stay",
			Body: wire.InForce{}, Answer: wire.Assignment{}, Do: a.putInForce},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/release", Access: web.ClassInstructors,
			Doc: "releases the marks to the students, or hides them again", Body: wire.Release{},
			Answer: wire.Assignment{}, Do: a.release},
		{Method: http.MethodGet, Path: web.AssignmentPath + "/extensions", Access: web.Staff, Doc: "extensions",
			Answer: []wire.Extension{}, Do: a.extensions},
		{Method: http.MethodPut, Path: web.AssignmentPath + "/extensions", Access: web.ClassInstructors,
			Doc: "gives a student or a group more time or attempts", Body: wire.Extension{}, Do: a.putExtension},
		{Method: http.MethodDelete, Path: web.AssignmentPath + "/extensions/:kind/:who", Access: web.ClassInstructors,
			Doc: "removes an extension", Do: a.dropExtension},
		{Method: http.MethodGet, Path: "/schema", Access: web.SignedIn, Doc: "the JSON Schema of exercise files",
			Answer: json.RawMessage{}, Do: a.schema},
		{Method: http.MethodGet, Path: "/character-rom", Access: web.SignedIn,
			Doc: "the dots of the character LCD's characters", Answer: glyph.Table(), Do: a.characterROM},
	}
}
