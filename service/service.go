// Package service is the long-running service: a data folder, the workers that mark submissions, and the HTTP server.
package service

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io/fs"
	"log"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"path/filepath"
	"regexp"
	"runtime"
	"sync"
	"time"

	"hemble/build"
	_ "hemble/core/catalogue" // the chips and parts there are
	_ "hemble/interpreter"    // runs scripts
	"hemble/sandbox"
	"hemble/service/api"
	"hemble/service/events"
	"hemble/service/exercises"
	"hemble/service/grading"
	"hemble/service/people"
	"hemble/service/stores"
)

// Config says what a service needs.
type Config struct {
	Dir       string
	Listen    string // address, such as 127.0.0.1:8080
	Console   fs.FS
	Libraries []string // folders of library folders that submitted source of every class may include

	// First is the account made at the first start; without a login, the service has a set-up link instead.
	First struct{ Login, Name, Password string }

	Cert, Key string         // files of a TLS certificate and its key; "" for plain HTTP
	BasePath  string         // under which a proxy shows the service, such as /hemble
	Trusted   []netip.Prefix // proxies that tell from where and how a request came
	Limits    api.Limits     // of requests; the zero one has no bounds
	MostReels int64          // bytes of the cache of reels; 0 for no bound
	Workers   int            // submissions that are marked at a time; 0 for one for each processor
	Now       func() time.Time
}

// Service is one that is running.
type Service struct {
	Address string // that it listens at
	SetUp   string // token of the set-up link, "" where there is an account
	Store   *stores.Stores
	server  *http.Server
	hub     *events.Hub
	stop    context.CancelFunc
	done    sync.WaitGroup
	failed  chan error
}

// URL is where the service listens, as http://127.0.0.1:8080/hemble.
func (s *Service) URL(c Config) string {
	scheme := "http"
	if c.Cert != "" {
		scheme = "https"
	}
	return scheme + "://" + s.Address + c.BasePath
}

var basePath = regexp.MustCompile(`^(/[A-Za-z0-9._~-]+)*$`)

// Start opens the folder, listens and begins to work off the queue.
func Start(ctx context.Context, c Config) (*Service, error) {
	if !basePath.MatchString(c.BasePath) {
		return nil, fmt.Errorf("a base path is like /hemble, not %q", c.BasePath)
	}
	st, err := stores.Open(ctx, c.Dir, c.Now)
	if err != nil {
		return nil, err
	}
	s, err := start(ctx, c, st)
	if err != nil {
		return nil, errors.Join(err, st.Close())
	}
	return s, nil
}

func start(ctx context.Context, c Config, st *stores.Stores) (*Service, error) {
	st.Grading.MostReels(c.MostReels)
	keeper := people.NewAuthenticator(st.People)
	if c.First.Login != "" {
		if err := keeper.FirstAccount(ctx, c.First.Login, c.First.Name, c.First.Password); err != nil {
			return nil, err
		}
	}
	token, err := keeper.SetUp(ctx)
	if err != nil {
		return nil, err
	}
	reader, err := exercises.NewReader(ctx, st.DB, func() []byte { return people.Random(32) })
	if err != nil {
		return nil, err
	}
	d := grading.NewGrader(st.Grading, st.Classes, reader, filepath.Join(c.Dir, "cache"))
	sandbox.Sweep()
	switch d.Builder, err = build.New(build.Config{Cache: filepath.Join(c.Dir, "cache", "build"),
		Libraries: c.Libraries}); {
	case errors.Is(err, build.ErrOff):
		d.Builder, d.NoBuilder = nil, err.Error()
		slog.Warn("source is not accepted", "why", err)
	case err != nil:
		return nil, err
	}
	l, err := listen(c)
	if err != nil {
		return nil, err
	}
	hub := events.NewHub(st.Now)
	q := grading.NewQueue(st.Grading, d, hub, grading.Here)
	front := &api.API{Store: st, Authenticator: keeper, Reader: reader, Grader: d, Queue: q, Hub: hub,
		Console:  c.Console,
		BasePath: c.BasePath, Trusted: c.Trusted, Limits: c.Limits}
	s := &Service{Address: l.Addr().String(), SetUp: token, Store: st, hub: hub, failed: make(chan error, 1),
		server: &http.Server{
			Handler: front.Handler(), ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute,
			IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10,
			ErrorLog: log.New(quietly{}, "", 0),
		}}
	workers := c.Workers
	if workers == 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	work, stop := context.WithCancel(context.WithoutCancel(ctx))
	s.stop = stop
	s.done.Go(func() { q.Run(work, workers) })
	s.done.Go(func() { hub.Run(work, front.Told) })
	s.done.Go(func() {
		if err := s.server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			s.failed <- err
		}
	})
	return s, nil
}

func listen(c Config) (net.Listener, error) {
	if (c.Cert == "") != (c.Key == "") {
		return nil, errors.New("TLS takes a certificate and its key: one of them is missing")
	}
	l, err := net.Listen("tcp", c.Listen)
	if err != nil || c.Cert == "" {
		return l, err
	}
	pair, err := tls.LoadX509KeyPair(c.Cert, c.Key)
	if err != nil {
		l.Close()
		return nil, fmt.Errorf("the TLS certificate: %w", err)
	}
	return tls.NewListener(l, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12,
		NextProtos: []string{"h2", "http/1.1"}}), nil
}

// quietly passes on what the HTTP server says of broken connections, which are nobody's trouble.
type quietly struct{}

func (quietly) Write(p []byte) (int, error) {
	slog.Debug("http", "text", string(p))
	return len(p), nil
}

// Wait returns when ctx ends or the service cannot go on, after an orderly stop.
func (s *Service) Wait(ctx context.Context) error {
	var err error
	select {
	case <-ctx.Done():
	case err = <-s.failed:
	}
	return errors.Join(err, s.Close())
}

// Close ends requests and marking; what is under way goes back to the queue.
func (s *Service) Close() error {
	s.stop()
	s.hub.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	err := s.server.Shutdown(ctx)
	s.done.Wait()
	return errors.Join(err, s.Store.Close())
}
