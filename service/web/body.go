package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
)

// Body decodes what was sent as JSON.
func Body[T any](r *Request) (*T, error) {
	if ct := r.ContentType(); ct != MediaJSON {
		return nil, &Problem{http.StatusUnsupportedMediaType, "media-type",
			fmt.Sprintf("expected content type %s, got %q", MediaJSON, ct)}
	}
	d := json.NewDecoder(http.MaxBytesReader(r.Writer, r.Request.Body, MaxBody))
	d.DisallowUnknownFields()
	var in T
	err := d.Decode(&in)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		return nil, err
	case err != nil:
		return nil, Bad("invalid request body: %s", strings.TrimPrefix(err.Error(), "json: "))
	case d.More():
		return nil, Bad("unexpected data after the request body")
	}
	return &in, nil
}

// Content reads what was sent as it is.
func Content(r *Request, most int64) ([]byte, error) {
	return io.ReadAll(http.MaxBytesReader(r.Writer, r.Request.Body, most))
}
