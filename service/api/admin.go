package api

import (
	"io"
	"log/slog"
	"strconv"

	"hemble/service/store"
)

func (a *API) audit(r *request) (any, error) {
	limit, before, err := page(r)
	if err != nil {
		return nil, err
	}
	class := int64(0)
	if r.class != nil {
		class = r.class.ID
	}
	return a.Store.Audit(r, class, int64(before), limit)
}

func (a *API) queue(r *request) (any, error) { return a.Store.QueueState(r) }

func (a *API) retry(r *request) (any, error) {
	id, err := numbered(r, "job")
	if err != nil {
		return nil, err
	}
	if err := a.Store.Retry(r, r.account.Login, id); err == store.ErrNotFound {
		return nil, &store.Refusal{Code: "not-aside", Text: "job " + strconv.FormatInt(id, 10) + " was not set aside"}
	} else if err != nil {
		return nil, err
	}
	a.Queue.Wake()
	return nil, nil
}

func (a *API) backup(r *request) (any, error) {
	slog.Info("a backup is taken", "by", r.account.Login)
	return streamed{"hemble-" + a.Store.Now().Format("2006-01-02-1504") + ".tar.gz", func(w io.Writer) error {
		_, err := a.Store.Backup(r, unbounded{w, r})
		return err
	}}, nil
}
