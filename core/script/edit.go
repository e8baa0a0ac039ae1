package script

import "strings"

// Edit is a part of a file with what stands in its place.
type Edit struct {
	At, End int // bytes
	To      string
}

// Replaced is the edit that puts another word in the place of a token.
func (t Token) Replaced(by string) Edit { return Edit{t.At, t.Behind(), by} }

// Edited is a text with edits made, which do not overlap and stand in their order.
func Edited(text string, edits []Edit) string {
	var b strings.Builder
	done := 0
	for _, e := range edits {
		b.WriteString(text[done:e.At])
		b.WriteString(e.To)
		done = e.End
	}
	b.WriteString(text[done:])
	return b.String()
}

// mostWords is how much of a line is told.
const mostWords = 40

// Cut is as much of a text as is told of it, in one line.
func Cut(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if runes := []rune(text); len(runes) > mostWords {
		return string(runes[:mostWords-1]) + "…"
	}
	return text
}
