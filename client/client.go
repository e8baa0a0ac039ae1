// Package client talks to a Hemble service through its API.
package client

import (
	"bufio"
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
type Error struct {
	Status int
	Answer wire.Error
}

func (e *Error) Error() string {
	lines := []string{e.Answer.Message}
	for _, p := range e.Answer.Problems {
		lines = append(lines, fmt.Sprintf("%s:%d:%d: %s", p.File, p.Line, p.Column, p.Text))
	}
	return strings.Join(lines, "\n")
}

// New makes a client; server may be given without a scheme.
func New(server, token string) *Client {
	if !strings.Contains(server, "://") {
		server = "http://" + server
	}
	return &Client{Server: strings.TrimRight(server, "/"), Token: token, HTTP: &http.Client{}}
}

func (c *Client) request(ctx context.Context, method, path, contentType string, body io.Reader) (*http.Response, error) {
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
	answer, err := c.HTTP.Do(r)
	if err != nil {
		return nil, fmt.Errorf("the service at %s does not answer: %w", c.Server, err)
	}
	if answer.StatusCode < 300 {
		return answer, nil
	}
	defer answer.Body.Close()
	e := &Error{Status: answer.StatusCode}
	if json.NewDecoder(io.LimitReader(answer.Body, 1<<20)).Decode(&e.Answer) != nil || e.Answer.Message == "" {
		e.Answer.Message = fmt.Sprintf("the service at %s answered %s", c.Server, answer.Status)
	}
	return nil, e
}

func (c *Client) do(ctx context.Context, method, path string, in, out any) error {
	var body io.Reader
	contentType := ""
	if in != nil {
		text, err := json.Marshal(in)
		if err != nil {
			return err
		}
		body, contentType = bytes.NewReader(text), "application/json"
	}
	answer, err := c.request(ctx, method, path, contentType, body)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if out == nil {
		return nil
	}
	return json.NewDecoder(answer.Body).Decode(out)
}

// SignIn begins a session and keeps its token.
func (c *Client) SignIn(ctx context.Context, name, password string) (*wire.Session, error) {
	var s wire.Session
	if err := c.do(ctx, http.MethodPost, "/session", wire.SignIn{Name: name, Password: password}, &s); err != nil {
		return nil, err
	}
	c.Token = s.Token
	return &s, nil
}

// Exercises lists the exercises.
func (c *Client) Exercises(ctx context.Context) (list []wire.Exercise, err error) {
	return list, c.do(ctx, http.MethodGet, "/exercises", nil, &list)
}

// PutExercise adds an exercise or a revision of it.
func (c *Client) PutExercise(ctx context.Context, name string, text []byte) (*wire.Exercise, error) {
	answer, err := c.request(ctx, http.MethodPut, "/exercises/"+url.PathEscape(name), "application/yaml", bytes.NewReader(text))
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	var x wire.Exercise
	return &x, json.NewDecoder(answer.Body).Decode(&x)
}

// Submissions lists the submissions of an exercise.
func (c *Client) Submissions(ctx context.Context, exercise string) (list []wire.Submission, err error) {
	return list, c.do(ctx, http.MethodGet, "/exercises/"+url.PathEscape(exercise)+"/submissions", nil, &list)
}

// Submit hands in a firmware.
func (c *Client) Submit(ctx context.Context, exercise, student, file string, data []byte) (*wire.Submission, error) {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	if err := form.WriteField("student", student); err != nil {
		return nil, err
	}
	part, err := form.CreateFormFile("file", file)
	if err != nil {
		return nil, err
	}
	if _, err := part.Write(data); err != nil {
		return nil, err
	}
	if err := form.Close(); err != nil {
		return nil, err
	}
	answer, err := c.request(ctx, http.MethodPost, "/exercises/"+url.PathEscape(exercise)+"/submissions", form.FormDataContentType(), &body)
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	var s wire.Submission
	return &s, json.NewDecoder(answer.Body).Decode(&s)
}

// Result gives a submission with its sheet.
func (c *Client) Result(ctx context.Context, id string) (*wire.Result, error) {
	var r wire.Result
	return &r, c.do(ctx, http.MethodGet, "/submissions/"+url.PathEscape(id), nil, &r)
}

// Reel decodes what the displays showed in one trial of a submission into out.
func (c *Client) Reel(ctx context.Context, id string, trial int, out any) error {
	return c.do(ctx, http.MethodGet, fmt.Sprintf("/submissions/%s/reels/%d", url.PathEscape(id), trial), nil, out)
}

// Done tells whether a submission has come to its end.
func Done(s wire.Submission) bool { return s.State == wire.Marked || s.State == wire.Failed }

// Wait returns when all the submissions have come to their end, telling of each once. It listens for
// changes, and looks by itself where the stream breaks.
func (c *Client) Wait(ctx context.Context, exercise string, ids []string, done func(wire.Submission)) error {
	open := map[string]bool{}
	for _, id := range ids {
		open[id] = true
	}
	take := func(s wire.Submission) {
		if open[s.ID] && Done(s) {
			delete(open, s.ID)
			done(s)
		}
	}
	for len(open) > 0 {
		err := c.listen(ctx, exercise, func() error { // what changed before the stream began
			list, err := c.Submissions(ctx, exercise)
			for _, s := range list {
				take(s)
			}
			return err
		}, func(s wire.Submission) bool {
			take(s)
			return len(open) > 0
		})
		var refused *Error
		if errors.As(err, &refused) || ctx.Err() != nil {
			return errors.Join(ctx.Err(), err)
		}
		if err != nil {
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
	return nil
}

// listen reads the event stream until it breaks, or event says to stop.
func (c *Client) listen(ctx context.Context, exercise string, begun func() error, event func(wire.Submission) bool) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	answer, err := c.request(ctx, http.MethodGet, "/events?exercise="+url.QueryEscape(exercise), "", nil)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if err := begun(); err != nil {
		return err
	}
	lines := bufio.NewScanner(answer.Body)
	lines.Buffer(nil, 1<<20)
	for more := event(wire.Submission{}); more && lines.Scan(); {
		data, found := strings.CutPrefix(lines.Text(), "data: ")
		if !found {
			continue
		}
		var s wire.Submission
		if err := json.Unmarshal([]byte(data), &s); err != nil {
			return err
		}
		more = event(s)
	}
	return lines.Err()
}
