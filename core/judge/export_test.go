package judge

import (
	"go.yaml.in/yaml/v3"

	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/spec"
)

// SightOf is how a frame that is written as text looks on a display.
func SightOf(text string, p *part.Instance) display.State {
	ps := &spec.Problems{}
	w, _ := display.ReadFrame(spec.Value{Text: text, Node: &yaml.Node{Kind: yaml.ScalarNode, Value: text}}, p.Display(),
		false, ps)
	if w == nil {
		panic(ps.List[0].Text)
	}
	return *w.Ideal(p.Kind.Geometry(*p))
}
