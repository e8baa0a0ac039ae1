package sheet

import "fmt"

// Message is what a compiler said about a source.
type Message struct {
	File   string `json:"file,omitempty"`
	Line   int    `json:"line,omitempty"`
	Column int    `json:"column,omitempty"`
	Kind   string `json:"kind"` // error, warning or note
	Text   string `json:"text"`
	Code   string `json:"code,omitempty"` // the line itself
}

// String writes file:line:column: kind: text.
func (m Message) String() string {
	out := ""
	if m.File != "" {
		out = m.File + ":"
		if m.Line > 0 {
			out += fmt.Sprintf("%d:", m.Line)
		}
		if m.Column > 0 {
			out += fmt.Sprintf("%d:", m.Column)
		}
		out += " "
	}
	return out + m.Kind + ": " + m.Text
}
