package matrix

import (
	"slices"
	"strings"

	"hemble/core/display"
)

// Near takes a picture that is mirrored, upside down, inverted or shifted by one dot for the same in another form.
func (matrix) Near(t *display.Track, wanted, seen display.State, _ *display.State) bool {
	plain := func(s display.State) []string {
		out := rows(t.Geometry, s)
		for i := range out {
			out[i] = strings.ReplaceAll(out[i], "+", ".")
		}
		return out
	}
	a, b := plain(wanted), plain(seen)
	each := func(f func(string) string) []string {
		out := make([]string, len(a))
		for i, r := range a {
			out[i] = f(r)
		}
		return out
	}
	reversed := func(r string) string {
		x := []byte(r)
		slices.Reverse(x)
		return string(x)
	}
	down := slices.Clone(a)
	slices.Reverse(down)
	empty := strings.Repeat(".", len(a[0]))
	for _, form := range [][]string{
		each(reversed), down, each(inverted.Replace),
		each(func(r string) string { return "." + r[:len(r)-1] }), each(func(r string) string { return r[1:] + "." }),
		append([]string{empty}, a[:len(a)-1]...), append(slices.Clone(a[1:]), empty),
		append([]string{a[len(a)-1]}, a[:len(a)-1]...), append(slices.Clone(a[1:]), a[0]), // round the edge
	} {
		if slices.Equal(form, b) {
			return true
		}
	}
	return false
}

// inverted exchanges what is lit and what is dark.
var inverted = strings.NewReplacer("#", ".", ".", "#")
