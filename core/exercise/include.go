package exercise

import (
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/spec"
)

// Reader reads exercise files.
type Reader struct {
	File    string // for problems
	Student []byte // values that vary are taken by this key (see StudentKey); without one, the first of each
	Draft   bool   // trials need not have expectations yet
	// Open gives a file that the bench includes, by its path from the exercise's own. Without it nothing can be
	// included.
	Open func(name string) ([]byte, error)
}

// Read reads and checks a text. The exercise is nil when there are problems beyond warnings.
func (r Reader) Read(text []byte) (*Exercise, []spec.Problem) {
	x, list, failed := r.read(text, 0)
	if failed {
		return nil, list
	}
	list = r.readOthers(x, text, list)
	if Error(list) != nil {
		return nil, list
	}
	return x, list
}

// read is Read for the exercise's own chip, or one of the others, counted from 1.
func (r Reader) read(text []byte, chip int) (x *Exercise, list []spec.Problem, failed bool) {
	ps := &spec.Problems{File: r.File}
	in := &included{open: r.Open}
	x = read(text, r.Student, r.Draft, chip, in, ps)
	list = in.place(ps.Sorted())
	if ps.Failed() {
		return nil, list, true
	}
	x.reader = r
	return x, list, false
}

// includeKey stands among the parts of a bench for parts that are in files of their own.
const includeKey = "include"

// Problems of an included file are told apart by their lines: those of the nth begin behind n times this.
const perFile = maxFile + 1

// maxIncluded bounds how many files a bench includes.
const maxIncluded = 8

// included are the files that a bench includes.
type included struct {
	open  func(name string) ([]byte, error)
	names []string
	texts [][]byte
}

// resolve puts the parts of included files in place of the include of a bench.
func (in *included) resolve(root *yaml.Node, ps *spec.Problems) {
	bench := mapped(root, "bench")
	if bench == nil || bench.Kind != yaml.MappingNode {
		return
	}
	for i := 0; i+1 < len(bench.Content); i += 2 {
		if bench.Content[i].Value != includeKey {
			continue
		}
		list := []*yaml.Node{bench.Content[i+1]}
		if list[0].Kind == yaml.SequenceNode {
			list = list[0].Content
		}
		var parts []*yaml.Node
		for _, n := range list {
			parts = append(parts, in.parts(n, ps)...)
		}
		bench.Content = slices.Replace(bench.Content, i, i+2, parts...)
		return
	}
}

// parts gives the parts of one file.
func (in *included) parts(n *yaml.Node, ps *spec.Problems) []*yaml.Node {
	at := spec.Where(n)
	switch {
	case n.Kind != yaml.ScalarNode || n.Value == "" || path.IsAbs(n.Value) || strings.Contains(n.Value, `\`):
		ps.Add(at, "include names a file by its path from this one, such as ../benches/chamber.yaml, or a list of some")
		return nil
	case in.open == nil:
		ps.Add(at, "%s cannot be included here, where there is this text alone: `hemble exercise import` takes an exercise with the files that it includes", n.Value)
		return nil
	case len(in.names) == maxIncluded:
		ps.Add(at, "a bench includes at most %d files", maxIncluded)
		return nil
	}
	text, err := in.open(n.Value)
	if err == nil && len(text) > maxFile {
		err = fmt.Errorf("it has %d bytes; %d are allowed", len(text), maxFile)
	}
	if err != nil {
		ps.Add(at, "%s cannot be included: %s", n.Value, err)
		return nil
	}
	in.names, in.texts = append(in.names, n.Value), append(in.texts, text)
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		ps.Add(at, "%s cannot be included: %s", n.Value, strings.TrimPrefix(err.Error(), "yaml: "))
		return nil
	}
	if len(doc.Content) == 0 || doc.Content[0].Kind != yaml.MappingNode {
		ps.Add(at, "%s cannot be included: expected a mapping of parts by name, as under bench:", n.Value)
		return nil
	}
	shift(&doc, len(in.names)*perFile)
	parts := doc.Content[0].Content
	for i := 0; i+1 < len(parts); i += 2 {
		if parts[i].Value == includeKey {
			ps.Add(spec.Where(parts[i]), "an included file includes no others")
			return nil
		}
	}
	return parts
}

func shift(n *yaml.Node, by int) {
	n.Line += by
	for _, c := range n.Content {
		shift(c, by)
	}
}

// place puts problems in the files that they are in.
func (in *included) place(list []spec.Problem) []spec.Problem {
	for i, p := range list {
		if n := p.Line / perFile; n > 0 {
			list[i].File, list[i].Line = path.Join(path.Dir(p.File), in.names[n-1]), p.Line%perFile
		}
	}
	return list
}

// mapped gives the value of a key, nil where it is absent.
func mapped(n *yaml.Node, key string) *yaml.Node {
	for i := 0; n.Kind == yaml.MappingNode && i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}

// Flatten gives a text whose bench has the parts of the files that it includes in their place: it then is alone.
// The text must read without problems.
func Flatten(text []byte, open func(name string) ([]byte, error)) ([]byte, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil || len(doc.Content) == 0 {
		return text, err
	}
	bench := mapped(doc.Content[0], "bench")
	if bench == nil || mapped(bench, includeKey) == nil {
		return text, nil
	}
	if bench.Style&yaml.FlowStyle != 0 {
		return nil, errors.New("a bench in brackets includes nothing: write a line for each part")
	}
	lines := strings.SplitAfter(string(text), "\n")
	for i := 0; i+1 < len(bench.Content); i += 2 {
		key, value := bench.Content[i], bench.Content[i+1]
		if key.Value != includeKey {
			continue
		}
		end, names := value.Line, []*yaml.Node{value}
		if value.Kind == yaml.SequenceNode {
			names = value.Content
		}
		indent, put := strings.Repeat(" ", key.Column-1), ""
		for _, n := range names {
			end = max(end, n.Line)
			part, err := open(n.Value)
			if err != nil {
				return nil, err
			}
			put += indent + "# from " + n.Value + "\n"
			for _, line := range strings.Split(strings.TrimRight(string(part), "\n"), "\n") {
				put += strings.TrimRight(indent+line, " \r") + "\n"
			}
		}
		if value.Style&yaml.FlowStyle != 0 { // its closing bracket may stand on a line of its own
			for end < len(lines) && !strings.Contains(lines[end-1], "]") {
				end++
			}
		}
		return []byte(strings.Join(lines[:key.Line-1], "") + put + strings.Join(lines[end:], "")), nil
	}
	return text, nil
}
