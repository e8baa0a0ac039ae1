package machine

import "hemble/core/clock"

// A program that starts over and over does so faster than anybody means it to: more than maxStarts of them within
// startWindow end a run.
const (
	maxStarts   = 64
	startWindow = 4 * clock.Second
)

// Starts counts the starts of a program.
type Starts struct {
	first clock.Time // the start that opened the window
	count int
}

// Count counts a start. It gives how many there were within how long, and whether that is too often.
func (s *Starts) Count(now clock.Time) (n int, within clock.Time, often bool) {
	if s.count == 0 || now-s.first > startWindow {
		*s = Starts{first: now}
	}
	s.count++
	return s.count, now - s.first, s.count > maxStarts
}
