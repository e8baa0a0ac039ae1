package api

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"hemble/core/spec"
	"hemble/service/auth"
	"hemble/service/store"
	"hemble/wire"
)

// faulty is a file that is wrong in places.
type faulty struct {
	code     string
	detail   string
	mistakes []wire.Mistake
}

func (f *faulty) Error() string { return f.detail }

// invalid is an exercise file that does not read.
func invalid(problems []spec.Problem) error {
	return &faulty{"invalid", fmt.Sprintf("the exercise has %d problems", len(problems)), mistakes(problems)}
}

func mistakes(problems []spec.Problem) []wire.Mistake {
	out := []wire.Mistake{}
	for _, p := range problems {
		out = append(out, wire.Mistake{File: p.File, Line: p.Line, Column: p.Col, Text: p.Text, Warning: p.Warning})
	}
	return out
}

// statuses of refusals, where they are not 409.
var statuses = map[string]int{"password": 422, "login": 422, "name": 422, "token": 422, "override": 422, "revision": 422, "set-up": 403, "disabled": 403}

// fail answers with what went wrong. What is the service's own fault is in the log, by the request's id, and nowhere else.
func (a *API) fail(c *gin.Context, err error) {
	p := wire.Problem{Request: requestID(c)}
	code := "internal"
	var own *problem
	var refusal *store.Refusal
	var wrong *faulty
	var large *http.MaxBytesError
	var locked auth.LockedError
	switch {
	case errors.As(err, &own):
		p.Status, code, p.Detail = own.status, own.code, own.detail
	case errors.As(err, &refusal):
		p.Status, code, p.Detail = http.StatusConflict, refusal.Code, refusal.Text
		if s, ok := statuses[code]; ok {
			p.Status = s
		}
	case errors.As(err, &wrong):
		p.Status, code, p.Detail, p.Mistakes = http.StatusUnprocessableEntity, wrong.code, wrong.detail, wrong.mistakes
	case errors.As(err, &large):
		p.Status, code, p.Detail = http.StatusRequestEntityTooLarge, "too-large", fmt.Sprintf("this is larger than the %d bytes that are taken", large.Limit)
	case errors.As(err, &locked):
		p.Status, code, p.Detail = http.StatusTooManyRequests, "locked", locked.Error()
		c.Header("Retry-After", strconv.Itoa(max(1, int(locked.Until.Sub(a.Store.Now())/time.Second))))
	case errors.Is(err, auth.ErrWrong):
		p.Status, code, p.Detail = http.StatusUnauthorized, "wrong", err.Error()
	case errors.Is(err, store.ErrNotFound):
		p.Status, code, p.Detail = http.StatusNotFound, "not-found", "there is nothing at this address that you can see"
	case errors.Is(err, context.Canceled) && c.Request.Context().Err() != nil:
		c.Abort()
		return
	case store.Full(err):
		slog.Error("the disk takes nothing", "request", p.Request, "error", err)
		p.Status, code, p.Detail = http.StatusInsufficientStorage, "storage", "the service's disk takes nothing more: this was not kept. Try again later; its keeper has to make room."
	default:
		slog.Error("request failed", "request", p.Request, "path", c.FullPath(), "error", err)
		p.Status, p.Detail = http.StatusInternalServerError, "something went wrong in the service; its log says what, by the request's id"
	}
	p.Type, p.Title = "hemble:"+code, http.StatusText(p.Status)
	h := c.Writer.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("Content-Type", mediaProblem)
	c.AbortWithStatusJSON(p.Status, p)
}
