package client

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"strconv"

	"hemble/core/author"
	"hemble/wire"
)

// Exercises lists all exercises.
func (c *Client) Exercises(ctx context.Context) ([]wire.Exercise, error) {
	return call[[]wire.Exercise](ctx, c, http.MethodGet, "/exercises", nil)
}

// Exercise gives an exercise with its text.
func (c *Client) Exercise(ctx context.Context, name string) (wire.Exercise, error) {
	return call[wire.Exercise](ctx, c, http.MethodGet, path("exercises", name), nil)
}

// PutExercise adds a revision of an exercise by its text.
func (c *Client) PutExercise(ctx context.Context, name string, text []byte) (wire.Exercise, error) {
	return sent[wire.Exercise](ctx, c, http.MethodPut, path("exercises", name), "application/yaml",
		bytes.NewReader(text))
}

// NewExercise adds an exercise under a name that none has; a taken one is refused, with a free one.
func (c *Client) NewExercise(ctx context.Context, name string, text []byte) (wire.Exercise, error) {
	return sent[wire.Exercise](ctx, c, http.MethodPut, path("exercises", name), "application/yaml",
		bytes.NewReader(text), "If-None-Match", "*")
}

// Compare returns how a text differs from the newest revision of an exercise.
func (c *Client) Compare(ctx context.Context, name string, text []byte) (wire.Compared, error) {
	return sent[wire.Compared](ctx, c, http.MethodPost, path("exercises", name, "compare"), "application/yaml",
		bytes.NewReader(text))
}

// ExerciseFolder gives an exercise's folder as a zip archive.
func (c *Client) ExerciseFolder(ctx context.Context, name string) ([]byte, error) {
	return c.bytes(ctx, path("exercises", name, "folder"))
}

// PutExerciseFolder adds a revision from a zip archive of a folder.
func (c *Client) PutExerciseFolder(ctx context.Context, name string, archive []byte) (wire.Exercise, error) {
	return sent[wire.Exercise](ctx, c, http.MethodPut, path("exercises", name, "folder"), "application/zip",
		bytes.NewReader(archive))
}

// Revisions lists the revisions of an exercise.
func (c *Client) Revisions(ctx context.Context, name string) ([]wire.Revision, error) {
	return call[[]wire.Revision](ctx, c, http.MethodGet, path("exercises", name, "revisions"), nil)
}

// Revision gives one revision with its text.
func (c *Client) Revision(ctx context.Context, name string, number int) (wire.Revision, error) {
	return call[wire.Revision](ctx, c, http.MethodGet, path("exercises", name, "revisions", strconv.Itoa(number)), nil)
}

// Check returns what is to be said of an exercise file.
func (c *Client) Check(ctx context.Context, text []byte) (wire.Checked, error) {
	return sent[wire.Checked](ctx, c, http.MethodPost, "/check", "application/yaml", bytes.NewReader(text))
}

// Draft is an exercise's text with a firmware to try on it: a file, or one of the folder of an exercise in the service.
type Draft struct {
	Text      []byte
	File      string
	Data      []byte
	Exercise  string
	Reference string // a file of the exercise's folder, where File is empty
}

// Try marks a firmware against a draft.
func (c *Client) Try(ctx context.Context, d Draft) (wire.Tried, error) {
	return tried[wire.Tried](ctx, c, "/try", d)
}

// Build gives what a draft's chip is programmed with.
func (c *Client) Build(ctx context.Context, d Draft) (wire.Firmware, error) {
	return tried[wire.Firmware](ctx, c, "/build", d)
}

// Record writes what a reference shows as expectations into a draft; with replace also in place of those that it does
// not meet.
func (c *Client) Record(ctx context.Context, d Draft, replace bool) (wire.Recorded, error) {
	more := []string{}
	if replace {
		more = []string{"replace", "1"}
	}
	return tried[wire.Recorded](ctx, c, "/record", d, more...)
}

// Demonstrate makes a trial of what was done by hand on a live bench.
func (c *Client) Demonstrate(ctx context.Context, d Draft, by author.Demonstration) (wire.Demonstrated, error) {
	text, err := json.Marshal(by)
	if err != nil {
		return wire.Demonstrated{}, err
	}
	return tried[wire.Demonstrated](ctx, c, "/demonstrate", d, "demonstration", string(text))
}

// Templates lists small complete exercises to begin from.
func (c *Client) Templates(ctx context.Context) ([]wire.Template, error) {
	return call[[]wire.Template](ctx, c, http.MethodGet, "/templates", nil)
}

// FromTemplate makes a new exercise of a template.
func (c *Client) FromTemplate(ctx context.Context, name string, from wire.FromTemplate) (wire.Exercise, error) {
	return call[wire.Exercise](ctx, c, http.MethodPost, path("exercises", name, "template"), from)
}

// Strength returns which faults of a reference a draft catches.
func (c *Client) Strength(ctx context.Context, d Draft) ([]wire.Variant, error) {
	return tried[[]wire.Variant](ctx, c, "/strength", d)
}

func tried[T any](ctx context.Context, c *Client, path string, d Draft, more ...string) (T, error) {
	var files []File
	if d.File != "" {
		files = []File{{"file", d.File, d.Data}}
	}
	return form[T](ctx, c, path,
		append([]string{"text", string(d.Text), "exercise", d.Exercise, "reference", d.Reference}, more...), files)
}

// Schema gives the JSON Schema of exercise files.
func (c *Client) Schema(ctx context.Context) (map[string]any, error) {
	return call[map[string]any](ctx, c, http.MethodGet, "/schema", nil)
}

// OpenAPI gives the document of the API.
func (c *Client) OpenAPI(ctx context.Context) ([]byte, error) { return c.bytes(ctx, "/openapi.json") }
