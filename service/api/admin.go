package api

import (
	"io"
	"log/slog"
	"strconv"

	"hemble/service/backup"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) audit(r *web.Request) (any, error) {
	limit, before, err := web.Page(r)
	if err != nil {
		return nil, err
	}
	class := int64(0)
	if r.Class != nil {
		class = r.Class.ID
	}
	entries, total, err := a.Store.Audit(r, class, int64(before), limit+1)
	out := wire.Page[wire.AuditEntry]{Items: []wire.AuditEntry{}, Total: total}
	for _, e := range entries[:min(limit, len(entries))] {
		out.Items = append(out.Items, wire.AuditEntry(e))
	}
	if len(entries) > limit {
		out.Next = strconv.FormatInt(entries[limit-1].ID, 10)
	}
	return out, err
}

func (a *API) backup(r *web.Request) (any, error) {
	slog.Info("a backup is taken", "by", r.Account.Login)
	return web.Streamed{Name: "hemble-" + a.Store.Now().Format("2006-01-02-1504") + ".tar.gz",
		Write: func(w io.Writer) error {
			_, err := backup.Write(r, a.Store.DB, web.Unbounded{Writer: w, R: r})
			return err
		}}, nil
}
