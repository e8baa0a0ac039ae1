package marks

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/service/record"
	"hemble/wire"
)

// How far marking has come is told to those who mark: a student could count hidden trials by it.
func TestProgress(t *testing.T) {
	s := &record.Submission{Done: 2, Trials: 3}
	s.State = wire.Running
	for _, student := range []bool{false, true} {
		v := &view{assignment: &record.Assignment{}, student: student}
		out, err := v.one(t.Context(), s)
		require.NoError(t, err)
		want := wire.Progress{Done: 2, Of: 3}
		if student {
			want = wire.Progress{}
		}
		require.NotNil(t, out.Progress)
		assert.Equal(t, want, *out.Progress)
	}
}
