package client

import (
	"bytes"
	"context"
	"net/http"

	"hemble/wire"
)

// Classes lists one's classes.
func (c *Client) Classes(ctx context.Context) ([]wire.Class, error) {
	return call[[]wire.Class](ctx, c, http.MethodGet, "/classes", nil)
}

// Class gives a class.
func (c *Client) Class(ctx context.Context, class string) (wire.Class, error) {
	return call[wire.Class](ctx, c, http.MethodGet, path("classes", class), nil)
}

// AddClass makes a class.
func (c *Client) AddClass(ctx context.Context, class, title string) (wire.Class, error) {
	return call[wire.Class](ctx, c, http.MethodPost, path("classes", class), wire.SetClass{Title: title})
}

// SetClass changes a class.
func (c *Client) SetClass(ctx context.Context, class string, in wire.SetClass) (wire.Class, error) {
	return call[wire.Class](ctx, c, http.MethodPatch, path("classes", class), in)
}

// NewJoinCode gives a class a new join code.
func (c *Client) NewJoinCode(ctx context.Context, class string) (wire.Class, error) {
	return call[wire.Class](ctx, c, http.MethodPost, path("classes", class, "join-code"), nil)
}

// DropJoinCode takes the join code away.
func (c *Client) DropJoinCode(ctx context.Context, class string) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "join-code"), nil)
}

// Members lists who is in a class.
func (c *Client) Members(ctx context.Context, class string) ([]wire.Member, error) {
	return call[[]wire.Member](ctx, c, http.MethodGet, path("classes", class, "members"), nil)
}

// PutMember puts somebody into a class.
func (c *Client) PutMember(ctx context.Context, class, login string, in wire.SetMember) error {
	return c.do(ctx, http.MethodPut, path("classes", class, "members", login), in)
}

// DropMember takes somebody out of a class.
func (c *Client) DropMember(ctx context.Context, class, login string) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "members", login), nil)
}

// MemberLink makes a link that signs a student or an assistant in once.
func (c *Client) MemberLink(ctx context.Context, class, login string) (wire.OneTime, error) {
	return call[wire.OneTime](ctx, c, http.MethodPost, path("classes", class, "members", login, "link"), nil)
}

// MemberLinks makes links for all students of a class who have not signed in yet; open ones stay, but for those of some
// logins.
func (c *Client) MemberLinks(ctx context.Context, class string, replace []string) (wire.Links, error) {
	return call[wire.Links](ctx, c, http.MethodPost, path("classes", class, "links"), wire.MakeLinks{Replace: replace})
}

// Roster gives the students as CSV.
func (c *Client) Roster(ctx context.Context, class string) ([]byte, error) {
	return c.bytes(ctx, path("classes", class, "roster"))
}

// PutRoster takes students in from CSV; with try it only returns what would change.
func (c *Client) PutRoster(ctx context.Context, class string, csv []byte, try bool) (wire.RosterChange, error) {
	only := ""
	if try {
		only = "1"
	}
	return sent[wire.RosterChange](ctx, c, http.MethodPost, query(path("classes", class, "roster"), "try", only),
		"text/csv", bytes.NewReader(csv))
}

// Libraries lists those that source of a class may include.
func (c *Client) Libraries(ctx context.Context, class string) ([]wire.Library, error) {
	return call[[]wire.Library](ctx, c, http.MethodGet, path("classes", class, "libraries"), nil)
}

// PutLibrary registers a library.
func (c *Client) PutLibrary(ctx context.Context, class, name string, archive []byte) error {
	_, err := sent[nothing](ctx, c, http.MethodPut, path("classes", class, "libraries", name), "application/zip",
		bytes.NewReader(archive))
	return err
}

// DropLibrary forgets a library.
func (c *Client) DropLibrary(ctx context.Context, class, name string) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "libraries", name), nil)
}

// Assignments lists what is open to a class.
func (c *Client) Assignments(ctx context.Context, class string) ([]wire.Assignment, error) {
	return call[[]wire.Assignment](ctx, c, http.MethodGet, path("classes", class, "assignments"), nil)
}

// Assignment gives one of them.
func (c *Client) Assignment(ctx context.Context, class, exercise string) (wire.Assignment, error) {
	return call[wire.Assignment](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise), nil)
}

// Assign opens an exercise to a class, or changes how.
func (c *Client) Assign(ctx context.Context, class, exercise string, in wire.SetAssignment) (wire.Assignment, error) {
	return call[wire.Assignment](ctx, c, http.MethodPut, path("classes", class, "assignments", exercise), in)
}

// Unassign takes an exercise away from a class.
func (c *Client) Unassign(ctx context.Context, class, exercise string) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "assignments", exercise), nil)
}

// Brief gives an exercise as a student gets it.
func (c *Client) Brief(ctx context.Context, class, exercise, student string) (wire.Brief, error) {
	return call[wire.Brief](ctx, c, http.MethodGet, query(path("classes", class, "assignments", exercise, "brief"),
		"student", student), nil)
}

// Practice gives what a page needs to practise an assignment on its live bench.
func (c *Client) Practice(ctx context.Context, class, exercise string) (wire.Practice, error) {
	return call[wire.Practice](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise, "practice"), nil)
}

// PracticeBuild builds source for practice.
func (c *Client) PracticeBuild(ctx context.Context, class, exercise, file string, data []byte) (wire.Firmware, error) {
	return form[wire.Firmware](ctx, c, path("classes", class, "assignments", exercise, "build"), nil,
		[]File{{"file", file, data}})
}

// PutInForce makes another revision of an exercise the one that work to come is marked by.
func (c *Client) PutInForce(ctx context.Context, class, exercise string, revision int) (wire.Assignment, error) {
	return call[wire.Assignment](ctx, c, http.MethodPut, path("classes", class, "assignments", exercise, "revision"),
		wire.InForce{Revision: revision})
}

// Release releases the marks of an exercise, or hides them again.
func (c *Client) Release(ctx context.Context, class, exercise string, released bool) (wire.Assignment, error) {
	return call[wire.Assignment](ctx, c, http.MethodPut, path("classes", class, "assignments", exercise, "release"),
		wire.Release{Released: released})
}

// Extensions lists extensions.
func (c *Client) Extensions(ctx context.Context, class, exercise string) ([]wire.Extension, error) {
	return call[[]wire.Extension](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise, "extensions"),
		nil)
}

// PutExtension gives an extension.
func (c *Client) PutExtension(ctx context.Context, class, exercise string, in wire.Extension) error {
	return c.do(ctx, http.MethodPut, path("classes", class, "assignments", exercise, "extensions"), in)
}

// DropExtension takes an extension back.
func (c *Client) DropExtension(ctx context.Context, class, exercise, kind, who string) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "assignments", exercise, "extensions", kind, who), nil)
}
