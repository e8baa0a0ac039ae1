package marking

import (
	"errors"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The same run is made once, whoever asks and however many at a time.
func TestRunsAreMadeOnce(t *testing.T) {
	var r runs
	var made sync.Map
	var wait sync.WaitGroup
	for i := range 40 {
		wait.Go(func() {
			key := runKey{trial: i % 4}
			o, err := r.get(t.Context(), key, false, func() (*outcome, error) {
				_, before := made.LoadOrStore(i%4, true)
				assert.False(t, before)
				return &outcome{}, nil
			})
			assert.NoError(t, err)
			assert.NotNil(t, o)
		})
	}
	wait.Wait()
	_, err := r.get(t.Context(), runKey{trial: 9}, false,
		func() (*outcome, error) { return nil, errors.New("cancelled") })
	assert.Error(t, err)
	o, err := r.get(t.Context(), runKey{trial: 9}, false, func() (*outcome, error) { return &outcome{}, nil })
	assert.NoError(t, err, "what was cancelled is tried again")
	assert.NotNil(t, o)
}
