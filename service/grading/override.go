package grading

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// Adjust gives a sheet with the given overrides. An override that does not fit the sheet is an error.
func (d *Grader) Adjust(ctx context.Context, sub *record.Submission, job int64, sh *sheet.Sheet,
	overrides []Override) (*sheet.Sheet, error) {
	if len(overrides) == 0 {
		return sh, nil
	}
	m, err := d.store.Material(ctx, sub.ID, job)
	if err != nil {
		return nil, err
	}
	x, err := d.reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	return adjust(x, sh, overrides)
}

func adjust(x *exercise.Exercise, sh *sheet.Sheet, overrides []Override) (*sheet.Sheet, error) {
	given, err := ForMarking(overrides)
	if err == nil {
		sh, err = marking.Adjust(x, sh, given)
	}
	if err != nil {
		return nil, &db.Refusal{Code: "override", Text: err.Error()}
	}
	return sh, nil
}

// Adjusted gives the sheet of a submission by one of its jobs with its overrides; nil where it has none yet.
func (d *Grader) Adjusted(ctx context.Context, sub *record.Submission, job int64) (*sheet.Sheet, error) {
	sh, err := d.store.Sheet(ctx, job)
	if err != nil || sh == nil {
		return nil, err
	}
	overrides, err := d.store.Overrides(ctx, sub.ID)
	if err != nil {
		return nil, err
	}
	return d.Adjust(ctx, sub, job, sh, overrides)
}

// Override is a mark that a person gave in place of the one that was computed.
type Override struct {
	ID      int64       `db:"id"`
	Trial   *int        `db:"trial"`
	Verdict *int        `db:"verdict"`
	Row     *int        `db:"row"` // of what is marked by hand
	Marks   json.Number `db:"marks"`
	Reason  string      `db:"reason"`
	By      string      `db:"by"`
	Created time.Time   `db:"created"`
}

// Wire is what the API says of it.
func (o *Override) Wire() wire.Override { return wire.Override(*o) }

// Overrides lists the overrides current of a submission, in the order in which they were made.
func (s *Store) Overrides(ctx context.Context, submission string) ([]Override, error) {
	return db.List[Override](ctx, s.DB,
		`SELECT v.id, v.trial, v.verdict, v.hand_row AS row, v.marks, v.reason, a.full_name AS by, v.created_at AS created
		FROM override v JOIN account a ON a.id = v.account_id WHERE v.submission_id = ? AND v.withdrawn_at IS NULL ORDER BY v.id`, submission)
}

// ForMarking gives overrides as marking takes them.
func ForMarking(all []Override) ([]marking.Override, error) {
	var out []marking.Override
	for _, o := range all {
		m := marking.Override{Trial: -1, Verdict: -1, Row: -1, Given: sheet.Given{Reason: o.Reason, By: o.By}}
		if o.Trial != nil && o.Verdict != nil {
			m.Trial, m.Verdict = *o.Trial, *o.Verdict
		}
		if o.Row != nil {
			m.Row = *o.Row
		}
		if err := m.Marks.UnmarshalJSON([]byte(o.Marks)); err != nil {
			return nil, fmt.Errorf("%q are no marks", o.Marks)
		}
		out = append(out, m)
	}
	return out, nil
}
