// Package client calls a Hemble service through its API. There is one method per call, in files by subject.
package client

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"time"

	"hemble/wire"
)

// Client is one service seen by one account.
type Client struct {
	Server string // such as http://127.0.0.1:8080
	Token  string
	HTTP   *http.Client
}

// Error is an answer of the service that is not a success.
type Error struct{ wire.Problem }

func (e *Error) Error() string {
	lines := []string{wire.InZone(e.Detail, time.Local)}
	for _, p := range e.Mistakes {
		lines = append(lines, fmt.Sprintf("%s:%d:%d: %s", p.File, p.Line, p.Column, p.Text))
	}
	if e.Status >= 500 && e.Request != "" {
		lines = append(lines, "request "+e.Request)
	}
	return strings.Join(lines, "\n")
}

// Code is what kind of problem an error of the service is, "" for another error.
func Code(err error) string {
	var e *Error
	if errors.As(err, &e) {
		return strings.TrimPrefix(e.Type, "hemble:")
	}
	return ""
}

// New makes a client; server may be given without a scheme.
func New(server, token string) *Client {
	if !strings.Contains(server, "://") {
		server = "http://" + server
	}
	return &Client{Server: strings.TrimRight(server, "/"), Token: token, HTTP: &http.Client{}}
}

// path joins the parts of an address.
func path(parts ...string) string {
	for i, p := range parts {
		parts[i] = url.PathEscape(p)
	}
	return "/" + strings.Join(parts, "/")
}

// query adds what is set to an address: names and values in turn.
func query(address string, pairs ...string) string {
	q := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		if pairs[i+1] != "" {
			q.Set(pairs[i], pairs[i+1])
		}
	}
	if len(q) == 0 {
		return address
	}
	return address + "?" + q.Encode()
}

func (c *Client) request(ctx context.Context, method, path, contentType string, body io.Reader,
	headers ...string) (*http.Response, error) {
	r, err := http.NewRequestWithContext(ctx, method, c.Server+"/api/v1"+path, body)
	if err != nil {
		return nil, err
	}
	if contentType != "" {
		r.Header.Set("Content-Type", contentType)
	}
	if c.Token != "" {
		r.Header.Set("Authorization", "Bearer "+c.Token)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	answer, err := c.HTTP.Do(r)
	if err != nil {
		return nil, fmt.Errorf("the service at %s does not answer: %w", c.Server, err)
	}
	if answer.StatusCode < 300 {
		return answer, nil
	}
	defer answer.Body.Close()
	e := &Error{}
	if json.NewDecoder(io.LimitReader(answer.Body, 1<<20)).Decode(&e.Problem) != nil || e.Detail == "" {
		e.Detail = fmt.Sprintf("the service at %s answered %s", c.Server, answer.Status)
	}
	e.Status = answer.StatusCode
	return nil, e
}

// call sends in as JSON, where it is something, and decodes the answer.
func call[T any](ctx context.Context, c *Client, method, path string, in any) (out T, err error) {
	var body io.Reader
	contentType := ""
	if in != nil {
		text, err := json.Marshal(in)
		if err != nil {
			return out, err
		}
		body, contentType = bytes.NewReader(text), "application/json"
	}
	return sent[T](ctx, c, method, path, contentType, body)
}

// sent sends body as it is and decodes the answer.
func sent[T any](ctx context.Context, c *Client, method, path, contentType string, body io.Reader,
	headers ...string) (out T, err error) {
	answer, err := c.request(ctx, method, path, contentType, body, headers...)
	if err != nil {
		return out, err
	}
	defer answer.Body.Close()
	if answer.StatusCode == http.StatusNoContent {
		return out, nil
	}
	return out, json.NewDecoder(answer.Body).Decode(&out)
}

type nothing struct{}

// do is call for what answers nothing.
func (c *Client) do(ctx context.Context, method, path string, in any) error {
	_, err := call[nothing](ctx, c, method, path, in)
	return err
}

// bytes gives an answer as it is.
func (c *Client) bytes(ctx context.Context, path string) ([]byte, error) {
	answer, err := c.request(ctx, http.MethodGet, path, "", nil)
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	return io.ReadAll(answer.Body)
}

// copyTo writes an answer as it comes.
func (c *Client) copyTo(ctx context.Context, w io.Writer, path string) error {
	answer, err := c.request(ctx, http.MethodGet, path, "", nil)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	_, err = io.Copy(w, answer.Body)
	return err
}

// File is a file of a form.
type File struct {
	Field, Name string
	Data        []byte
}

// form sends a form with values, names and values in turn, and files.
func form[T any](ctx context.Context, c *Client, path string, values []string, files []File) (out T, err error) {
	var body bytes.Buffer
	f := multipart.NewWriter(&body)
	for i := 0; i+1 < len(values); i += 2 {
		if values[i+1] == "" {
			continue
		}
		if err := f.WriteField(values[i], values[i+1]); err != nil {
			return out, err
		}
	}
	for _, file := range files {
		part, err := f.CreateFormFile(file.Field, file.Name)
		if err != nil {
			return out, err
		}
		if _, err := part.Write(file.Data); err != nil {
			return out, err
		}
	}
	if err := f.Close(); err != nil {
		return out, err
	}
	return sent[T](ctx, c, http.MethodPost, path, f.FormDataContentType(), &body)
}
