package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEnds(t *testing.T) {
	assert.Equal(t, []End{{Below: true, Rare: Seldom}}, Hints{}.Ends(), "nobody goes below nothing")
	assert.Equal(t, []End{{Limit: 60, To: 60}, {Limit: 64, To: 60}, {To: 60, Below: true}, {Rare: Seldom},
		{Limit: 9, To: 0, Rare: Seldom}, {To: 0, Below: true, Rare: Seldom}, {Limit: 99, To: 99, Rare: Seldom},
		{Limit: 99, Rare: Seldom}, {Limit: 98, Rare: Seldom}},
		Hints{Pairs: [][2]int64{{60, 65}, {0, 10}}, Told: []int64{1, 99}}.Ends())
	assert.Equal(t, []End{{To: 1, Below: true}, {Limit: 1, To: 1, Below: true}, {Below: true, Rare: Seldom}},
		Hints{Pairs: [][2]int64{{1, 0}}}.Ends())
	assert.Equal(t, []End{{Limit: 5, To: 5}, {Limit: 30, To: 5}, {Limit: 34, To: 5}},
		Hints{Pairs: [][2]int64{{5, 35}}, Told: []int64{30, 40}}.Ends()[:3], "behind 30 comes 5")
	assert.Len(t, Hints{Told: []int64{2, 3, 4, 5, 6, 7, 8}}.Ends(), mostEnds)
	assert.Empty(t, Hints{Pairs: [][2]int64{{-4, -4}}}.Ends()[1:])
}
