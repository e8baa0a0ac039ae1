package web

import (
	"fmt"
	"net/http"

	"hemble/core/spec"
	"hemble/wire"
)

// Problem is an answer that is not a success.
type Problem struct {
	Status int
	Code   string
	Detail string
}

func (p *Problem) Error() string { return p.Detail }

// NewProblem makes one.
func NewProblem(status int, code, detail string) *Problem { return &Problem{status, code, detail} }

// Bad is the problem of a call that is not well formed.
func Bad(format string, args ...any) error {
	return &Problem{http.StatusBadRequest, "bad-request", fmt.Sprintf(format, args...)}
}

// Unfit is the problem of a call whose values do not fit.
func Unfit(code, format string, args ...any) error {
	return &Problem{http.StatusUnprocessableEntity, code, fmt.Sprintf(format, args...)}
}

// ErrChanged is the problem of a change whose grounds have changed.
var ErrChanged = &Problem{http.StatusPreconditionFailed, "changed",
	"someone else changed this since you read it; read it again"}

// Faulty is a file that is wrong in places.
type Faulty struct {
	Code     string
	Detail   string
	Mistakes []wire.Mistake
}

func (f *Faulty) Error() string { return f.Detail }

// Invalid is an exercise file that does not read.
func Invalid(problems []spec.Problem) error {
	return &Faulty{"invalid", fmt.Sprintf("the exercise has %d problems", len(problems)), Mistakes(problems)}
}

// Mistakes are problems of a file as the API tells them.
func Mistakes(problems []spec.Problem) []wire.Mistake {
	out := []wire.Mistake{}
	for _, p := range problems {
		out = append(out, wire.Mistake{File: p.File, Line: p.Line, Column: p.Col, Text: p.Text, Warning: p.Warning})
	}
	return out
}
