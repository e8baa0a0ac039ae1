package events

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEveryListenerHears(t *testing.T) {
	h := NewHub()
	a, stopA := h.Listen()
	b, stopB := h.Listen()
	defer stopB()
	h.Publish(Event{"x", "1"})
	assert.Equal(t, Event{"x", "1"}, <-a)
	assert.Equal(t, Event{"x", "1"}, <-b)
	stopA()
	stopA() // twice does no harm
	_, open := <-a
	assert.False(t, open)
	h.Publish(Event{"x", "2"})
	assert.Equal(t, Event{"x", "2"}, <-b)
}

// A listener that does not keep up is let go, and holds nobody up.
func TestSlowListener(t *testing.T) {
	h := NewHub()
	slow, stop := h.Listen()
	defer stop()
	for i := 0; i < 1000; i++ {
		h.Publish(Event{"x", "1"})
	}
	n := 0
	for range slow {
		n++
	}
	assert.Equal(t, 256, n)
}

func TestClosedHub(t *testing.T) {
	h := NewHub()
	before, _ := h.Listen()
	h.Close()
	_, open := <-before
	assert.False(t, open)
	after, stop := h.Listen()
	stop()
	_, open = <-after
	assert.False(t, open)
	h.Publish(Event{})
}
