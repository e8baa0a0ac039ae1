package render

import (
	"strings"

	"hemble/core/display"
	"hemble/core/judge"
)

// cell is one frame of a film strip.
type cell struct {
	from, length string
	mark         string
	step         judge.Operation
	seen, meant  []string // drawings; nil for none
	meantLength  string
}

// maxCells bounds a strip; what comes after is told as a number.
const maxCells = 60

// Strip draws what one display showed as a film strip: for each frame its start, the display, its
// length and the mark; and under it what was expected, where that differs.
func Strip(st Style, t *display.Track, lanes []judge.Pair) string {
	var cells []cell
	if lanes == nil {
		for _, f := range t.Frames {
			cells = append(cells, cell{from: f.From.String(), length: f.Length().Brief(), seen: Art(t, f.State)})
		}
	}
	for _, p := range lanes {
		cells = append(cells, pairCell(t, p))
	}
	more := 0
	if len(cells) > maxCells {
		more = len(cells) - maxCells
		cells = cells[:maxCells]
	}
	if len(cells) == 0 {
		return ""
	}
	wide := 11
	for _, c := range cells {
		wide = max(wide, display.Width(c.seen)+1, display.Width(c.meant)+1)
	}
	const margin = 11
	perRow := max(1, (st.Width-margin)/wide)
	var b strings.Builder
	for i := 0; i < len(cells); i += perRow {
		stripRow(&b, st, cells[i:min(i+perRow, len(cells))], wide, margin)
	}
	if more > 0 {
		b.WriteString(strings.Repeat(" ", margin) + "… and " + display.Plural(more, "more frame") + "\n")
	}
	return b.String()
}

func pairCell(t *display.Track, p judge.Pair) cell {
	c := cell{step: p.Operation, mark: Mark(p.Operation)}
	if p.Seen != nil {
		c.from, c.length = p.Seen.From.String(), (p.Seen.To - p.Seen.From).Brief()
		c.seen = Art(t, *p.Seen.State)
	}
	if p.Expected != nil && p.Operation != judge.Right {
		if c.from == "" {
			c.from = p.Expected.From.String()
		}
		if p.Expected.To > p.Expected.From {
			c.meantLength = (p.Expected.To - p.Expected.From).Brief()
		}
		if p.Operation != judge.Mistimed {
			c.meant = Art(t, *p.Expected.State)
		}
	}
	return c
}

// Mark is the sign of a step in the margin.
func Mark(s judge.Operation) string {
	switch s {
	case judge.Right:
		return "✓"
	case judge.Mistimed, judge.Near:
		return "≈"
	case judge.Extra:
		return "+"
	case judge.Wrong, judge.Missing:
		return "✗"
	}
	return "·"
}

func (st Style) step(s judge.Operation, text string) string {
	switch s {
	case judge.Right:
		return st.met(text)
	case judge.Mistimed, judge.Near:
		return st.partly(text)
	case judge.Wrong, judge.Missing, judge.Extra:
		return st.missed(text)
	}
	return st.second(text)
}

// stripRow writes the cells that fit beside each other.
func stripRow(b *strings.Builder, st Style, cells []cell, wide, margin int) {
	line := func(label string, each func(cell) string, style func(cell, string) string) {
		var row strings.Builder
		empty := true
		for _, c := range cells {
			text := each(c)
			empty = empty && strings.TrimSpace(text) == ""
			row.WriteString(style(c, display.Fit(text, wide)))
		}
		if !empty || label != "" {
			b.WriteString(display.Fit(label, margin) + strings.TrimRight(row.String(), " ") + "\n")
		}
	}
	plain := func(_ cell, s string) string { return s }
	second := func(_ cell, s string) string { return st.second(s) }
	line("  from", func(c cell) string { return c.from }, second)
	drawing := func(label string, pick func(cell) []string) {
		high := 0
		for _, c := range cells {
			high = max(high, len(pick(c)))
		}
		for i := 0; i < high; i++ {
			name := ""
			if i == high/2 {
				name = label
			}
			line(name, func(c cell) string {
				if d := pick(c); i < len(d) {
					return d[i]
				}
				return ""
			}, plain)
		}
	}
	drawing("  seen", func(c cell) []string { return c.seen })
	line("  for", func(c cell) string {
		if c.length == "" {
			return c.mark
		}
		return strings.TrimSpace(c.mark + " " + c.length)
	}, func(c cell, s string) string { return st.step(c.step, s) })
	drawing("  expected", func(c cell) []string { return c.meant })
	meant := false
	for _, c := range cells {
		meant = meant || c.meantLength != ""
	}
	if meant {
		line("  for", func(c cell) string { return c.meantLength }, second)
	}
	b.WriteString("\n")
}
