package events

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEveryListenerHears(t *testing.T) {
	h := NewHub(0)
	a, _, whole, stopA := h.Listen(0)
	assert.True(t, whole)
	b, _, _, stopB := h.Listen(0)
	defer stopB()
	h.Publish(Event{Submission: "1"})
	assert.Equal(t, Event{1, "1"}, <-a)
	assert.Equal(t, Event{1, "1"}, <-b)
	stopA()
	stopA() // twice does no harm
	_, open := <-a
	assert.False(t, open)
	h.Publish(Event{Submission: "2"})
	assert.Equal(t, Event{2, "2"}, <-b)
}

// Whoever comes back hears what was missed, or that it cannot be told any more.
func TestResume(t *testing.T) {
	h := NewHub(100)
	for range 5 {
		h.Publish(Event{Submission: "x"})
	}
	c, last, whole, stop := h.Listen(103)
	defer stop()
	assert.True(t, whole)
	assert.Equal(t, int64(105), last)
	assert.Equal(t, int64(104), (<-c).Number)
	assert.Equal(t, int64(105), (<-c).Number)
	assert.Empty(t, c)
	for after, want := range map[int64]bool{105: true, 50: false, 999: false, 100: true} {
		_, _, whole, stop := h.Listen(after)
		stop()
		assert.Equal(t, want, whole, after)
	}
	for range 2 * backlog {
		h.Publish(Event{Submission: "x"})
	}
	_, _, whole, stop = h.Listen(105)
	stop()
	assert.False(t, whole, "too much was missed")
}

// A listener that does not keep up is let go, and holds nobody up.
func TestSlowListener(t *testing.T) {
	h := NewHub(0)
	slow, _, _, stop := h.Listen(0)
	defer stop()
	for range 5000 {
		h.Publish(Event{Submission: "1"})
	}
	n := 0
	for range slow {
		n++
	}
	assert.Equal(t, 2*backlog, n)
}

func TestClosedHub(t *testing.T) {
	h := NewHub(0)
	before, _, _, _ := h.Listen(0)
	h.Close()
	_, open := <-before
	assert.False(t, open)
	after, _, _, stop := h.Listen(0)
	stop()
	_, open = <-after
	assert.False(t, open)
	h.Publish(Event{})
}
