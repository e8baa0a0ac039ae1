package display

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A colon parts digits where it is lit, or may be.
func TestParted(t *testing.T) {
	dark, lit := State{Lights: make(Lights, 33)}, State{Lights: make(Lights, 33)}
	lit.Lights[32] = Lit
	for _, c := range []struct {
		name   string
		colon  int
		judged bool
		pairs  []Pair
		want   bool
	}{
		{"none", 0, true, []Pair{{Want: lit, Seen: lit}}, false},
		{"nothing is known", 2, false, nil, true},
		{"never lit", 2, true, []Pair{{Want: dark, Seen: dark}}, false},
		{"expected", 2, true, []Pair{{Want: dark, Seen: dark}, {Want: lit, Seen: dark}}, true},
		{"seen", 2, true, []Pair{{Want: dark, Seen: lit}}, true},
	} {
		x := &Case{Named: Named{Geometry: Geometry{Colon: c.colon}}, Judged: c.judged, Pairs: c.pairs}
		assert.Equal(t, c.want, x.Parted(), c.name)
	}
}
