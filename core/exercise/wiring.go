package exercise

import (
	"go.yaml.in/yaml/v3"

	"hemble/core/part"
	"hemble/core/spec"
)

// Rewire gives the exercise with a student's own wiring: a mapping of parts, each a mapping of its pins to pins of the
// chip. Parts must allow it with `student-wiring`. The exercise is nil where the wiring cannot be built; every problem
// says what would happen on the bench.
func (x *Exercise) Rewire(file string, text []byte) (*Exercise, []spec.Problem) {
	ps := &spec.Problems{File: file}
	out := x.rewired(text, ps)
	if list := ps.Sorted(); ps.Failed() {
		return nil, list
	}
	out.Hash = sum(append(append([]byte{}, x.Hash[:]...), text...), nil)
	return out, ps.Sorted()
}

func (x *Exercise) rewired(text []byte, ps *spec.Problems) *Exercise {
	out := x.Clone()
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		ps.Add(spec.Pos{Line: 1, Col: 1}, "not YAML: %s", err)
		return out
	}
	if len(doc.Content) == 0 || doc.Content[0].Kind != yaml.MappingNode {
		ps.Add(spec.Pos{Line: 1, Col: 1}, "a wiring is a mapping of parts, each with its pins: gauge: {a: PIN, b: PIN}")
		return out
	}
	root := doc.Content[0]
	at := map[*part.Instance]spec.Pos{}
	for i := 0; i+1 < len(root.Content); i += 2 {
		name, pins := root.Content[i], root.Content[i+1]
		p := out.Part(name.Value)
		switch {
		case p == nil:
			var names []string
			for _, known := range out.Parts {
				names = append(names, known.Name)
			}
			ps.Add(spec.Where(name), "no part of the bench is called %q%s", name.Value, spec.Nearest(name.Value, names))
			continue
		case !p.Settings.Bool("student-wiring"):
			ps.Add(spec.Where(name), "the wiring of %q is given by the exercise", p.Name)
			continue
		case pins.Kind != yaml.MappingNode:
			ps.Add(spec.Where(pins), "the pins of %q are a mapping, such as {a: PIN, b: PIN}", p.Name)
			continue
		}
		at[p] = spec.Where(name)
		out.rewirePart(p, pins, ps)
	}
	out.diagnose(at, ps)
	return out
}

// rewirePart takes the pins of one part.
func (x *Exercise) rewirePart(p *part.Instance, pins *yaml.Node, ps *spec.Problems) {
	was := append([]string{}, p.Wired...)
	for i := range p.Wired {
		if x.onChip(p.Wired[i]) {
			p.Wired[i] = ""
		}
	}
	for i := 0; i+1 < len(pins.Content); i += 2 {
		key, value := pins.Content[i], pins.Content[i+1]
		pin := x.Board.Pin(value.Value)
		k := p.Kind.Terminal(key.Value)
		switch {
		case k < 0:
			ps.Add(spec.Where(key), "a %s has no pin %q%s", p.Kind.Name, key.Value,
				spec.Nearest(key.Value, p.Kind.PinNames()))
		case !x.onChip(was[k]):
			ps.Add(spec.Where(key), "pin %q of %q is not at the chip: its wiring is given by the exercise", key.Value,
				p.Name)
		case !x.onChip(pin):
			ps.Add(spec.Where(value), "the %s has no pin %q%s", x.Chip.Title, value.Value, x.meantPin(value.Value, nil))
		default:
			p.Wired[k] = pin
		}
	}
	for i, name := range p.Kind.Pins {
		if x.onChip(was[i]) && p.Wired[i] == "" {
			ps.Add(spec.Where(pins), "pin %q of %q is not wired: %s stays without a connection", name.Name, p.Name,
				name.Name)
		}
	}
}

func (x *Exercise) onChip(net string) bool {
	if x.Chip == nil || net == "" {
		return false
	}
	_, ok := x.Chip.Pin(net)
	return ok
}

// diagnose returns what is joined that should not be.
func (x *Exercise) diagnose(at map[*part.Instance]spec.Pos, ps *spec.Problems) {
	type end struct {
		part *part.Instance
		name string
	}
	used := map[string][]end{}
	for _, p := range x.Parts {
		for i, w := range p.Wired {
			if !x.onChip(w) {
				continue
			}
			here := end{p, p.Kind.Pins[i].Name}
			for _, other := range used[w] {
				pos, mine := at[p]
				if theirs, ok := at[other.part]; !mine && ok {
					pos, mine = theirs, true
				}
				switch {
				case !mine: // the exercise joins them itself
				case other.part == p:
					ps.Add(pos, "%s and %s of %q are both at %s: they can only do the same", other.name, here.name,
						p.Name, w)
				default:
					ps.Add(pos, "%s is used twice: by %s of %q and by %s of %q", w, other.name, other.part.Name,
						here.name, p.Name)
				}
			}
			used[w] = append(used[w], here)
		}
	}
}
