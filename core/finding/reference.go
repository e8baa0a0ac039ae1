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
	{Fault, "Faults. Each is tested by repairing it, and the mark sheet shows the marks with it repaired, so its price is known."},
	{Symptom, "Symptoms: what a display looked like, where no repairable fault explains it."},
	{Note, "Notes that the chip, a part or the bench made during the run. A part's name comes before the code, the subject after it: `floating-PC0`."},
	{Stop, "Why a run stopped."},
	{Refused, "Why there was nothing to judge. `deductions` cannot name these."},
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
