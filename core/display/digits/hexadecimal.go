package digits

import (
	"fmt"
	"math"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/glyph"
)

// hexadecimal is a number whose places count to sixteen, where a place above nine shows a letter, what stands behind
// the table of figures, or nothing.
var hexadecimal = &display.Mistake{
	Entry: display.Hexadecimal,
	Once:  true,
	Sizes: func(c *display.Case) []display.Size {
		if c.Geometry.Digits() < 2 || !c.Judged {
			return nil
		}
		size := display.Size{Text: fmt.Sprintf(
			"%s shows its number in hexadecimal places: 10 for 16, and no figure in a place above 9.", c.Name),
			Frames: func(_ string, t *display.Track) []display.Frame { return counted(t) }}
		if meant, carried := inPlaces(c, 16); carried {
			size.Frames = instead(meant)
		}
		return []display.Size{size}
	},
}

// uncarried is a last place that goes beyond nine, and the others stay as they are.
var uncarried = &display.Mistake{
	Entry: finding.Entry{Code: "carry", Price: finding.Constant, Vague: true,
		Doc:   "a number never goes beyond the last place: nothing is carried to the next one",
		Catch: "count beyond 9"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		meant, carried := inPlaces(c, endless)
		if c.Geometry.Digits() < 2 || carried || len(meant) < 2 {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf(
			"The number on %s is not carried at 10: its last place goes beyond 9, and shows no figure then.", c.Name),
			Frames: instead(meant)}}
	},
}

// instead puts what is meant in place of what was seen from a moment on.
func instead(meant map[onset]display.State) func(string, *display.Track) []display.Frame {
	return func(trial string, t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		for i := range out {
			if to, ok := meant[onset{trial, out[i].From}]; ok {
				out[i].State = to
			}
		}
		return out
	}
}

// onset is when a state began, in a trial.
type onset struct {
	trial string
	at    clock.Time
}

// endless is the base of a place that is never carried.
const endless = math.MaxInt

// inPlaces gives what is wanted in place of each wrong state, where all numbers above nine are in places of a base; nil
// where they are not. carried tells that a place beyond the last one was seen to count, too.
func inPlaces(c *display.Case, base int) (meant map[onset]display.State, carried bool) {
	meant = map[onset]display.State{}
	above := false
	for _, p := range c.Pairs {
		n, ok := digits{}.ReadNumber(p.On, p.Want, 0)
		switch {
		case !p.Wrong && (!ok || n < 10):
			continue
		case !ok || !p.Wrong:
			return nil, false
		}
		for d, rest := c.Geometry.Digits()-1, n; d >= 0; d, rest = d-1, rest/base {
			seen, place := pattern(p.Seen.Lights, d)&^glyph.DP, rest%base
			switch is := value(seen); {
			case place > 9 && is >= 0, place <= 9 && is != place && !(rest == 0 && seen == 0):
				return nil, false
			case place > 9:
				above = true
			case n >= base && rest > 0:
				carried = true
			}
		}
		meant[onset{p.Trial, p.At}] = p.Want
	}
	if !above {
		return nil, false
	}
	return meant, carried
}

// value is the figure that a pattern shows, -1 for none: a letter of hexadecimal numbers may look like an unusual one.
func value(p glyph.Pattern) int {
	if slices.ContainsFunc([]rune("AbCdEF"), func(r rune) bool { return glyph.Seven(r)[0] == p }) {
		return -1
	}
	for f := range 10 {
		if slices.Contains(glyph.Seven(rune('0'+f)), p) {
			return f
		}
	}
	return -1
}

// places reads a number in hexadecimal places, with -1 for a last one that shows no figure; ok is false where any
// other shows none.
func places(t *display.Track, s display.State) (high, last int, ok bool) {
	n := t.Geometry.Digits()
	for d := range n {
		p := pattern(s.Lights, d) &^ glyph.DP
		v := value(p)
		switch {
		case d == n-1:
			return high, v, true
		case v < 0 && (p != 0 || high > 0):
			return 0, 0, false
		}
		high = high*16 + max(v, 0)
	}
	return 0, 0, false
}

// aboveNine is how many hexadecimal figures there are above 9.
const aboveNine = 6

// counted has the frames of a number that counts up, in hexadecimal places, as a decimal one would be; as they are
// where it does not count so.
func counted(t *display.Track) (out []display.Frame) {
	turns := 0
	for i := 0; i < len(t.Frames); i++ {
		f := t.Frames[i]
		high, last, ok := places(t, f.State)
		switch {
		case i == 0 && f.State.Unlit(): // it is not on yet
			out = append(out, f)
		case !ok:
			return t.Frames
		case last >= 0:
			f.State = digits{}.WriteNumber(t, f.State, 0, high*16+last)
			out = append(out, f)
		default:
			list, n := unseen(t, i)
			if list == nil {
				return t.Frames
			}
			for k, part := range list {
				part.State = digits{}.WriteNumber(t, t.Frames[i-1].State, 0, high*16+10+k)
				out = append(out, part)
			}
			i, turns = i+n-1, turns+1
		}
	}
	if turns == 0 {
		return t.Frames
	}
	return out
}

// unseen gives the frames of A to F between 9 and 10 in hexadecimal places, and how many there are from one on: one
// alone, where they all look alike, lasts as long as six. Nil where none are.
func unseen(t *display.Track, from int) (list []display.Frame, n int) {
	at := func(i, high, last int) bool {
		if i < 0 || i >= len(t.Frames) {
			return false
		}
		h, l, ok := places(t, t.Frames[i].State)
		return ok && h == high && l == last
	}
	high, _, _ := places(t, t.Frames[from].State)
	for at(from+n, high, -1) {
		n++
	}
	if !at(from-1, high, 9) || !at(from+n, high+1, 0) {
		return nil, 0
	}
	switch f := t.Frames[from]; n {
	case 1:
		for k := range clock.Time(aboveNine) {
			part := f
			part.From, part.To = f.From+f.Length()*k/aboveNine, f.From+f.Length()*(k+1)/aboveNine
			list = append(list, part)
		}
		return list, n
	case aboveNine:
		return t.Frames[from : from+n], n
	}
	return nil, 0
}
