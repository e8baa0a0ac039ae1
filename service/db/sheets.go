package db

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"github.com/pressly/goose/v3"

	"hemble/service/durable"
)

// renameInSheets brings the mark sheets of earlier releases to the words of the glossary (schema 7): a sheet is kept as
// it was marked, and is read by the names of today.
var renameInSheets = goose.NewGoMigration(7, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, `SELECT job_id FROM result ORDER BY job_id`)
	if err != nil {
		return err
	}
	var jobs []int64
	for rows.Next() {
		var job int64
		if err := rows.Scan(&job); err != nil {
			return err
		}
		jobs = append(jobs, job)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, job := range jobs {
		var packed []byte
		if err := tx.QueryRowContext(ctx, `SELECT sheet FROM result WHERE job_id = ?`, job).Scan(&packed); err != nil {
			return err
		}
		text, err := durable.Unpack(packed)
		if err != nil {
			continue // damaged: verify tells of it, and it stays as it is
		}
		if text, err = renamed(text); err != nil {
			continue
		}
		if packed, err = durable.Pack(text); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE result SET sheet = ? WHERE job_id = ?`, packed, job); err != nil {
			return fmt.Errorf("the sheet of job %d: %w", job, err)
		}
	}
	return nil
}}, nil)

// object is a JSON object whose values are left as they are written.
type object map[string]json.RawMessage

// change changes a value; into says which fields of an object are changed, and how.
type (
	change func(json.RawMessage) (json.RawMessage, error)
	into   map[string]change
)

// renamed is a sheet with the names of today.
func renamed(sheet []byte) ([]byte, error) {
	return changed(sheet, nil, into{
		"findings": each(map[string]string{"mended": "repaired"}, nil),
		"trials": each(nil, into{
			"verdicts": each(map[string]string{"lanes": "alignment"}, into{
				"alignment": each(map[string]string{"step": "operation"}, into{
					"expected": span, "seen": span,
				}),
			}),
		}),
	})
}

func span(text json.RawMessage) (json.RawMessage, error) {
	return changed(text, map[string]string{"sight": "state"}, nil)
}

// each changes every object of a list.
func each(names map[string]string, inside into) change {
	return func(text json.RawMessage) (json.RawMessage, error) {
		var list []json.RawMessage
		if err := json.Unmarshal(text, &list); err != nil || list == nil {
			return text, err
		}
		for i := range list {
			var err error
			if list[i], err = changed(list[i], names, inside); err != nil {
				return nil, err
			}
		}
		return json.Marshal(list)
	}
}

// changed gives fields of an object their new names, and changes what is inside some of them.
func changed(text []byte, names map[string]string, inside into) ([]byte, error) {
	var o object
	if err := json.Unmarshal(text, &o); err != nil || o == nil {
		return text, err
	}
	for was, is := range names {
		if v, there := o[was]; there {
			delete(o, was)
			o[is] = v
		}
	}
	for name, f := range inside {
		if v, there := o[name]; there {
			var err error
			if o[name], err = f(v); err != nil {
				return nil, err
			}
		}
	}
	return json.Marshal(o)
}
