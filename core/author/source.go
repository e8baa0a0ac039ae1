package author

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"go.yaml.in/yaml/v3"

	"hemble/core/spec"
)

// source is the text of an exercise file, to be changed at some places while the rest stays as it is written.
type source struct {
	text  []byte
	lines []int // where each begins
	doc   *yaml.Node
}

func readSource(text []byte) (*source, error) {
	s := &source{text: text, doc: &yaml.Node{}}
	if err := yaml.Unmarshal(text, s.doc); err != nil {
		return nil, err
	}
	if len(s.doc.Content) == 0 {
		return nil, errors.New("the file is empty")
	}
	s.lines = []int{0}
	for i, c := range text {
		if c == '\n' {
			s.lines = append(s.lines, i+1)
		}
	}
	return s, nil
}

// find gives the outermost node that begins at a place.
func (s *source) find(at spec.Pos) *yaml.Node {
	var found *yaml.Node
	var walk func(*yaml.Node)
	walk = func(n *yaml.Node) {
		if found == nil && n.Kind != yaml.DocumentNode && spec.Where(n) == at {
			found = n
		}
		for _, c := range n.Content {
			if found == nil {
				walk(c)
			}
		}
	}
	walk(s.doc)
	return found
}

// offset is where a place is in the text, its end for one beyond it: columns count characters.
func (s *source) offset(line, column int) int {
	if line < 1 || line > len(s.lines) {
		return len(s.text)
	}
	at := s.lines[line-1]
	for ; column > 1 && at < len(s.text); column-- {
		_, size := utf8.DecodeRune(s.text[at:])
		at += size
	}
	return at
}

// extent is where a node stands. Nodes that are written by reference, and scalars over several lines, have none.
func (s *source) extent(n *yaml.Node) (from, to int, err error) {
	from = s.offset(n.Line, n.Column)
	if !s.begins(n, from) {
		return 0, 0,
			fmt.Errorf("line %d: this is written in a way that is not changed by itself; write it plainly first",
				n.Line)
	}
	switch {
	case n.Kind == yaml.AliasNode || n.Anchor != "":
		return 0, 0, fmt.Errorf("line %d: this is written by reference (& and *); write it out first", n.Line)
	case n.Kind != yaml.ScalarNode && n.Style&yaml.FlowStyle != 0:
		return from, s.bracket(from), nil
	case n.Kind != yaml.ScalarNode:
		end := last(n)
		to = len(s.text)
		if end < len(s.lines) {
			to = s.lines[end] - 1
		}
		return from, from + len(bytes.TrimRight(s.text[from:to], " \r\n")), nil
	case n.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0:
		return from, quote(s.text, from), nil
	case n.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0 || !bytes.HasPrefix(s.text[from:], []byte(n.Value)):
		return 0, 0, fmt.Errorf("line %d: this goes over several lines; write it in one first", n.Line)
	}
	return from, from + len(n.Value), nil
}

// begins reports whether a node is where it is said to be: files have odd line ends, tags and empty values, too.
func (s *source) begins(n *yaml.Node, at int) bool {
	if at >= len(s.text) {
		return false
	}
	switch c := s.text[at]; {
	case n.Kind == yaml.AliasNode || n.Anchor != "":
		return true // its own error says more
	case n.Style&yaml.FlowStyle != 0:
		return c == '{' || c == '['
	case n.Style&yaml.DoubleQuotedStyle != 0:
		return c == '"'
	case n.Style&yaml.SingleQuotedStyle != 0:
		return c == '\''
	}
	return n.Style&yaml.TaggedStyle == 0 && (n.Kind != yaml.ScalarNode || n.Value != "")
}

// quote is where a quoted scalar ends.
func quote(text []byte, at int) int {
	mark := text[at]
	for at++; at < len(text); at++ {
		switch {
		case text[at] == '\\' && mark == '"':
			at++
		case text[at] == mark && mark == '\'' && at+1 < len(text) && text[at+1] == mark:
			at++
		case text[at] == mark:
			return at + 1
		}
	}
	return len(text)
}

// bracket is where the bracket that opens at a place closes.
func (s *source) bracket(at int) int {
	depth := 0
	for ; at < len(s.text); at++ {
		switch c := s.text[at]; {
		case c == '[' || c == '{':
			depth++
		case c == ']' || c == '}':
			if depth--; depth == 0 {
				return at + 1
			}
		case (c == '"' || c == '\'') && strings.IndexByte("[{,: \n", s.text[at-1]) >= 0:
			at = quote(s.text, at) - 1
		case c == '#' && strings.IndexByte(" \t\n", s.text[at-1]) >= 0:
			for at+1 < len(s.text) && s.text[at+1] != '\n' {
				at++
			}
		}
	}
	return at
}

// replace gives the text with something in place of what stands from one place to another.
func (s *source) replace(from, to int, with string) []byte {
	return append(append(append([]byte{}, s.text[:from]...), with...), s.text[to:]...)
}

// flow writes a node in one line.
func flow(n *yaml.Node) (string, error) {
	plain := bare(n)
	plain.Style = yaml.FlowStyle
	text, err := yaml.Marshal(plain)
	return strings.TrimSpace(string(text)), err
}

// bare is a node without its comments.
func bare(n *yaml.Node) *yaml.Node {
	out := *n
	out.HeadComment, out.LineComment, out.FootComment, out.Content = "", "", "", nil
	for _, c := range n.Content {
		out.Content = append(out.Content, bare(c))
	}
	return &out
}

// split parts a mapping into the keys that a predicate picks and the others.
func split(n *yaml.Node, pick func(key string) bool) (picked, others *yaml.Node) {
	picked, others = &yaml.Node{Kind: yaml.MappingNode}, &yaml.Node{Kind: yaml.MappingNode}
	for i := 0; i+1 < len(n.Content); i += 2 {
		to := others
		if pick(n.Content[i].Value) {
			to = picked
		}
		to.Content = append(to.Content, n.Content[i], n.Content[i+1])
	}
	return picked, others
}
