package api

import (
	"crypto/rand"
	"encoding/hex"
	"log/slog"
	"math"
	"net/http"
	"net/netip"
	"path"
	"strconv"
	"sync"
	"time"

	"hemble/service/web"

	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"
)

func cleanPath(p string) string { return path.Clean("/" + p) }

// identify gives each request an id, which its answer and the log have in common.
func identify(c *gin.Context) {
	var id [8]byte
	_, _ = rand.Read(id[:])
	c.Set("request", hex.EncodeToString(id[:]))
	c.Header("X-Request-Id", requestID(c))
}

func requestID(c *gin.Context) string { return c.GetString("request") }

// log notes what was asked for, by whom and how long it took; never a query, a body, a cookie or a token.
func (a *API) log(c *gin.Context) {
	began := time.Now()
	c.Next()
	slog.Info("request", "request", requestID(c), "method", c.Request.Method, "path", c.Request.URL.Path, "status",
		c.Writer.Status(), "ms", time.Since(began).Milliseconds(), "from", c.ClientIP(), "by", c.GetString("login"))
}

// secure adds headers, and refuses changes that another site's page asks for.
func (a *API) secure(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Content-Security-Policy",
		"default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'self'; form-action 'self'; object-src 'none'")
	if a.secureTransport(c) {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	switch c.Request.Header.Get("Sec-Fetch-Site") {
	case "", "same-origin", "none":
	default:
		if changing(c.Request.Method) {
			a.fail(c, web.NewProblem(http.StatusForbidden, "cross-site", "this request came from another site's page"))
		}
	}
}

// secureTransport reports whether who asks came by TLS: to the service itself, or to a proxy that is trusted to say so.
func (a *API) secureTransport(c *gin.Context) bool {
	if c.Request.TLS != nil {
		return true
	}
	if c.GetHeader("X-Forwarded-Proto") != "https" {
		return false
	}
	from, err := netip.ParseAddr(c.RemoteIP())
	if err != nil {
		return false
	}
	for _, p := range a.Trusted {
		if p.Contains(from.Unmap()) {
			return true
		}
	}
	return false
}

// setCookie leaves a session's token with a browser, "" takes it away.
func (a *API) setCookie(r *web.Request, value string, age time.Duration) {
	seconds := int(age.Seconds())
	if value == "" {
		seconds = -1
	}
	http.SetCookie(r.Writer, &http.Cookie{Name: web.CookieName, Value: value, Path: a.BasePath + "/", MaxAge: seconds,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: a.secureTransport(r.Context)})
}

// Limits are how many requests are taken: of an account, and of an address that nobody is signed in from. A zero one
// has no bound.
type Limits struct {
	PerAccount, AccountBurst int // a second; at once
	PerAddress, AddressBurst int
	Uploads                  int // of a student in a minute
}

// DefaultLimits are generous to people and pages, and keep one caller from taking all.
var DefaultLimits = Limits{PerAccount: 50, AccountBurst: 300, PerAddress: 20, AddressBurst: 300, Uploads: 20}

// limiters count requests.
type limiters struct {
	Limits
	now func() time.Time
	mu  sync.Mutex
	of  map[string]*rate.Limiter
}

const maxLimiters = 20_000

func (l *limiters) start(with Limits, now func() time.Time) {
	l.Limits, l.now, l.of = with, now, map[string]*rate.Limiter{}
}

func (l *limiters) allow(r *web.Request) error {
	if r.Account == nil {
		return l.take(r, "address "+r.ClientIP(), rate.Limit(l.PerAddress), l.AddressBurst)
	}
	r.Set("login", r.Account.Login)
	return l.take(r, "account "+r.Account.Login, rate.Limit(l.PerAccount), l.AccountBurst)
}

// allowUpload bounds what one student submits; those who mark submit for sixty.
func (l *limiters) allowUpload(r *web.Request) error {
	if r.Route.Takes != web.MediaForm || !r.IsStudent() {
		return nil
	}
	return l.take(r, "uploads "+r.Account.Login, rate.Limit(float64(l.Uploads)/60), l.Uploads)
}

func (l *limiters) take(r *web.Request, key string, most rate.Limit, burst int) error {
	if burst == 0 {
		return nil
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.of) >= maxLimiters {
		clear(l.of)
	}
	if l.of[key] == nil {
		l.of[key] = rate.NewLimiter(most, burst)
	}
	now := l.now()
	if l.of[key].AllowN(now, 1) {
		return nil
	}
	wait := 1.0
	if most > 0 {
		wait = math.Ceil(1 / float64(most))
	}
	r.Header("Retry-After", strconv.Itoa(int(wait)))
	return web.NewProblem(http.StatusTooManyRequests, "too-often", "too many requests; wait a moment")
}
