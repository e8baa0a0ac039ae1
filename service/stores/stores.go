// Package stores opens a data folder with the stores of all subjects.
package stores

import (
	"context"
	"errors"
	"time"

	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/grading"
	"hemble/service/marks"
	"hemble/service/people"
	"hemble/service/submissions"
)

// Stores are those of one data folder.
type Stores struct {
	*db.DB
	People      *people.Store
	Classes     *classes.Store
	Exercises   *exercises.Store
	Submissions *submissions.Store
	Grading     *grading.Store
	Marks       *marks.Store
}

// Open takes hold of a data folder, making it where it is new. What an earlier life of the service left half done is
// taken up: claims of its workers end, and submissions that are on the disk alone are put into the database. now is the
// clock; nil is the machine's.
func Open(ctx context.Context, dir string, now func() time.Time) (*Stores, error) {
	d, err := db.Open(ctx, dir, now)
	if err != nil {
		return nil, err
	}
	s := &Stores{DB: d, People: &people.Store{DB: d}, Exercises: &exercises.Store{DB: d},
		Submissions: &submissions.Store{DB: d}}
	s.Classes = &classes.Store{DB: d, People: s.People}
	s.Grading = &grading.Store{DB: d, Submissions: s.Submissions}
	s.Marks = &marks.Store{DB: d, Submissions: s.Submissions, Grading: s.Grading}
	if err = s.Grading.EndLeases(ctx); err == nil {
		err = s.Submissions.AdoptReceipts(ctx)
	}
	if err != nil {
		return nil, errors.Join(err, d.Close())
	}
	return s, nil
}
