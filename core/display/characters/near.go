package characters

import (
	"slices"
	"strings"

	"hemble/core/display"
)

// Near takes spacing, column, row and case for form, and what is cut off at the last column, the end of the text before
// that remains, and a character of one's own that is drawn mirrored, inverted or shifted, or with a few dots otherwise.
func (characters) Near(t *display.Track, wanted, seen display.State, before *display.State) bool {
	a, b := Rows(t, wanted), Rows(t, seen)
	words := func(rows []string) []string { return strings.Fields(strings.ToLower(strings.Join(rows, " "))) }
	if display.SameText(a, b) {
		return true
	}
	var old []string
	if before != nil {
		old = Rows(t, *before)
	}
	for i := range b {
		switch {
		case a[i] == b[i] || slices.Equal(words(a[i:i+1]), words(b[i:i+1])):
		case cut(a[i], b[i]):
		case old != nil && leftover(a[i], b[i], old[i]):
		case redrawn(t, wanted, seen, a[i:i+1], b[i:i+1]):
		default:
			return false
		}
	}
	return true
}

// cut reports whether a row ends at the last column before its text does.
func cut(wanted, seen string) bool {
	w, s := strings.TrimSpace(wanted), strings.TrimLeft(seen, " ")
	return s != "" && !strings.HasSuffix(s, " ") && len(s)*2 >= len(w) && strings.HasPrefix(w, s)
}

// leftover reports whether behind the wanted text of a row what was there before is still there.
func leftover(wanted, seen, old string) bool {
	w, s, o := []rune(strings.TrimRight(wanted, " ")), []rune(seen), []rune(old)
	return len(w) > 0 && len(s) > len(w) && slices.Equal(s[:len(w)], w) && slices.Equal(s[len(w):], o[len(w):])
}

// redrawn reports whether rows differ in nothing but characters of one's own whose dots are the wanted ones, mirrored,
// upside down, inverted or shifted by one, or but for a few.
func redrawn(t *display.Track, wanted, seen display.State, a, b []string) bool {
	if slices.Equal(a, b) {
		return true
	}
	if strings.Join(a, "") == "" || len(a) != len(b) {
		return false
	}
	wide := t.Geometry.Grid.Columns
	all := Rows(t, wanted)
	for i := range a {
		row := slices.Index(all, a[i])
		x, y := []rune(a[i]), []rune(b[i])
		if row < 0 || len(x) != len(y) {
			return false
		}
		for k := range x {
			if x[k] == y[k] {
				continue
			}
			w, s := wanted.Cells[row*wide+k], seen.Cells[row*wide+k]
			if w < display.CustomCell || s < display.CustomCell || s&display.WashedOut != 0 ||
				!turned(Dots(t, w), Dots(t, s)) && !slips(t.Geometry, Dots(t, w), Dots(t, s)) {
				return false
			}
		}
	}
	return true
}

// turned reports whether the dots of a character are those of another, mirrored, upside down, inverted or shifted.
func turned(a, b [8]uint8) bool {
	for _, t := range turns {
		if t.of(a) == b {
			return true
		}
	}
	return false
}
