// Package api answers the HTTP API under /api/v1 and serves the console.
package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/glyph"
	"hemble/service/auth"
	"hemble/service/events"
	"hemble/service/queue"
	"hemble/service/store"
	"hemble/wire"
)

// Limits of requests.
const (
	maxBody     = 1 << 20
	maxUpload   = firmware.MaxFile + 1<<20 // the file and the form around it
	keepAlive   = 15 * time.Second
	cookieName  = "hemble_session"
	maxNameRune = 120
)

// API is what the handlers work with.
type API struct {
	Store   *store.Store
	Keeper  *auth.Keeper
	Queue   *queue.Queue
	Hub     *events.Hub
	Console fs.FS // the built console; nil for none
	metrics *metrics
}

// Handler builds the routes.
func (a *API) Handler() http.Handler {
	gin.SetMode(gin.ReleaseMode)
	a.metrics = newMetrics(a.Store)
	a.Queue.Marked = a.metrics.marked
	r := gin.New()
	r.HandleMethodNotAllowed = true
	r.Use(a.metrics.count, logRequests, gin.CustomRecoveryWithWriter(io.Discard, func(c *gin.Context, err any) {
		slog.Error("panic in a handler", "path", c.Request.URL.Path, "panic", err)
		fail(c, http.StatusInternalServerError, "internal", "something went wrong in the service; its log says what")
	}), secure)

	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	r.GET("/readyz", func(c *gin.Context) {
		if err := a.Store.Ping(c); err != nil {
			c.String(http.StatusServiceUnavailable, "the database does not answer\n")
			return
		}
		c.String(http.StatusOK, "ok\n")
	})
	r.GET("/metrics", gin.WrapH(promhttp.HandlerFor(a.metrics.registry, promhttp.HandlerOpts{})))

	v1 := r.Group("/api/v1")
	v1.POST("/session", a.signIn)
	in := v1.Group("", a.signedIn)
	in.GET("/session", a.session)
	in.DELETE("/session", a.signOut)
	in.GET("/exercises", a.exercises)
	in.GET("/exercises/:name", a.exercise)
	in.PUT("/exercises/:name", a.putExercise)
	in.GET("/exercises/:name/submissions", a.submissions)
	in.POST("/exercises/:name/submissions", a.submit)
	in.GET("/submissions/:id", a.submission)
	in.GET("/submissions/:id/reels/:trial", a.reel)
	in.GET("/events", a.events)
	in.GET("/schema", func(c *gin.Context) { c.JSON(http.StatusOK, exercise.Schema()) })

	in.GET("/character-rom", func(c *gin.Context) {
		c.Header("Cache-Control", "private, max-age=86400")
		c.JSON(http.StatusOK, glyph.Table())
	})

	r.NoMethod(func(c *gin.Context) {
		fail(c, http.StatusMethodNotAllowed, "method", "this address does not take "+c.Request.Method)
	})
	r.NoRoute(a.console)
	return r
}

func fail(c *gin.Context, status int, code, message string) {
	c.AbortWithStatusJSON(status, wire.Error{Code: code, Message: message})
}

// failed turns an error into an answer.
func failed(c *gin.Context, err error, what string) {
	var large *http.MaxBytesError
	switch {
	case errors.Is(err, store.ErrNotFound):
		fail(c, http.StatusNotFound, "not-found", "there is no such "+what)
	case errors.As(err, &large):
		fail(c, http.StatusRequestEntityTooLarge, "too-large", fmt.Sprintf("this is larger than the %d bytes that are taken", large.Limit))
	case errors.Is(err, context.Canceled):
		c.Abort()
	default:
		slog.Error("request failed", "path", c.Request.URL.Path, "error", err)
		fail(c, http.StatusInternalServerError, "internal", "something went wrong in the service; its log says what")
	}
}

// secure adds headers and refuses changes that another site's page asks for.
func secure(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'")
	switch c.Request.Header.Get("Sec-Fetch-Site") {
	case "", "same-origin", "none":
	default:
		if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			fail(c, http.StatusForbidden, "cross-site", "this was asked for by another site's page")
		}
	}
}

func logRequests(c *gin.Context) {
	began := time.Now()
	c.Next()
	slog.Info("request", "method", c.Request.Method, "path", c.Request.URL.Path, "status", c.Writer.Status(), "ms", time.Since(began).Milliseconds())
}

func token(c *gin.Context) string {
	if bearer, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok {
		return bearer
	}
	cookie, _ := c.Cookie(cookieName)
	return cookie
}

func (a *API) signedIn(c *gin.Context) {
	account, err := a.Store.SessionAccount(c, token(c))
	if errors.Is(err, store.ErrNotFound) {
		fail(c, http.StatusUnauthorized, "sign-in", "sign in first")
		return
	}
	if err != nil {
		failed(c, err, "session")
		return
	}
	c.Set("account", account)
}

func (a *API) signIn(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)
	var in wire.SignIn
	if err := c.ShouldBindJSON(&in); err != nil {
		fail(c, http.StatusBadRequest, "bad-request", "a sign-in is {\"name\": …, \"password\": …}")
		return
	}
	account, token, expires, err := a.Keeper.SignIn(c, in.Name, in.Password)
	switch {
	case errors.Is(err, auth.ErrWrong):
		fail(c, http.StatusUnauthorized, "wrong", err.Error())
	case errors.Is(err, auth.ErrOften):
		fail(c, http.StatusTooManyRequests, "too-often", err.Error())
	case err != nil:
		failed(c, err, "account")
	default:
		a.setCookie(c, token, int(auth.SessionLength.Seconds()))
		c.JSON(http.StatusCreated, wire.Session{Name: account.Name, Role: account.Role, Token: token, Expires: expires})
	}
}

func (a *API) setCookie(c *gin.Context, value string, age int) {
	http.SetCookie(c.Writer, &http.Cookie{Name: cookieName, Value: value, Path: "/", MaxAge: age, HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: c.Request.TLS != nil})
}

func (a *API) session(c *gin.Context) {
	account := c.MustGet("account").(*store.Account)
	c.JSON(http.StatusOK, wire.Session{Name: account.Name, Role: account.Role})
}

func (a *API) signOut(c *gin.Context) {
	if err := a.Store.EndSession(c, token(c)); err != nil {
		failed(c, err, "session")
		return
	}
	a.setCookie(c, "", -1)
	c.Status(http.StatusNoContent)
}

func (a *API) exercises(c *gin.Context) {
	list, err := a.Store.Exercises(c)
	if err != nil {
		failed(c, err, "exercise")
		return
	}
	c.JSON(http.StatusOK, list)
}

func (a *API) exercise(c *gin.Context) {
	x, err := a.Store.Exercise(c, c.Param("name"))
	if err != nil {
		failed(c, err, "exercise")
		return
	}
	c.JSON(http.StatusOK, x)
}

func (a *API) putExercise(c *gin.Context) {
	text, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, maxBody))
	if err != nil {
		failed(c, err, "exercise")
		return
	}
	x, problems := exercise.Read("exercise.yaml", text)
	if x == nil {
		out := wire.Error{Code: "invalid", Message: fmt.Sprintf("the exercise has %d problems", len(problems))}
		for _, p := range problems {
			out.Problems = append(out.Problems, wire.Problem{File: p.File, Line: p.Line, Column: p.Col, Text: p.Text, Warning: p.Warning})
		}
		c.AbortWithStatusJSON(http.StatusUnprocessableEntity, out)
		return
	}
	if x.Name != c.Param("name") {
		fail(c, http.StatusUnprocessableEntity, "name", fmt.Sprintf("the file says name: %s, the address %s", x.Name, c.Param("name")))
		return
	}
	if err := a.Store.PutExercise(c, x.Name, x.Title, x.Brief, x.Marks().FloatString(3), text); err != nil {
		failed(c, err, "exercise")
		return
	}
	a.exercise(c)
}

func (a *API) submissions(c *gin.Context) {
	if _, err := a.Store.Exercise(c, c.Param("name")); err != nil {
		failed(c, err, "exercise")
		return
	}
	list, err := a.Store.Submissions(c, c.Param("name"))
	if err != nil {
		failed(c, err, "exercise")
		return
	}
	c.JSON(http.StatusOK, list)
}

// cleanName trims a name that people gave and tells whether it can be used.
func cleanName(s string) (string, bool) {
	s = strings.TrimSpace(s)
	for _, r := range s {
		if r < ' ' || r == 0x7f || r == '\ufffd' {
			return "", false
		}
	}
	return s, s != "" && len([]rune(s)) <= maxNameRune
}

func (a *API) submit(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxUpload)
	header, err := c.FormFile("file")
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		failed(c, err, "file")
		return
	case err != nil:
		fail(c, http.StatusBadRequest, "bad-request", "a submission is a form with a file and a student's name")
		return
	}
	student, ok := cleanName(c.PostForm("student"))
	if !ok {
		fail(c, http.StatusBadRequest, "student", fmt.Sprintf("the student's name is missing, or longer than %d characters", maxNameRune))
		return
	}
	name, ok := cleanName(path.Base(strings.ReplaceAll(header.Filename, `\`, "/")))
	if !ok {
		name = "firmware"
	}
	f, err := header.Open()
	if err != nil {
		failed(c, err, "file")
		return
	}
	defer f.Close()
	data, err := io.ReadAll(f)
	if err != nil {
		failed(c, err, "file")
		return
	}
	if _, err := a.Store.Exercise(c, c.Param("name")); err != nil {
		failed(c, err, "exercise")
		return
	}
	id, err := a.Store.Submit(context.WithoutCancel(c), c.Param("name"), student, name, data)
	if err != nil {
		failed(c, err, "exercise")
		return
	}
	a.Queue.Wake()
	s, err := a.Store.Submission(c, id)
	if err != nil {
		failed(c, err, "submission")
		return
	}
	a.Hub.Publish(events.Event{Exercise: s.Exercise, Submission: id})
	c.JSON(http.StatusCreated, s)
}

func (a *API) submission(c *gin.Context) {
	r, err := a.Store.Result(c, c.Param("id"))
	if err != nil {
		failed(c, err, "submission")
		return
	}
	c.JSON(http.StatusOK, r)
}

// reel gives what the displays showed in one trial, simulating it again where it is no longer kept.
func (a *API) reel(c *gin.Context) {
	trial, err := strconv.Atoi(c.Param("trial"))
	if err != nil || trial < 0 {
		fail(c, http.StatusNotFound, "not-found", "trials are counted from 0")
		return
	}
	data, err := a.Store.Reel(c.Param("id"), trial)
	if errors.Is(err, store.ErrNotFound) {
		data, err = a.reelAgain(c, c.Param("id"), trial)
	}
	if err != nil {
		failed(c, err, "trial")
		return
	}
	c.Data(http.StatusOK, "application/json", data)
}

func (a *API) reelAgain(ctx context.Context, id string, trial int) ([]byte, error) {
	text, file, name, err := a.Store.Material(ctx, id)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Read("exercise.yaml", text)
	if x == nil {
		return nil, exercise.Error(problems)
	}
	file, _, err = a.Queue.Firmware(ctx, x, name, file)
	if err != nil {
		return nil, err
	}
	im, err := firmware.Read(file)
	if err != nil || trial >= len(x.Trials) {
		return nil, store.ErrNotFound
	}
	r, err := bench.Run(ctx, x, &x.Trials[trial], im)
	if err != nil {
		return nil, err
	}
	if err := a.Store.PutReel(id, trial, r); err != nil {
		slog.Warn("keeping a reel", "submission", id, "error", err)
	}
	return json.Marshal(r)
}

// events streams changes of submissions, as server-sent events.
func (a *API) events(c *gin.Context) {
	only := c.Query("exercise")
	changes, stop := a.Hub.Listen()
	defer stop()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	c.Writer.WriteHeaderNow()
	fmt.Fprint(c.Writer, ": listening\n\n")
	c.Writer.Flush()
	tick := time.NewTicker(keepAlive)
	defer tick.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case <-tick.C:
			fmt.Fprint(c.Writer, ": still here\n\n")
		case e, ok := <-changes:
			if !ok {
				return
			}
			if only != "" && e.Exercise != only {
				continue
			}
			s, err := a.Store.Submission(c, e.Submission)
			if err != nil {
				return
			}
			data, err := json.Marshal(s)
			if err != nil {
				return
			}
			fmt.Fprintf(c.Writer, "event: submission\ndata: %s\n\n", data)
		}
		c.Writer.Flush()
	}
}

// console serves the built pages; every address that is not a file is the application itself.
func (a *API) console(c *gin.Context) {
	name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if strings.HasPrefix(name, "api/") || a.Console == nil || c.Request.Method != http.MethodGet {
		fail(c, http.StatusNotFound, "not-found", "there is nothing at this address")
		return
	}
	if name == "" || name == "index.html" {
		a.index(c)
		return
	}
	if f, err := fs.Stat(a.Console, name); err == nil && !f.IsDir() {
		if strings.HasPrefix(name, "assets/") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		c.FileFromFS(name, http.FS(a.Console))
		return
	}
	a.index(c)
}

func (a *API) index(c *gin.Context) {
	page, err := fs.ReadFile(a.Console, "index.html")
	if err != nil {
		fail(c, http.StatusNotFound, "no-console", "this binary was built without the console; `make build` builds both")
		return
	}
	c.Header("Cache-Control", "no-cache")
	http.ServeContent(c.Writer, c.Request, "index.html", time.Time{}, bytes.NewReader(page))
}
