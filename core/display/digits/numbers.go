package digits

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
)

// field is a number on the digits from one on and before another one.
type field struct{ from, to, n int }

// fields are numbers that stand apart, blanks between them; none where there is but one, or anything else.
func fields(t *display.Track, s display.State) (out []field) {
	if t.Geometry.Colon > 0 {
		return nil
	}
	blank := true
	for i, p := range shown(t.Geometry, s) {
		symbol := (p &^ glyph.DP).Symbol()
		n := strings.Index("0123456789", symbol)
		switch {
		case p == 0:
			blank = true
		case n < 0 || len(symbol) != 1:
			return nil
		case blank:
			blank = false
			out = append(out, field{i, i + 1, n})
		default:
			f := &out[len(out)-1]
			f.to, f.n = i+1, 10*f.n+n
		}
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// ReadNumber reads a number in units of its last place, since a point is a sign of its own: one that is alone, at the
// right, or one of several that stand apart.
func (digits) ReadNumber(t *display.Track, s display.State, nth int) (int, bool) {
	if several := fields(t, s); nth < len(several) {
		return several[nth].n, true
	}
	text := strings.ReplaceAll(strings.TrimLeft(shown(t.Geometry, s).Symbols(), " "), ".", "")
	if nth > 0 || strings.Trim(text, "0123456789") != "" {
		return 0, false
	}
	n, err := strconv.Atoi(text)
	return n, err == nil
}

// WriteNumber writes one where it was, or at the right, its points as they were. Before a colon, or
// a point, there is a figure, be it 0. What has no room stays as it was.
func (digits) WriteNumber(t *display.Track, s display.State, nth, n int) display.State {
	if several := fields(t, s); nth < len(several) {
		return several[nth].write(s, n, several, nth, t.Geometry.Digits())
	}
	text, width := strconv.Itoa(n), t.Geometry.Digits()
	if padded(t, s) {
		text = fmt.Sprintf("%0*d", width, n)
	} else if figures := pointed(s, 0, width); len(text) < figures && n >= 0 {
		text = fmt.Sprintf("%0*d", figures, n)
	}
	if at := t.Geometry.Colon; at > 0 && at < width && len(text) <= width-at {
		text = fmt.Sprintf("%0*d", width-at+1, n)
	}
	text = text[max(0, len(text)-width):]
	return written(s, strings.Repeat(" ", width-len(text))+text, 0)
}

// fewFrames is how many frames tell how a display writes its numbers.
const fewFrames = 50

// padded reports whether numbers have zeros before them on a display: this one, or the first ones where this one has
// figures in all digits.
func padded(t *display.Track, s display.State) bool {
	zero := func(x display.State) bool { return pattern(x.Lights, 0) == glyph.Seven('0')[0] }
	if t.Geometry.Digits() < 2 || zero(s) {
		return t.Geometry.Digits() > 1
	}
	return pattern(s.Lights, 0) != 0 && slices.ContainsFunc(t.Frames[:min(len(t.Frames), fewFrames)],
		func(f display.Frame) bool { return f.State.Lights != nil && zero(f.State) })
}

// write puts another number in the place of the nth of several: it ends where that ended, or begins where that began
// where it has no room.
func (f field) write(s display.State, n int, all []field, nth, width int) display.State {
	left, right := 0, width // what is free for it
	if nth > 0 {
		left = all[nth-1].to + 1
	}
	if nth+1 < len(all) {
		right = all[nth+1].from - 1
	}
	figures := pointed(s, f.from, f.to)
	if pattern(s.Lights, f.from) == glyph.Seven('0')[0] {
		figures = f.to - f.from
	}
	text := fmt.Sprintf("%0*d", figures, n)
	switch short := f.to - f.from - len(text); {
	case n < 0 || len(text) > max(f.to-left, right-f.from):
		return s
	case short >= 0:
		return written(s, strings.Repeat(" ", short)+text, f.from)
	case len(text) <= f.to-left:
		return written(s, text, f.to-len(text))
	default:
		return written(s, text, f.from)
	}
}

// pointed is how many figures a number has at least that ends before a digit: there is one before its first point.
func pointed(s display.State, from, to int) int {
	for d := from; d < to; d++ {
		if pattern(s.Lights, d)&glyph.DP != 0 {
			return to - d
		}
	}
	return 1
}

// written has a text on the digits from one on. Points stay.
func written(s display.State, text string, from int) display.State {
	s.Lights = slices.Clone(s.Lights)
	for i, r := range text {
		p := glyph.Pattern(0)
		if r != ' ' {
			p = glyph.Seven(r)[0]
		}
		put(s.Lights, from+i, p|pattern(s.Lights, from+i)&glyph.DP)
	}
	return s
}
