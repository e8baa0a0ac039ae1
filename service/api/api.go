// Package api answers the HTTP API under /api/v1 and serves the console. The table of its calls is in route.go; who may
// use one is decided in access.go, from that table, before anything else.
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

	"hemble/core/firmware"
	"hemble/service/auth"
	"hemble/service/desk"
	"hemble/service/events"
	"hemble/service/queue"
	"hemble/service/store"
	"hemble/service/turns"
)

// Limits of requests.
const (
	maxBody    = 1 << 20
	maxUpload  = firmware.MaxFile + 2<<20 // the file, a wiring and the form around them
	maxTable   = 2 << 20                  // a school's own table
	maxBulk    = 256 << 20
	keepAlive  = 15 * time.Second
	slowest    = 2 * time.Minute // that an answer may take to be read
	cookieName = "hemble_session"
)

// API is what the handlers work with.
type API struct {
	Store    *store.Store
	Keeper   *auth.Keeper
	Desk     *desk.Desk
	Queue    *queue.Queue
	Hub      *events.Hub
	Console  fs.FS  // the built console; nil for none
	BasePath string // under which a proxy shows the service, such as /hemble; "" for the root
	Trusted  []netip.Prefix
	Limits   Limits

	metrics *metrics
	limits  limiters
	turns   *turns.Gate // of what simulates on request

	readiness struct {
		sync.Mutex
		at  time.Time
		err error
	}
}

// request is a call under way, with what was looked up for it.
type request struct {
	*gin.Context
	route      *Route
	session    *store.Session // nil where nobody is signed in
	account    *store.Account
	class      *store.Class
	opening    *store.Opening
	submission *store.Submission
}

// problem is an answer that is not a success.
type problem struct {
	status int
	code   string
	detail string
}

func (p *problem) Error() string { return p.detail }

func bad(format string, args ...any) error {
	return &problem{http.StatusBadRequest, "bad-request", fmt.Sprintf(format, args...)}
}

func unfit(code, format string, args ...any) error {
	return &problem{http.StatusUnprocessableEntity, code, fmt.Sprintf(format, args...)}
}

// raw is an answer that is not JSON.
type raw struct {
	data []byte
	name string // for saving; "" for none
}

// streamed is an answer that its function writes.
type streamed struct {
	name  string
	write func(io.Writer) error
}

// handled is an answer that was written already.
type handled struct{}

// Handler builds the routes.
func (a *API) Handler() http.Handler {
	gin.SetMode(gin.ReleaseMode)
	a.metrics = a.newMetrics()
	a.Queue.Marked = a.metrics.marked
	a.Desk.Built = func(took time.Duration) { a.metrics.building.Observe(took.Seconds()) }
	a.Desk.Ran = func(took time.Duration) { a.metrics.running.Observe(took.Seconds()) }
	a.limits.start(a.Limits, a.Store.Now)
	a.turns = turns.New(runtime.GOMAXPROCS(0))
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
	routes := Routes()
	for i := range routes {
		route := &routes[i]
		if route.Access == 0 {
			panic("no access is declared for " + route.Method + " " + route.Path)
		}
		v1.Handle(route.Method, route.Path, func(c *gin.Context) { a.serve(c, route) })
	}
	r.NoMethod(func(c *gin.Context) {
		a.fail(c, &problem{http.StatusMethodNotAllowed, "method", "this address does not take " + c.Request.Method})
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
func (a *API) serve(c *gin.Context, route *Route) {
	r := &request{Context: c, route: route}
	answer, err := a.call(r)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.answer(r, answer)
}

// accountHeader says who a call is meant to come from. A browser has one session for all its pages: a page of one person must do
// nothing in the name of another who signed in since.
const accountHeader = "Hemble-Account"

func (a *API) call(r *request) (any, error) {
	control := http.NewResponseController(r.Writer)
	if r.route.Gives != mediaEvents {
		// Whoever reads slower than this holds nothing up but itself.
		_ = control.SetWriteDeadline(time.Now().Add(slowest))
	}
	if err := a.identifyCaller(r); err != nil {
		return nil, err
	}
	if of := r.GetHeader(accountHeader); of != "" && r.account != nil && r.route.Access != Anyone && of != r.account.Login {
		return nil, &problem{http.StatusConflict, "other-account", fmt.Sprintf("this page is %.64s's, and %s is signed in by now", of, r.account.Login)}
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
		return r.route.Do(a, r)
	}
	if r.GetHeader("If-Match") != "" {
		return a.conditionally(r)
	}
	if key := r.key(); key != "" {
		r.Request = r.Request.WithContext(store.Changing(r.Request.Context(), key))
	}
	return r.route.Do(a, r)
}

// key names what a call changes, for versions; "" where nobody's change depends on it.
func (r *request) key() string {
	switch {
	case r.class != nil:
		return store.ClassKey(r.class.ID)
	case r.Param("exercise") != "":
		return store.ExerciseKey(r.Param("exercise"))
	case r.Param("login") != "":
		return store.AccountKey(r.Param("login"))
	}
	return ""
}

// maxTries is how often a change is worked out again whose grounds have changed meanwhile.
const maxTries = 10

// conditionally makes a change only if what its maker has read is still so: the address's own GET gives what If-Match
// names, and nothing changes until the change is made.
func (a *API) conditionally(r *request) (any, error) {
	base, key, sent := r.Request.Context(), r.key(), r.Request.Body
	for range maxTries {
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
		r.Request = r.Request.WithContext(store.Holding(base, key, at))
		answer, err := r.route.Do(a, r)
		if !errors.Is(err, store.ErrChanged) {
			return answer, err
		}
	}
	return nil, errChanged
}

// consistently makes a change that is worked out from what is there, again where that has changed meanwhile.
func (a *API) consistently(r *request, f func() error) error {
	base, key := r.Request.Context(), r.key()
	if store.Held(base) {
		return f()
	}
	for range maxTries {
		at, err := a.Store.Version(base, key)
		if err != nil {
			return err
		}
		r.Request = r.Request.WithContext(store.Holding(base, key, at))
		if err := f(); !errors.Is(err, store.ErrChanged) {
			return err
		}
	}
	return errChanged
}

var errChanged = &problem{http.StatusPreconditionFailed, "changed", "this was changed by somebody else since you read it: read it again"}

// unchanged tells whether the address's own GET still gives what If-Match names.
func (a *API) unchanged(r *request) error {
	routes := Routes()
	for i := range routes {
		get := &routes[i]
		if get.Method != http.MethodGet || get.Path != r.route.Path || get.Answer == nil {
			continue
		}
		reading := *r
		reading.route = get
		if err := a.admit(&reading); err != nil {
			return err
		}
		now, err := get.Do(a, &reading)
		if err != nil {
			return err
		}
		body, err := json.Marshal(now)
		if err != nil {
			return err
		}
		if tag(body) != r.GetHeader("If-Match") {
			return errChanged
		}
		return nil
	}
	return bad("this address takes no If-Match")
}

// How long a caller may take to send what a call takes.
const (
	sendTime   = 15 * time.Second
	uploadTime = 2 * time.Minute // a file over a slow line
)

// sentBody is a body that was read whole.
type sentBody struct{ *bytes.Reader }

func (sentBody) Close() error { return nil }

// readBody reads what was sent, within its bounds of size and time, so that nothing waits for a slow caller later on. Forms
// with files are left to their reader, within the same bounds of time.
func readBody(r *request, control *http.ResponseController) error {
	_ = control.SetReadDeadline(time.Time{}) // that of the server is for the whole of a call
	if r.Request.Body == nil || r.Request.Body == http.NoBody {
		return nil
	}
	limit, most := sendTime, int64(maxBody)
	if r.route.Takes != "" && r.route.Takes != mediaYAML {
		limit, most = uploadTime, maxUpload
	}
	_ = control.SetReadDeadline(time.Now().Add(limit))
	if r.route.Takes == mediaForm {
		r.Request.Body = &timedBody{r.Request.Body, func() { _ = control.SetReadDeadline(time.Time{}) }}
		return nil
	}
	data, err := io.ReadAll(http.MaxBytesReader(r.Writer, r.Request.Body, most))
	if err != nil {
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return err
		}
		return &problem{http.StatusRequestTimeout, "slow", fmt.Sprintf("what was announced did not arrive within %s", limit)}
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

func (a *API) answer(r *request, answer any) {
	h := r.Writer.Header()
	name := func(s string) {
		if s != "" {
			h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", plainName(s)))
		}
	}
	switch v := answer.(type) {
	case handled:
	case nil:
		r.Status(r.route.success())
	case raw:
		name(v.name)
		h.Set("Cache-Control", "private, no-cache")
		r.Data(r.route.success(), r.route.Gives, v.data)
	case streamed:
		name(v.name)
		h.Set("Cache-Control", "no-store")
		h.Set("Content-Type", r.route.Gives)
		if err := v.write(r.Writer); err != nil {
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
		r.Data(r.route.success(), mediaJSON, body)
	}
}

// plainName keeps of a file's name what every system takes.
func plainName(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' || strings.ContainsRune(`"\/:*?<>|%`, r) {
			return '_'
		}
		return r
	}, s)
}

// body decodes what was sent as JSON.
func body[T any](r *request) (*T, error) {
	if ct := r.ContentType(); ct != mediaJSON {
		return nil, &problem{http.StatusUnsupportedMediaType, "media-type", fmt.Sprintf("this takes %s, not %q", mediaJSON, ct)}
	}
	d := json.NewDecoder(http.MaxBytesReader(r.Writer, r.Request.Body, maxBody))
	d.DisallowUnknownFields()
	var in T
	err := d.Decode(&in)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		return nil, err
	case err != nil:
		return nil, bad("what was sent is not what this takes: %s", strings.TrimPrefix(err.Error(), "json: "))
	case d.More():
		return nil, bad("there is more behind what this takes")
	}
	return &in, nil
}

// content reads what was sent as it is.
func content(r *request, most int64) ([]byte, error) {
	return io.ReadAll(http.MaxBytesReader(r.Writer, r.Request.Body, most))
}

// readyFor is how long an answer of /readyz stands: asking more often costs nothing.
const readyFor = 2 * time.Second

// ready tells whether work that is handed in now would be acknowledged: whether its file, its receipt and its job could be
// written.
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
	case store.Full(err):
		c.String(http.StatusServiceUnavailable, "the disk takes nothing: submissions are refused\n")
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
		slog.Error("panic in a handler", "request", requestID(c), "path", c.FullPath(), "panic", v, "stack", string(debug.Stack()))
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
		a.fail(c, &problem{http.StatusNotFound, "not-found", "there is nothing at this address"})
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
		a.fail(c, &problem{http.StatusNotFound, "no-console", "this binary was built without the console; `make build` builds both"})
		return
	}
	page = bytes.Replace(page, []byte("<head>"), []byte(`<head><base href="`+a.BasePath+`/">`), 1)
	c.Header("Cache-Control", "no-cache")
	http.ServeContent(c.Writer, c.Request, "index.html", time.Time{}, bytes.NewReader(page))
}
