package glyph

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Pages and back, for widths that are no multiple of eight, too, pixel by pixel.
func TestPages(t *testing.T) {
	random := rand.New(rand.NewSource(5))
	for _, size := range [][2]int{{128, 64}, {84, 48}, {5, 8}, {70, 16}} {
		pages := make([]byte, size[0]*size[1]/8)
		random.Read(pages)
		b := FromPages(size[0], size[1], pages)
		for i, column := range pages {
			for k := range 8 {
				assert.Equal(t, column>>k&1 == 1, b.At(i%size[0], i/size[0]*8+k))
			}
		}
		assert.Equal(t, pages, b.Pages())
		assert.Zero(t, FromPages(size[0], size[1], pages[:size[0]-1]).Count(), "not a whole page")
	}
}
