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

	"hemble/service/db"
	"hemble/service/people"
	"hemble/service/web"
	"hemble/wire"
)

// fail answers with what went wrong. What is the service's own fault is in the log, by the request's id, and nowhere
// else.
func (a *API) fail(c *gin.Context, err error) {
	p := wire.Problem{Request: requestID(c)}
	code := "internal"
	var own *web.Problem
	var refusal *db.Refusal
	var wrong *web.Faulty
	var large *http.MaxBytesError
	var locked people.LockedError
	switch {
	case errors.As(err, &own):
		p.Status, code, p.Detail = own.Status, own.Code, own.Detail
	case errors.As(err, &refusal):
		p.Status, code, p.Detail = web.StatusOf(refusal.Code), refusal.Code, refusal.Text
	case errors.As(err, &wrong):
		p.Status, code, p.Detail, p.Mistakes = http.StatusUnprocessableEntity, wrong.Code, wrong.Detail, wrong.Mistakes
	case errors.As(err, &large):
		p.Status, code, p.Detail = http.StatusRequestEntityTooLarge, "too-large", fmt.Sprintf("the request is larger than the limit of %d bytes", large.Limit)
	case errors.As(err, &locked):
		p.Status, code, p.Detail = http.StatusTooManyRequests, "locked", locked.Error()
		c.Header("Retry-After", strconv.Itoa(max(1, int(locked.Until.Sub(a.Store.Now())/time.Second))))
	case errors.Is(err, people.ErrWrong):
		p.Status, code, p.Detail = http.StatusUnauthorized, "wrong", err.Error()
	case errors.Is(err, db.ErrNotFound):
		p.Status, code, p.Detail = http.StatusNotFound, "not-found", "nothing found at this address"
	case errors.Is(err, context.Canceled) && c.Request.Context().Err() != nil:
		c.Abort()
		return
	case db.Full(err):
		slog.Error("the disk is full or read-only", "request", p.Request, "error", err)
		p.Status, code, p.Detail = http.StatusInsufficientStorage, "storage", "the service's disk is full or read-only: nothing was saved. Try again later; an administrator has to make room."
	default:
		slog.Error("request failed", "request", p.Request, "path", c.FullPath(), "error", err)
		p.Status, p.Detail = http.StatusInternalServerError, "something went wrong in the service; see its log for this request id"
	}
	p.Type, p.Title = "hemble:"+code, http.StatusText(p.Status)
	h := c.Writer.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("Content-Type", web.MediaProblem)
	c.AbortWithStatusJSON(p.Status, p)
}
