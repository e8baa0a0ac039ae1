// Package service is the long-running service: a data folder, the workers that mark submissions,
// and the HTTP front of it all.
package service

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path/filepath"
	"sync"
	"time"

	"hemble/build"
	"hemble/service/api"
	"hemble/service/auth"
	"hemble/service/events"
	"hemble/service/queue"
	"hemble/service/store"

	_ "hemble/core/catalogue" // the chips and parts there are
)

// Config says what a service needs.
type Config struct {
	Dir       string
	Listen    string // address, such as 127.0.0.1:8080
	Name      string // of the first account
	Password  string // of the first account; "" for a random one
	Console   fs.FS
	Libraries []string // folders of library folders that submitted source may include
}

// Service is one that is running.
type Service struct {
	Address  string // that it listens at
	Password string // of the account made at this start, "" if there was one
	server   *http.Server
	store    *store.Store
	hub      *events.Hub
	stop     context.CancelFunc
	done     sync.WaitGroup
	failed   chan error
}

// Start opens the folder, listens and begins to work off the queue.
func Start(ctx context.Context, c Config) (*Service, error) {
	st, err := store.Open(ctx, c.Dir)
	if err != nil {
		return nil, err
	}
	keeper := auth.NewKeeper(st)
	password, err := keeper.FirstAccount(ctx, c.Name, c.Password)
	if err != nil {
		st.Close()
		return nil, err
	}
	l, err := net.Listen("tcp", c.Listen)
	if err != nil {
		st.Close()
		return nil, err
	}
	hub := events.NewHub()
	q := queue.New(st, hub)
	if q.Builder, err = build.New(build.Config{Cache: filepath.Join(c.Dir, "cache", "build"), Libraries: c.Libraries}); err != nil {
		q.Builder, q.NoBuilder = nil, err.Error()
		slog.Warn("source is not accepted", "why", err)
	}
	front := &api.API{Store: st, Keeper: keeper, Queue: q, Hub: hub, Console: c.Console}
	s := &Service{Address: l.Addr().String(), Password: password, store: st, hub: hub, failed: make(chan error, 1),
		server: &http.Server{Handler: front.Handler(), ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute, IdleTimeout: 2 * time.Minute}}
	work, stop := context.WithCancel(context.WithoutCancel(ctx))
	s.stop = stop
	s.done.Go(func() { q.Run(work) })
	s.done.Go(func() {
		if err := s.server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			s.failed <- err
		}
	})
	return s, nil
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
	return errors.Join(err, s.store.Close())
}
