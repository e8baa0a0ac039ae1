// Package api answers the HTTP API under /api/v1 and serves the console. The table of its calls is in route.go;
// access.go decides from that table who may use one, before anything else.
package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"runtime"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/events"
	"hemble/service/exercises"
	"hemble/service/grading"
	"hemble/service/marks"
	"hemble/service/people"
	"hemble/service/stores"
	"hemble/service/submissions"
	"hemble/service/web"
)

// API is the front of the service. What its fields hold is set before Handler is called.
type API struct {
	Store         *stores.Stores
	Authenticator *people.Authenticator
	Reader        *exercises.Reader
	Grader        *grading.Grader
	Queue         *grading.Queue
	Hub           *events.Hub
	Console       fs.FS  // the built console; nil for none
	BasePath      string // under which a proxy shows the service, such as /hemble; "" for the root
	Trusted       []netip.Prefix
	Limits        Limits

	people      *people.API
	classes     *classes.API
	exercises   *exercises.API
	submissions *submissions.API
	grading     *grading.API
	marks       *marks.API

	routes  []web.Route
	metrics *metrics
	limits  limiters
	turns   *grading.Turns // of what simulates on request

	readiness struct {
		sync.Mutex
		at  time.Time
		err error
	}
}

// assemble gives each subject what it works with. A subject knows those before it; what one needs of a later one it is
// given as a function.
func (a *API) assemble() {
	s := a.Store
	a.turns = grading.NewTurns(runtime.GOMAXPROCS(0))
	a.marks = &marks.API{Store: s.Marks, Classes: s.Classes, Exercises: s.Exercises, Reader: a.Reader,
		Submissions: s.Submissions,
		Grading:     s.Grading, Grader: a.Grader, Queue: a.Queue, Turns: a.turns, Events: a.Hub}
	a.grading = &grading.API{Store: s.Grading, Exercises: s.Exercises, Grader: a.Grader, Queue: a.Queue, Turns: a.turns,
		Events: a.Hub}
	a.submissions = &submissions.API{Store: s.Submissions, Classes: s.Classes, Exercises: s.Exercises, Reader: a.Reader,
		Events: a.Hub,
		Wake:   a.Queue.Wake, Shown: a.marks.Shown}
	a.exercises = &exercises.API{Store: s.Exercises, Classes: s.Classes, Reader: a.Reader, Shown: a.marks.AssignmentFor}
	a.classes = &classes.API{Store: s.Classes, People: s.People, Authenticator: a.Authenticator}
	a.people = &people.API{Store: s.People, Authenticator: a.Authenticator, SetCookie: a.setCookie,
		ClassesOf: a.classes.Of}
	a.classes.SignIn = a.people
	a.routes = a.Routes()
}

// Handler builds the routes.
func (a *API) Handler() http.Handler {
	gin.SetMode(gin.ReleaseMode)
	a.metrics = a.newMetrics()
	a.Queue.Marked = a.metrics.marked
	a.Grader.Built = func(took time.Duration) { a.metrics.building.Observe(took.Seconds()) }
	a.Grader.Ran = func(took time.Duration) { a.metrics.running.Observe(took.Seconds()) }
	a.limits.start(a.Limits, a.Store.Now)
	a.assemble()
	r := gin.New()
	r.HandleMethodNotAllowed = true
	r.ContextWithFallback = true // what a call does ends when its caller goes away
	r.RemoteIPHeaders = []string{"X-Forwarded-For"}
	var trusted []string
	for _, p := range a.Trusted {
		trusted = append(trusted, p.String())
	}
	if err := r.SetTrustedProxies(trusted); err != nil {
		panic(err) // prefixes are well formed
	}
	r.Use(identify, a.metrics.count, a.log, a.recover, a.secure)

	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	r.GET("/readyz", a.ready)
	r.GET("/metrics", gin.WrapH(promhttp.HandlerFor(a.metrics.registry, promhttp.HandlerOpts{})))

	v1 := r.Group("/api/v1")
	for i := range a.routes {
		route := &a.routes[i]
		if route.Access == 0 {
			panic("no access is declared for " + route.Method + " " + route.Path)
		}
		v1.Handle(route.Method, route.Path, func(c *gin.Context) { a.serve(c, route) })
	}
	r.NoMethod(func(c *gin.Context) {
		a.fail(c, web.NewProblem(http.StatusMethodNotAllowed, "method",
			"this address does not support "+c.Request.Method))
	})
	r.NoRoute(a.console)
	if a.BasePath == "" {
		return r
	}
	inside := http.StripPrefix(a.BasePath, r)
	return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		if rest, ok := strings.CutPrefix(q.URL.Path, a.BasePath); !ok || rest != "" && rest[0] != '/' {
			http.NotFound(w, q) // /hemblex is not /hemble
			return
		}
		inside.ServeHTTP(w, q)
	})
}

// serve does one call: limits, who asks, what about, may they, then the call itself.
func (a *API) serve(c *gin.Context, route *web.Route) {
	r := &web.Request{Context: c, Route: route}
	answer, err := a.call(r)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.answer(r, answer)
}

// accountHeader says who a call is meant to come from. A browser has one session for all its pages: a page of one
// person must do nothing in the name of another who signed in since.
const accountHeader = "Hemble-Account"

func (a *API) call(r *web.Request) (any, error) {
	control := http.NewResponseController(r.Writer)
	if r.Route.Gives != web.MediaEvents {
		// Whoever reads slower than this holds nothing up but itself.
		_ = control.SetWriteDeadline(time.Now().Add(web.Slowest))
	}
	if err := a.identifyCaller(r); err != nil {
		return nil, err
	}
	if of := r.GetHeader(accountHeader); of != "" && r.Account != nil && r.Route.Access != web.Anyone &&
		of != r.Account.Login {
		return nil, web.NewProblem(http.StatusConflict, "other-account",
			fmt.Sprintf("this page belongs to %.64s, but %s is signed in now", of, r.Account.Login))
	}
	if err := a.limits.allow(r); err != nil {
		return nil, err
	}
	if err := a.admit(r); err != nil {
		return nil, err
	}
	if err := a.limits.allowUpload(r); err != nil {
		return nil, err
	}
	if err := readBody(r, control); err != nil {
		return nil, err
	}
	if !changing(r.Request.Method) {
		return r.Route.Do(r)
	}
	if r.GetHeader("If-Match") != "" {
		return a.conditionally(r)
	}
	if key := r.Key(); key != "" {
		r.Request = r.Request.WithContext(db.Changing(r.Request.Context(), key))
	}
	return r.Route.Do(r)
}

// conditionally makes a change only if what its maker has read is still so: the address's own GET gives what If-Match
// names, and nothing changes until the change is made.
func (a *API) conditionally(r *web.Request) (any, error) {
	base, key, sent := r.Request.Context(), r.Key(), r.Request.Body
	for range web.MaxTries {
		at, err := a.Store.Version(base, key)
		if err != nil {
			return nil, err
		}
		if err := a.unchanged(r); err != nil {
			return nil, err
		}
		if again, ok := sent.(*sentBody); ok {
			again.Seek(0, io.SeekStart)
		}
		r.Request = r.Request.WithContext(db.Holding(base, key, at))
		answer, err := r.Route.Do(r)
		if !errors.Is(err, db.ErrChanged) {
			return answer, err
		}
	}
	return nil, web.ErrChanged
}

// unchanged reports whether the address's own GET still gives what If-Match names.
func (a *API) unchanged(r *web.Request) error {
	for i := range a.routes {
		get := &a.routes[i]
		if get.Method != http.MethodGet || get.Path != r.Route.Path || get.Answer == nil {
			continue
		}
		reading := *r
		reading.Route = get
		if err := a.admit(&reading); err != nil {
			return err
		}
		now, err := get.Do(&reading)
		if err != nil {
			return err
		}
		body, err := json.Marshal(now)
		if err != nil {
			return err
		}
		if tag(body) != r.GetHeader("If-Match") {
			return web.ErrChanged
		}
		return nil
	}
	return web.Bad("this address does not support If-Match")
}

// sentBody is a body that was read whole.
type sentBody struct{ *bytes.Reader }

func (sentBody) Close() error { return nil }

// readBody reads what was sent, within its bounds of size and time, so that nothing waits for a slow caller later on.
// Forms with files are left to their reader, within the same bounds of time.
func readBody(r *web.Request, control *http.ResponseController) error {
	_ = control.SetReadDeadline(time.Time{}) // that of the server is for the whole of a call
	if r.Request.Body == nil || r.Request.Body == http.NoBody {
		return nil
	}
	limit, most := web.SendTime, int64(web.MaxBody)
	if r.Route.Takes != "" && r.Route.Takes != web.MediaYAML {
		limit, most = web.UploadTime, web.MaxUpload
	}
	_ = control.SetReadDeadline(time.Now().Add(limit))
	if r.Route.Takes == web.MediaForm {
		r.Request.Body = &timedBody{r.Request.Body, func() { _ = control.SetReadDeadline(time.Time{}) }}
		return nil
	}
	data, err := io.ReadAll(http.MaxBytesReader(r.Writer, r.Request.Body, most))
	if err != nil {
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return err
		}
		return web.NewProblem(http.StatusRequestTimeout, "slow",
			fmt.Sprintf("the request did not arrive within %s", limit))
	}
	_ = control.SetReadDeadline(time.Time{})
	r.Request.Body = &sentBody{bytes.NewReader(data)}
	return nil
}

// timedBody is a body with a deadline, which ends with it.
type timedBody struct {
	io.ReadCloser
	done func()
}

func (b *timedBody) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if err == io.EOF {
		b.done()
	}
	return n, err
}

// tag is the entity tag of an answer.
func tag(body []byte) string {
	sum := sha256.Sum256(body)
	return `"` + hex.EncodeToString(sum[:12]) + `"`
}

func (a *API) answer(r *web.Request, answer any) {
	h := r.Writer.Header()
	name := func(s string) {
		if s != "" {
			h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", web.PlainName(s)))
		}
	}
	switch v := answer.(type) {
	case web.Handled:
	case nil:
		r.Status(r.Route.Success())
	case web.Raw:
		name(v.Name)
		h.Set("Cache-Control", "private, no-cache")
		r.Data(r.Route.Success(), r.Route.Gives, v.Data)
	case web.Streamed:
		name(v.Name)
		h.Set("Cache-Control", "no-store")
		h.Set("Content-Type", r.Route.Gives)
		if err := v.Write(r.Writer); err != nil {
			if !r.Writer.Written() {
				h.Del("Content-Disposition")
				a.fail(r.Context, err)
				return
			}
			slog.Error("an answer broke off", "request", requestID(r.Context), "error", err)
			panic(http.ErrAbortHandler) // the reader must not take it for whole
		}
	default:
		body, ok := v.(json.RawMessage)
		if !ok {
			var err error
			if body, err = json.Marshal(v); err != nil {
				a.fail(r.Context, err)
				return
			}
		}
		h.Set("Cache-Control", "private, no-cache")
		if r.Request.Method == http.MethodGet {
			h.Set("ETag", tag(body))
			if strings.Contains(r.GetHeader("If-None-Match"), tag(body)) {
				r.Status(http.StatusNotModified)
				return
			}
		}
		r.Data(r.Route.Success(), web.MediaJSON, body)
	}
}

// readyFor is how long an answer of /readyz stands: asking more often costs nothing.
const readyFor = 2 * time.Second

// ready reports whether work that is submitted now would be acknowledged: whether its file, its receipt and its job
// could be written.
func (a *API) ready(c *gin.Context) {
	a.readiness.Lock()
	defer a.readiness.Unlock()
	if time.Since(a.readiness.at) > readyFor {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(c), 5*time.Second)
		a.readiness.err = a.Store.Writable(ctx)
		a.readiness.at = time.Now()
		cancel()
	}
	switch err := a.readiness.err; {
	case err == nil:
		c.String(http.StatusOK, "ok\n")
	case db.Full(err):
		c.String(http.StatusServiceUnavailable, "the disk is full or read-only: submissions are refused\n")
	default:
		slog.Error("not ready", "error", err)
		c.String(http.StatusServiceUnavailable, "the database does not answer: submissions are refused\n")
	}
}

func (a *API) recover(c *gin.Context) {
	defer func() {
		v := recover()
		if v == nil {
			return
		}
		if v == http.ErrAbortHandler {
			panic(v)
		}
		slog.Error("panic in a handler", "request", requestID(c), "path", c.FullPath(), "panic", v, "stack",
			string(debug.Stack()))
		if !c.Writer.Written() {
			a.fail(c, errors.New("panic"))
		}
		c.Abort()
	}()
	c.Next()
}

// console serves the built pages; every address that is not a file is the application itself.
func (a *API) console(c *gin.Context) {
	name := strings.TrimPrefix(cleanPath(c.Request.URL.Path), "/")
	if strings.HasPrefix(name, "api/") || a.Console == nil || c.Request.Method != http.MethodGet {
		a.fail(c, web.NewProblem(http.StatusNotFound, "not-found", "nothing found at this address"))
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

// index is the page that loads the console; it tells it where the service is.
func (a *API) index(c *gin.Context) {
	page, err := fs.ReadFile(a.Console, "index.html")
	if err != nil {
		a.fail(c, web.NewProblem(http.StatusNotFound, "no-console",
			"this binary was built without the console; `make build` builds both"))
		return
	}
	page = bytes.Replace(page, []byte("<head>"), []byte(`<head><base href="`+a.BasePath+`/">`), 1)
	c.Header("Cache-Control", "no-cache")
	http.ServeContent(c.Writer, c.Request, "index.html", time.Time{}, bytes.NewReader(page))
}
