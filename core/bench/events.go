package bench

import (
	"container/heap"

	"hemble/core/clock"
	"hemble/core/exercise"
)

type eventKind uint8

const (
	eventTimer eventKind = iota
	eventCue
)

// event is something that happens to a part at a time.
type event struct {
	at     clock.Time
	order  int // of scheduling, so that simultaneous events keep it
	kind   eventKind
	part   int
	timer  int
	serial int // a timer set again makes its earlier event void
	cue    exercise.Cue
	number int // of the cue in its trial; -1 for one from outside
}

// events is a queue by time.
type events struct {
	list  heapOfEvents
	count int
}

func (e *events) add(x event) {
	e.count++
	x.order = e.count
	heap.Push(&e.list, x)
}

func (e *events) next() clock.Time {
	if len(e.list) == 0 {
		return clock.Never
	}
	return e.list[0].at
}

func (e *events) pop() event { return heap.Pop(&e.list).(event) }

type heapOfEvents []event

func (h heapOfEvents) Len() int { return len(h) }
func (h heapOfEvents) Less(i, j int) bool {
	return h[i].at < h[j].at || h[i].at == h[j].at && h[i].order < h[j].order
}
func (h heapOfEvents) Swap(i, j int) { h[i], h[j] = h[j], h[i] }
func (h *heapOfEvents) Push(x any)   { *h = append(*h, x.(event)) }
func (h *heapOfEvents) Pop() any {
	last := len(*h) - 1
	x := (*h)[last]
	*h = (*h)[:last]
	return x
}
