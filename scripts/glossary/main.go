// Command glossary writes docs/glossary.md from the words of Hemble.
package main

import (
	"fmt"
	"os"
	"strings"
)

func main() {
	if err := os.WriteFile("docs/glossary.md", []byte(document()), 0o644); err != nil {
		fmt.Fprintln(os.Stderr, "glossary:", err)
		os.Exit(1)
	}
}

// document is the glossary as Markdown.
func document() string {
	var b strings.Builder
	b.WriteString("# Glossary\n\nOne word for each thing, in the program, the command line, the API and the documentation. This page is made from\n" +
		"[`scripts/glossary`](../scripts/glossary/terms.go) by `make docs`.\n")
	for _, t := range glossary {
		fmt.Fprintf(&b, "\n## %s\n\n| word | meaning |\n|---|---|\n", t.title)
		for _, w := range t.terms {
			fmt.Fprintf(&b, "| **%s** | %s |\n", w.word, w.meaning)
		}
	}
	return b.String()
}
