package exercise

import (
	"errors"
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"hemble/core/spec"
)

// Share is what of an exercise somebody may have.
type Share struct {
	Whole        bool // everything; the others are for students
	Expectations bool // what is expected, and what mistakes cost
	Marks        bool // and for how many marks
}

// What is in a student's bundle, by name: all else stays with the service.
var (
	bundled      = []string{"hemble", "name", "title", "brief", "chip", "bench", "groups", "characters"}
	bundledMarks = []string{"rounding", "faults", "prices", "deductions"}
	bundledTrial = []string{"name", "length", "seed", "cues"}
	bundledJudge = []string{"expect"}
)

// Bundle writes an exercise as somebody may have it, to be simulated elsewhere: with the values of the student that the
// reader is for, without comments, and, for students, without hidden trials, notes, choices that others have and what
// persons mark. An exercise whose trials are all hidden gets one without cues. Trials may lack expectations: it is to
// be read as a draft.
func (r Reader) Bundle(text []byte, p Share) ([]byte, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, err
	}
	if len(doc.Content) == 0 || doc.Content[0].Kind != yaml.MappingNode {
		return nil, errors.New("the exercise is empty")
	}
	if n := aliases(&doc, map[*yaml.Node]bool{}); n > 100 {
		return nil, fmt.Errorf("the file refers to anchors %d times; 100 are allowed", n)
	}
	left := maxNodes
	root := plain(doc.Content[0], &left)
	if left < 0 {
		return nil, errors.New("the file is too large with all that it refers to")
	}
	ps := &spec.Problems{File: r.File}
	in := &included{open: r.Open}
	if in.resolve(root, ps); !ps.Failed() {
		vary(root, r.Student, ps)
	}
	if ps.Failed() {
		return nil, Error(ps.Sorted())
	}
	drop(root, func(key string) bool { return key == "vary" })
	if !p.Whole {
		p.cut(root)
	}
	return yaml.Marshal(root)
}

// cut leaves what a student may have.
func (p Share) cut(root *yaml.Node) {
	keep := bundled
	if p.Expectations && p.Marks {
		keep = slices.Concat(bundled, bundledMarks)
	}
	trials := mapped(root, "trials")
	drop(root, func(key string) bool { return !slices.Contains(keep, key) })
	var seen []*yaml.Node
	if trials != nil {
		for _, t := range trials.Content {
			if hidden := mapped(t, "hidden"); t.Kind != yaml.MappingNode || hidden != nil && hidden.Value != "no" &&
				hidden.Value != "false" {
				continue
			}
			keys := bundledTrial
			if p.Expectations {
				keys = slices.Concat(bundledTrial, bundledJudge)
			}
			if p.Expectations && p.Marks {
				keys = append(keys, "at-most", "most") // its old name, too
			}
			drop(t, func(key string) bool { return !slices.Contains(keys, key) })
			if expect := mapped(t, "expect"); expect != nil {
				p.without(expect)
			}
			seen = append(seen, t)
		}
	}
	if len(seen) == 0 {
		seen = append(seen, list("name", "practice", "length", "60s"))
	}
	root.Content = append(root.Content, scalar("trials"), &yaml.Node{Kind: yaml.SequenceNode, Content: seen})
}

// without drops the notes of expectations, and their marks where those are not to be had.
func (p Share) without(n *yaml.Node) {
	drop(n, func(key string) bool {
		return key == "notes" || !p.Marks && (key == "marks" || key == "bonus" || key == "gate")
	})
	for _, c := range n.Content {
		p.without(c)
	}
}

// maxNodes bounds a file with everything that it refers to in its place.
const maxNodes = 200_000

// plain is a node without comments, with everything that it refers to in its place, as far as so many nodes suffice.
func plain(n *yaml.Node, left *int) *yaml.Node {
	if *left--; *left < 0 {
		return n
	}
	if n.Kind == yaml.AliasNode {
		return plain(n.Alias, left)
	}
	out := &yaml.Node{Kind: n.Kind, Style: n.Style, Tag: n.Tag, Value: n.Value, Line: n.Line, Column: n.Column}
	for _, c := range n.Content {
		out.Content = append(out.Content, plain(c, left))
	}
	return out
}

// drop takes keys out of a mapping.
func drop(n *yaml.Node, of func(key string) bool) {
	if n.Kind != yaml.MappingNode {
		return
	}
	var kept []*yaml.Node
	for i := 0; i+1 < len(n.Content); i += 2 {
		if !of(n.Content[i].Value) {
			kept = append(kept, n.Content[i], n.Content[i+1])
		}
	}
	n.Content = kept
}

func scalar(text string) *yaml.Node { return &yaml.Node{Kind: yaml.ScalarNode, Value: text} }

// list is a mapping of scalars.
func list(pairs ...string) *yaml.Node {
	n := &yaml.Node{Kind: yaml.MappingNode}
	for _, p := range pairs {
		n.Content = append(n.Content, scalar(p))
	}
	return n
}
