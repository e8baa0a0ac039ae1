package marks

import (
	"net/http"

	"hemble/core/reel"
	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about marks.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodGet, Path: web.ClassPath + "/phrases", Access: web.Staff, Doc: "the bank of comments", Answer: []wire.Phrase{}, Do: a.phrases},
		{Method: http.MethodDelete, Path: web.ClassPath + "/phrases/:phrase", Access: web.Staff, Doc: "takes a comment out of the bank", Do: a.dropPhrase},
		{Method: http.MethodGet, Path: web.ClassPath + "/gradebook", Access: web.Staff, Doc: "the marks of the class", Answer: wire.Gradebook{}, Do: a.gradebook},
		{Method: http.MethodGet, Path: web.ClassPath + "/gradebook.csv", Access: web.Staff, Doc: "the marks of the class, as CSV", Query: []web.Param{{Name: "exercise", Doc: "with a column for each expectation of this exercise"}}, Gives: web.MediaCSV, Do: a.gradebookCSV},
		{Method: http.MethodPost, Path: web.ClassPath + "/gradebook/fill", Access: web.Staff, Doc: "fills a column of the school's own CSV", Query: []web.Param{{Name: "column", Doc: "the column to fill, by its heading"}, {Name: "exercise", Doc: "whose marks; without it the totals"}, {Name: "students", Doc: "the column that tells the students, by its heading; without it the one that fits"}}, Takes: web.MediaCSV, Answer: wire.Filled{}, Do: a.fillGradebook},
		{Method: http.MethodPost, Path: web.ClassPath + "/gradebook/columns", Access: web.Staff, Doc: "what columns the school's own CSV has, and which of them tells the students", Takes: web.MediaCSV, Answer: wire.Columns{}, Do: a.gradebookColumns},
		{Method: http.MethodGet, Path: web.ClassPath + "/exercises", Access: web.Members, Doc: "what is open to the class", Answer: []wire.Opening{}, Do: a.openings},
		{Method: http.MethodGet, Path: web.OpeningPath, Access: web.Members, Doc: "an exercise as it is open to the class", Answer: wire.Opening{}, Do: a.opening},
		{Method: http.MethodGet, Path: web.OpeningPath + "/submissions", Access: web.Members, Doc: "submissions by student and attempt; a student's own", Query: append([]web.Param{{Name: "state", Doc: "only those in this state"}, {Name: "search", Doc: "in names, logins and files"}, {Name: "alike", Doc: "only look-alikes of this key"}, {Name: "student", Doc: "only this login's"}}, web.Paging...), Answer: wire.Page[wire.Submission]{}, Do: a.submissions},
		{Method: http.MethodGet, Path: web.OpeningPath + "/alike", Access: web.Staff, Doc: "look-alikes: submissions that first differ in the same way, among the attempts that count", Answer: []wire.Alike{}, Do: a.alike},
		{Method: http.MethodGet, Path: web.OpeningPath + "/statistics", Access: web.Staff, Doc: "how the class did", Answer: wire.Statistics{}, Do: a.statistics},
		{Method: http.MethodGet, Path: web.OpeningPath + "/routines", Access: web.Staff, Doc: "routines that several students' submissions share, and neither references nor libraries have", Answer: []wire.Routine{}, Do: a.routines},
		{Method: http.MethodPost, Path: web.OpeningPath + "/overrides", Access: web.Staff, Doc: "overrides marks of several submissions", Body: wire.SetOverride{}, Do: a.overrideMany},
		{Method: http.MethodPost, Path: web.OpeningPath + "/comments", Access: web.Staff, Doc: "says the same of several submissions", Body: wire.SetComment{}, Do: a.commentMany},
		{Method: http.MethodGet, Path: web.OpeningPath + "/sheets.zip", Access: web.Staff, Doc: "a page for each student, as a zip archive", Gives: web.MediaZip, Do: a.sheets},
		{Method: http.MethodGet, Path: web.OpeningPath + "/proposals", Access: web.Staff, Doc: "proposed marks", Answer: []wire.Proposal{}, Do: a.proposals},
		{Method: http.MethodPost, Path: web.OpeningPath + "/proposals", Access: web.ClassInstructors, Doc: "marks everything anew by another revision or this engine, and proposes what changes", Body: wire.NewProposal{}, Answer: wire.Proposal{}, Status: 201, Do: a.propose},
		{Method: http.MethodGet, Path: web.OpeningPath + "/proposals/:proposal", Access: web.Staff, Doc: "whose marks would change, and why", Answer: wire.Proposal{}, Do: a.proposal},
		{Method: http.MethodPost, Path: web.OpeningPath + "/proposals/:proposal", Access: web.ClassInstructors, Doc: "takes proposed marks over, or drops them", Body: wire.Decide{}, Answer: wire.Proposal{}, Do: a.decide},
		{Method: http.MethodGet, Path: web.SubmissionPath, Access: web.Owner, Doc: "a submission with its mark sheet, as its viewer may see it", Answer: wire.Result{}, Do: a.submission},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/reels/:trial", Access: web.Owner, Doc: "what the displays showed in a trial, counted from 0 as on the sheet", Answer: reel.Reel{}, Do: a.reel},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/reels/:trial/film.svg", Access: web.Owner, Doc: "a trial as a film strip, with what was expected under each frame that is not right", Gives: web.MediaSVG, Do: a.film},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/reels/:trial/still.png", Access: web.Owner, Doc: "all displays of a trial at one moment", Query: []web.Param{{Name: "at", Doc: "in microseconds since power-on; 0 where it is not given"}}, Gives: web.MediaPNG, Do: a.still},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/reels/:trial/window", Access: web.Owner, Doc: "what happened on the bench of a trial from one time to another with the eye off: every change of nets and lights as driven", Query: []web.Param{{Name: "from", Doc: "in microseconds since power-on; 0 where it is not given"}, {Name: "to", Doc: "in microseconds, at most a second later; 20 ms later where it is not given"}}, Answer: wire.Window{}, Do: a.window},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/source", Access: web.Owner, Doc: "the source files that were handed in; none where it was firmware", Answer: []wire.SourceFile{}, Do: a.source},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/sheet.html", Access: web.Owner, Doc: "the mark sheet with its film strips, as a page that needs nothing else", Gives: web.MediaHTML, Do: a.sheetPage},
		{Method: http.MethodGet, Path: web.SubmissionPath + "/luck", Access: web.Staff, Doc: "the submission under several seeds", Query: []web.Param{{Name: "seeds", Doc: "2 to 32; 8 where it is not given"}}, Answer: wire.Luck{}, Do: a.luck},
		{Method: http.MethodPost, Path: web.SubmissionPath + "/overrides", Access: web.Staff, Doc: "overrides marks", Body: wire.SetOverride{}, Answer: wire.Result{}, Status: 201, Do: a.override},
		{Method: http.MethodDelete, Path: web.SubmissionPath + "/overrides/:override", Access: web.Staff, Doc: "takes an override back", Do: a.dropOverride},
		{Method: http.MethodPost, Path: web.SubmissionPath + "/accept", Access: web.ClassInstructors, Doc: "what it would be to accept something that the submission showed: the exercise with it as an alternative, and whose marks would change; nothing is kept", Body: wire.Accept{}, Answer: wire.Accepted{}, Do: a.accept},
		{Method: http.MethodPost, Path: web.SubmissionPath + "/comments", Access: web.Staff, Doc: "comments", Body: wire.SetComment{}, Answer: wire.Result{}, Status: 201, Do: a.comment},
		{Method: http.MethodDelete, Path: web.SubmissionPath + "/comments/:comment", Access: web.Staff, Doc: "takes a comment back", Do: a.dropComment},
	}
}
