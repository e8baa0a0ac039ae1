package grading

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"hemble/service/turns"
	"hemble/service/web"
	"hemble/wire"
)

// Limits of what is simulated on request.
const (
	maxRequest        = 5 * time.Minute
	maxStudentRequest = time.Minute
)

// Turns lets callers have something simulated one after the other.
type Turns struct{ gate *turns.Gate }

// NewTurns lets that many simulate at a time.
func NewTurns(places int) *Turns { return &Turns{turns.New(places)} }

// Enter waits until the caller's turn comes to have something simulated; what is done with the context that it gives
// ends in time. done lets the next one.
func (t *Turns) Enter(r *web.Request) (ctx context.Context, done func(), err error) {
	c := turns.Caller{Who: r.Account.Login, Student: r.IsStudent()}
	leave, err := t.gate.Enter(r.Request.Context(), c)
	if errors.Is(err, turns.ErrBusy) {
		return nil, nil,
			web.NewProblem(http.StatusTooManyRequests, "busy",
				"you already have several simulations waiting; try again when one is done")
	}
	if err != nil {
		return nil, nil, err
	}
	limit := maxRequest
	if c.Student {
		limit = maxStudentRequest
	}
	ctx, cancel := context.WithTimeoutCause(r.Request.Context(), limit,
		web.NewProblem(http.StatusServiceUnavailable, "effort",
			fmt.Sprintf("this took longer than %s and was stopped", limit)))
	return ctx, func() { cancel(); leave() }, nil
}

// OutOfTime gives the cause where something ended because its time was over, else the error as it is.
func OutOfTime(ctx context.Context, err error) error {
	if err != nil && errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return context.Cause(ctx)
	}
	return err
}

// place returns how long the line is for the caller's next simulation.
func (a *API) place(r *web.Request) (any, error) {
	ahead, waiting := a.Turns.gate.Ahead(r.Account.Login)
	return wire.Place{Waiting: waiting, Ahead: ahead}, nil
}

// Waiting counts those who wait.
func (t *Turns) Waiting() int { return t.gate.Waiting() }
