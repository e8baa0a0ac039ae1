package client

import (
	"bytes"
	"context"
	"io"
	"net/http"

	"hemble/wire"
)

// Override overrides marks of a submission.
func (c *Client) Override(ctx context.Context, id string, in wire.SetOverride) (*wire.Result, error) {
	r, err := call[wire.Result](ctx, c, http.MethodPost, path("submissions", id, "overrides"), in)
	return &r, err
}

// OverrideMany overrides marks of several submissions.
func (c *Client) OverrideMany(ctx context.Context, class, exercise string, in wire.SetOverride) error {
	return c.do(ctx, http.MethodPost, path("classes", class, "assignments", exercise, "overrides"), in)
}

// DropOverride takes an override back.
func (c *Client) DropOverride(ctx context.Context, id string, override int64) error {
	return c.do(ctx, http.MethodDelete, path("submissions", id, "overrides", number(override)), nil)
}

// Accept returns what it would be to accept something that a submission showed.
func (c *Client) Accept(ctx context.Context, id string, in wire.Accept) (wire.Accepted, error) {
	return call[wire.Accepted](ctx, c, http.MethodPost, path("submissions", id, "accept"), in)
}

// Comment says something of a submission.
func (c *Client) Comment(ctx context.Context, id string, in wire.SetComment) (*wire.Result, error) {
	r, err := call[wire.Result](ctx, c, http.MethodPost, path("submissions", id, "comments"), in)
	return &r, err
}

// CommentMany says the same of several submissions.
func (c *Client) CommentMany(ctx context.Context, class, exercise string, in wire.SetComment) error {
	return c.do(ctx, http.MethodPost, path("classes", class, "assignments", exercise, "comments"), in)
}

// DropComment takes a comment back.
func (c *Client) DropComment(ctx context.Context, id string, comment int64) error {
	return c.do(ctx, http.MethodDelete, path("submissions", id, "comments", number(comment)), nil)
}

// SavedComments lists a class's bank of comments.
func (c *Client) SavedComments(ctx context.Context, class string) ([]wire.SavedComment, error) {
	return call[[]wire.SavedComment](ctx, c, http.MethodGet, path("classes", class, "saved-comments"), nil)
}

// DropSavedComment takes a comment out of the bank.
func (c *Client) DropSavedComment(ctx context.Context, class string, id int64) error {
	return c.do(ctx, http.MethodDelete, path("classes", class, "saved-comments", number(id)), nil)
}

// Alike lists look-alikes.
func (c *Client) Alike(ctx context.Context, class, exercise string) ([]wire.Alike, error) {
	return call[[]wire.Alike](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise, "look-alikes"),
		nil)
}

// Statistics returns how a class did.
func (c *Client) Statistics(ctx context.Context, class, exercise string) (wire.Statistics, error) {
	return call[wire.Statistics](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise, "statistics"),
		nil)
}

// SimilarCode lists what submissions share.
func (c *Client) SimilarCode(ctx context.Context, class, exercise string) ([]wire.SimilarCode, error) {
	return call[[]wire.SimilarCode](ctx, c, http.MethodGet,
		path("classes", class, "assignments", exercise, "similar-code"),
		nil)
}

// Proposals lists proposed marks.
func (c *Client) Proposals(ctx context.Context, class, exercise string) ([]wire.Proposal, error) {
	return call[[]wire.Proposal](ctx, c, http.MethodGet, path("classes", class, "assignments", exercise, "proposals"),
		nil)
}

// Propose has everything marked again; revision 0 is the newest.
func (c *Client) Propose(ctx context.Context, class, exercise string, revision int) (wire.Proposal, error) {
	return call[wire.Proposal](ctx, c, http.MethodPost, path("classes", class, "assignments", exercise, "proposals"),
		wire.NewProposal{Revision: revision})
}

// Proposal tells whose marks would change.
func (c *Client) Proposal(ctx context.Context, class, exercise string, id int64) (wire.Proposal, error) {
	return call[wire.Proposal](ctx, c, http.MethodGet,
		path("classes", class, "assignments", exercise, "proposals", number(id)), nil)
}

// Decide takes proposed marks over, or drops them.
func (c *Client) Decide(ctx context.Context, class, exercise string, id int64, in wire.Decide) (wire.Proposal, error) {
	return call[wire.Proposal](ctx, c, http.MethodPost,
		path("classes", class, "assignments", exercise, "proposals", number(id)), in)
}

// Gradebook gives the marks of a class.
func (c *Client) Gradebook(ctx context.Context, class string) (wire.Gradebook, error) {
	return call[wire.Gradebook](ctx, c, http.MethodGet, path("classes", class, "gradebook"), nil)
}

// GradebookCSV gives the marks of a class as CSV, or those of each expectation of one exercise.
func (c *Client) GradebookCSV(ctx context.Context, class, exercise string) ([]byte, error) {
	return c.bytes(ctx, query(path("classes", class, "gradebook.csv"), "exercise", exercise))
}

// Columns returns what columns a school's own file has.
func (c *Client) Columns(ctx context.Context, class string, csv []byte) (wire.Columns, error) {
	return sent[wire.Columns](ctx, c, http.MethodPost, path("classes", class, "gradebook", "columns"), "text/csv",
		bytes.NewReader(csv))
}

// Fill fills a column of the school's own CSV: with the marks of an exercise, or ("") the totals. students is the
// column that tells the students, "" for the one that fits.
func (c *Client) Fill(ctx context.Context, class string, csv []byte, column, exercise, students string) (wire.Filled,
	error) {
	return sent[wire.Filled](ctx, c, http.MethodPost, query(path("classes", class, "gradebook", "fill"), "column",
		column, "exercise", exercise, "students", students), "text/csv", bytes.NewReader(csv))
}

// Sheets writes a page for each student, as a zip archive.
func (c *Client) Sheets(ctx context.Context, class, exercise string, w io.Writer) error {
	return c.copyTo(ctx, w, path("classes", class, "assignments", exercise, "sheets.zip"))
}
