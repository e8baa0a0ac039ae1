package judge

import (
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"

	"go.yaml.in/yaml/v3"
)

// SightOf is how a frame that is written as text looks on a display.
func SightOf(text string, p *part.Built) reel.Sight {
	ps := &spec.Problems{}
	w, _ := readWant(spec.Value{Text: text, Node: &yaml.Node{Kind: yaml.ScalarNode, Value: text}}, p, false, ps)
	if w == nil {
		panic(ps.List[0].Text)
	}
	return *w.sight(p.Kind.Look(*p))
}
