// Package report writes mark sheets and reels for people: text for terminals, VCD for waveform
// viewers.
package report

import (
	"fmt"
	"strings"

	"hemble/core/glyph"
	"hemble/core/reel"
)

// art draws a sight in box characters: equally wide lines.
func art(t *reel.Track, s reel.Sight) []string {
	switch {
	case t.Look.Grid != nil:
		return screenArt(t, s)
	case len(s.Lights) >= len(glyph.Segments):
		return digitsArt(s.Lights)
	}
	return lampArt(s.Lights)
}

func lampArt(l reel.Lights) []string {
	symbol := map[reel.State]string{reel.Dark: "○", reel.Lit: "●", reel.Dim: "◌"}
	var b strings.Builder
	for _, s := range l {
		b.WriteString(symbol[s])
	}
	return []string{"   " + b.String() + "   "}
}

// digitsArt draws digits side by side.
func digitsArt(l reel.Lights) []string {
	var out []string
	for n := len(glyph.Segments); len(l) >= n; l = l[n:] {
		for i, line := range digitArt(l[:n]) {
			if len(out) <= i {
				out = append(out, "")
			}
			out[i] += line
		}
	}
	return out
}

// digitArt draws heavy strokes for lit segments, light ones for dim segments.
func digitArt(l reel.Lights) []string {
	across := func(i int) string { return [...]string{"  ", "━━", "──"}[l[i]] }
	down := func(i int) string { return [...]string{" ", "┃", "│"}[l[i]] }
	point := [...]string{" ", "●", "◌"}[l[7]]
	return []string{
		"  " + across(0) + "   ",
		" " + down(5) + "  " + down(1) + "  ",
		"  " + across(6) + "   ",
		" " + down(4) + "  " + down(2) + "  ",
		"  " + across(3) + " " + point + " ",
	}
}

func screenArt(t *reel.Track, s reel.Sight) []string {
	g := t.Look.Grid
	edge := strings.Repeat("─", g.Columns)
	out := []string{"┌" + edge + "┐"}
	for r, row := range t.Rows(s) {
		if c := s.Cursor; c != nil && c.Cell/g.Columns == r {
			runes := []rune(row)
			if runes[c.Cell%g.Columns] == ' ' {
				runes[c.Cell%g.Columns] = '_'
				if c.Block {
					runes[c.Cell%g.Columns] = '▒'
				}
			}
			row = string(runes)
		}
		out = append(out, "│"+row+"│")
	}
	return append(out, "└"+edge+"┘")
}

func fit(s string, width int) string {
	r := []rune(s)
	if len(r) > width {
		return string(r[:width-1]) + "…"
	}
	return s + strings.Repeat(" ", width-len(r))
}

func width(lines []string) int {
	w := 0
	for _, l := range lines {
		w = max(w, len([]rune(l)))
	}
	return w
}

func plural(n int, one string) string {
	if n == 1 {
		return fmt.Sprintf("%d %s", n, one)
	}
	return fmt.Sprintf("%d %ss", n, one)
}
