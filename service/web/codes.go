package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
)

// Code is a kind of error of the API: what it is called, the status that it comes with, and what it means. Its name
// never changes its meaning; clients go by it.
type Code struct {
	Name    string
	Status  int // of most that are called so
	Meaning string
}

// Codes are all there are. A problem's type is "hemble:" and its code.
var Codes = []Code{
	{"accept", 422, "Nothing can be accepted here: the submission is not marked, or the frame does not exist."},
	{"bad-request", 400, "The request is not well formed."},
	{"brief", 422, "A brief is required, or it is too long."},
	{"busy", 429, "You are already waiting for several simulations."},
	{"changed", 412, "Somebody else changed this since you read it. Read it again."},
	{"code", 404, "No class has this join code."},
	{"comment", 422, "The comment is too long or not text."},
	{"cross-site", 403, "A browser's session can only change things from the service's own pages."},
	{"csv", 422, "The table cannot be read; the text says where."},
	{"decided", 409, "These proposed marks were applied or discarded already."},
	{"demonstration", 422, "No trial can be made of what was done by hand; the text says why."},
	{"disabled", 403, "The account is disabled."},
	{"done", 409, "This was finished already."},
	{"effort", 503, "The simulation took too long and was stopped."},
	{"extension", 422, "The extension gives nothing, or numbers out of range."},
	{"file", 422, "The file cannot be accepted: its kind, its size, or the assignment does not accept it."},
	{"firmware", 422, "The firmware or source could not be used; the text has the compiler's messages."},
	{"forbidden", 403, "Your account may not do this."},
	{"form", 422, "The form has too many files or values."},
	{"group", 422, "A group or number is too long."},
	{"has-work", 409, "There are submissions, so this cannot be removed."},
	{"include", 422, "A file that the exercise includes is missing or wrong."},
	{"internal", 500, "Something went wrong in the service. Its log has the request id."},
	{"invalid", 422, "The exercise file has errors; each is listed with its line and column."},
	{"kind", 422, "An extension is for a student or a group."},
	{"last-admin", 409, "The last administrator cannot be disabled or demoted."},
	{"last-instructor", 409, "A class cannot be without an instructor."},
	{"library", 422, "The library is not a zip archive with headers."},
	{"link", 401, "The one-time link was used or has expired."},
	{"locked", 429, "Too many wrong passwords. Retry-After says when to try again."},
	{"login", 422, "The login has characters that are not allowed, or is too long."},
	{"media-type", 415, "The request has the wrong content type."},
	{"method", 405, "This address does not support the method."},
	{"name", 422, "The name is not well formed, or differs from the one in the file."},
	{"no-console", 404, "This binary was built without the console."},
	{"no-run", 409, "The submission cannot be run: it is a capture, or its build failed."},
	{"not-found", 404, "There is nothing at this address that you can see."},
	{"not-marked", 409, "The submission is not marked yet."},
	{"not-open", 409, "The assignment does not accept this submission now; the text says why."},
	{"not-quarantined", 409, "The job is not quarantined."},
	{"on-roster", 409, "You are on the roster. Ask your instructor for a link."},
	{"open", 409, "Marks are already proposed. Apply or discard them first."},
	{"other-account", 409, "Another account has signed in since this page was opened."},
	{"override", 422, "The override does not fit the mark sheet."},
	{"password", 422, "The old password is wrong, or the new one is too short or too long."},
	{"policy", 422, "The policy contradicts itself; the text says where."},
	{"reason", 422, "A reason is required."},
	{"reference", 422, "The exercise's folder has no such file."},
	{"revised", 409, "The submission was marked with another revision. Mark it again first."},
	{"revision", 422, "The exercise has no such revision."},
	{"role", 422, "There is no such role."},
	{"scope", 403, "The scope of the token does not allow this."},
	{"set-up", 403, "The service is set up already, or the set-up link is not its own."},
	{"sign-in", 401, "Sign in first."},
	{"slow", 408, "The request did not arrive in time."},
	{"storage", 507, "The disk is full or read-only. Nothing was saved."},
	{"student", 422, "The class has no such student."},
	{"submissions", 422, "One of the submissions is not of this assignment, or none is named."},
	{"taken", 409, "The name or login is taken."},
	{"template", 422, "There is no template of this name."},
	{"text", 422, "A text is missing or too long."},
	{"title", 422, "The title is missing or too long."},
	{"token", 422, "The token's name, scope or number of days is not valid."},
	{"too-large", 413, "The request is too large."},
	{"too-often", 429, "Too many requests. Retry-After says when to try again."},
	{"waiting", 409, "Submissions are still being marked again."},
	{"who", 422, "The class has no such student or group."},
	{"wiring", 422, "The wiring file has errors; each is listed with its line and column."},
	{"wrong", 401, "The login or password is wrong."},
	{"zip", 422, "The archive is damaged, too large, or has no exercise in it."},
}

// StatusOf is the status of a code, 500 where there is no such code.
func StatusOf(name string) int {
	i := slices.IndexFunc(Codes, func(c Code) bool { return c.Name == name })
	if i < 0 {
		return http.StatusInternalServerError
	}
	return Codes[i].Status
}

// CodesDocument is the list as Markdown.
func CodesDocument() string {
	var b strings.Builder
	b.WriteString("# Errors of the API\n\nEvery error is `application/problem+json` (RFC 9457). Its `type` is `hemble:` and one of these codes; `detail` " +
		"says in words what\nhappened; `mistakes` lists places in a file; `request` is the id that the log has. This page is generated by `make docs`.\n\n" +
		"| code | status | meaning |\n|---|---|---|\n")
	for _, c := range Codes {
		fmt.Fprintf(&b, "| `%s` | %d | %s |\n", c.Name, c.Status, c.Meaning)
	}
	return b.String()
}
