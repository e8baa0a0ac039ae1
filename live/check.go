package live

import (
	"context"
	"errors"

	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/sheet"
)

// Check marks a firmware on the trials that are there, as a student sees it. An error says that nothing is expected, or
// that the file is no firmware.
func Check(ctx context.Context, x *exercise.Exercise, name string, file []byte, marks bool) (*marking.Result, error) {
	asked := 0
	for _, t := range x.Trials {
		asked += len(t.Expect)
	}
	if asked == 0 {
		return nil, errors.New("nothing is expected here")
	}
	m := marking.Marker{Reels: true}
	r, err := m.Mark(ctx, x, name, file)
	if err != nil {
		return nil, err
	}
	r.Sheet = r.Sheet.For(sheet.Viewer{Student: true, Released: true, NoMarks: !marks})
	return r, nil
}
