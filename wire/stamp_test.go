package wire

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// A time that the service writes is told in the zone of who reads it; everything else stays.
func TestInZone(t *testing.T) {
	zone := time.FixedZone("CET", 3600)
	at := time.Date(2026, 11, 27, 23, 30, 5, 0, time.UTC)
	assert.Equal(t, "it closed at 28 November 2026 00:30:05 CET, at last",
		InZone("it closed at "+Stamp(at)+", at last", zone))
	assert.Equal(t, "27 November 2026 23:30:05 UTC", Stamp(at.In(zone)))
	for _, same := range []string{"", "nothing", "31 February", "99 March 2026 10:00:00 UTC", "27 November 2026"} {
		assert.Equal(t, same, InZone(same, zone))
	}
}
