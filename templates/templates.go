// Package templates has small complete exercises to begin from, each with its reference: the usual display exercises,
// from a lamp to a terminal.
package templates

import (
	"embed"
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"strings"

	"hemble/core/exercise"
)

//go:embed */exercise.yaml */reference.c */reference.elf
var folders embed.FS

// Template is one of them.
type Template struct {
	Name  string // of the exercise that it is
	Title string
	Brief string
	Text  []byte
	Files []File // its references
}

// File is one file of a template's folder.
type File struct {
	Name string
	Data []byte
}

// All reads the templates, the simplest first.
func All() (out []Template, err error) {
	dirs, err := fs.ReadDir(folders, ".")
	if err != nil {
		return nil, err
	}
	for _, d := range dirs {
		t := Template{}
		if t.Text, err = folders.ReadFile(path.Join(d.Name(), "exercise.yaml")); err != nil {
			return nil, err
		}
		x, problems := exercise.Read("exercise.yaml", t.Text)
		if x == nil {
			return nil, fmt.Errorf("%s: %w", d.Name(), exercise.Error(problems))
		}
		t.Name, t.Title, t.Brief = x.Name, x.Title, x.Brief
		for _, name := range []string{"reference.elf", "reference.c"} {
			data, err := folders.ReadFile(path.Join(d.Name(), name))
			if err != nil {
				return nil, err
			}
			t.Files = append(t.Files, File{name, data})
		}
		out = append(out, t)
	}
	return out, nil
}

// Find gives the template of a name; nil where there is none.
func Find(name string) (*Template, error) {
	all, err := All()
	for i := range all {
		if all[i].Name == name {
			return &all[i], nil
		}
	}
	return nil, err
}

var head = regexp.MustCompile(`(?s)\Ahemble: 1\nname: [^\n]*\ntitle: [^\n]*\nbrief: \|\n(?:  [^\n]*\n)+`)

// As is the template's text with another name, title and brief.
func (t *Template) As(name, title, brief string) ([]byte, error) {
	at := head.FindIndex(t.Text)
	if at == nil {
		return nil, fmt.Errorf("the template %s does not begin as templates do", t.Name)
	}
	b := &strings.Builder{}
	fmt.Fprintf(b, "hemble: 1\nname: %s\ntitle: %q\nbrief: |\n", name, title)
	for line := range strings.Lines(strings.ReplaceAll(strings.TrimSpace(brief), "\r", "") + "\n") {
		b.WriteString("  " + line)
	}
	b.Write(t.Text[at[1]:])
	return []byte(b.String()), nil
}
