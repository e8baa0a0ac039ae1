package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/reel"
)

func TestWhatLedToTheFirstDifference(t *testing.T) {
	const ms = clock.Millisecond
	press := func(start, end clock.Time) reel.Fired { return reel.Fired{Start: start * ms, End: end * ms} }
	for _, c := range []struct {
		name                string
		first               clock.Time
		done                []reel.Fired
		quiet, since, until clock.Time
	}{
		{"a press", 2100, []reel.Fired{press(500, 600), press(2000, 2100), press(3000, 3100)}, 900, 2000, 2400},
		{"letting go of a long one", 2600, []reel.Fired{press(1000, 2500)}, 1400, 2500, 2900},
		{"soon after the one before", 1500, []reel.Fired{press(400, 1000), press(1400, 1600)}, 1100, 1400, 1600},
		{"a series", 1500, []reel.Fired{press(1000, 1100), press(1200, 1300), press(1400, 1500)}, 0, 1000, 1800},
		{"nothing was done", 5000, nil, 4600, 4900, 5300},
		{"long ago", 9000, []reel.Fired{press(1000, 1100)}, 8600, 8900, 9300},
		{"at once", 20, nil, 0, 0, 0},
	} {
		quiet, since, until := (&attempt{first: c.first * ms}).led(&reel.Reel{Cues: c.done})
		want := []clock.Time{c.quiet * ms, c.since * ms, c.until * ms}
		assert.Equal(t, want, []clock.Time{quiet, since, until}, c.name)
	}
}
