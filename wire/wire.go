// Package wire holds the types of the API as they travel: plain data, no behaviour.
package wire

import (
	"encoding/json"
	"time"
)

// SignIn asks for a session.
type SignIn struct {
	Name     string `json:"name" binding:"required"`
	Password string `json:"password" binding:"required"`
}

// Session is who is signed in. Token is given once, at sign-in.
type Session struct {
	Name    string    `json:"name"`
	Role    string    `json:"role"`
	Token   string    `json:"token,omitempty"`
	Expires time.Time `json:"expires"`
}

// Exercise is an exercise at its latest revision.
type Exercise struct {
	Name        string      `json:"name"`
	Title       string      `json:"title"`
	Brief       string      `json:"brief"`
	Revision    int         `json:"revision"`
	Marks       json.Number `json:"marks"`
	Submissions int         `json:"submissions"`
	Waiting     int         `json:"waiting"`
	Students    int         `json:"students"`
	Mean        json.Number `json:"mean,omitempty"` // of the latest marked submission of each student
	Text        string      `json:"text,omitempty"` // the file, where one exercise is asked for
	Created     time.Time   `json:"created"`
}

// State is where a submission is on its way.
type State string

// The states of a submission.
const (
	Queued  State = "queued"
	Running State = "running"
	Marked  State = "marked"
	Failed  State = "failed"
)

// Submission is a firmware that was handed in.
type Submission struct {
	ID        string      `json:"id"`
	Exercise  string      `json:"exercise"`
	Revision  int         `json:"revision"`
	Student   string      `json:"student"`
	File      string      `json:"file"`
	Attempt   int         `json:"attempt"`
	State     State       `json:"state"`
	Error     string      `json:"error,omitempty"`
	Marks     json.Number `json:"marks,omitempty"`
	Of        json.Number `json:"of,omitempty"`
	Met       int         `json:"met"`
	Partly    int         `json:"partly"`
	Missed    int         `json:"missed"`
	First     string      `json:"first,omitempty"` // the first difference, in words
	Submitted time.Time   `json:"submitted"`
	MarkedAt  *time.Time  `json:"marked_at,omitempty"`
}

// Result is a submission with its mark sheet (core/sheet) and its neighbours in the list.
type Result struct {
	Submission
	Title    string          `json:"title"`
	Sheet    json.RawMessage `json:"sheet,omitempty"`
	Previous string          `json:"previous,omitempty"`
	Next     string          `json:"next,omitempty"`
}

// Problem is one thing wrong in an exercise file.
type Problem struct {
	File    string `json:"file"`
	Line    int    `json:"line"`
	Column  int    `json:"column"`
	Text    string `json:"text"`
	Warning bool   `json:"warning,omitempty"`
}

// Error is the body of every answer that is not a success.
type Error struct {
	Code     string    `json:"code"`
	Message  string    `json:"message"`
	Problems []Problem `json:"problems,omitempty"`
}
