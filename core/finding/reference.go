package finding

import (
	"fmt"
	"strings"
)

// sections are the sources in the order of the documentation, with what is to be said of each.
var sections = []struct {
	source Source
	text   string
}{
	{Fault, "Faults: each is tried by repairing it. The sheet tells what the marks are with it repaired, so that what is told is what it costs. Those whose test takes a run are tried in the order that their entries say."},
	{Symptom, "Signs: what a display looked like, where nothing that can be repaired explains it."},
	{Note, "Notes of the chip, of a part or of the bench while the program ran. What a part notes has its name before the code; what it is about, behind it: `floating-PC0`."},
	{Stop, "Why a run came to an end."},
	{Refused, "Why there was nothing to judge: no deduction can name these."},
}

// Reference is the documentation of all codes, as Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# Findings\n\nMade by `make docs` from the catalogue (`core/finding`). A finding's code is what `deductions` name: by whole words, so that `floating` is every\n`floating-…`, with or without the name of the part that tells it.\n")
	for _, s := range sections {
		fmt.Fprintf(&b,
			"\n%s\n\n| code | what the program does | what an exercise needs to notice it |\n|---|---|---|\n", s.text)
		for _, e := range All() {
			if e.Source == s.source {
				fmt.Fprintf(&b, "| `%s` | %s | %s |\n", e.Code, cell(e.Doc), cell(e.Catch))
			}
		}
	}
	return b.String()
}

// cell is a text in a table of Markdown.
func cell(text string) string {
	return strings.ReplaceAll(strings.ReplaceAll(text, "|", `\|`), "\n", " ")
}
