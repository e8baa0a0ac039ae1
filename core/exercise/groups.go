package exercise

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"hemble/core/display"
	"hemble/core/display/group"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// maxGroups bounds the groups of a bench, maxCharacters its custom characters.
const (
	maxGroups     = 32
	maxCharacters = 64
)

// readGroups reads the names of displays that are read as one.
func (x *Exercise) readGroups(n *yaml.Node, ps *spec.Problems) {
	if n.Kind != yaml.MappingNode || len(n.Content)/2 > maxGroups {
		ps.Add(spec.Where(n), "groups are a mapping from names to lists of displays, up to %d", maxGroups)
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, list := n.Content[i], n.Content[i+1]
		switch {
		case !spec.IsName(key.Value):
			ps.Add(spec.Where(key), "%q cannot name a group; names are lower-case letters, digits and hyphens",
				key.Value)
		case x.Part(key.Value) != nil:
			ps.Add(spec.Where(key), "a part or another group is called %q", key.Value)
		case list.Kind != yaml.SequenceNode || len(list.Content) < 2:
			ps.Add(spec.Where(list), "a group is a list of two displays or more, from the left, as [tens, ones]")
		default:
			x.readGroup(key.Value, list, ps)
		}
	}
}

func (x *Exercise) readGroup(name string, list *yaml.Node, ps *spec.Problems) {
	g := reel.Group{Name: name}
	var members []display.Member
	lights := 0
	for _, n := range list.Content {
		p := x.Part(n.Value)
		switch {
		case p == nil:
			ps.Unknown(spec.Where(n), "part of the bench", n.Value, x.displayNames())
			return
		case p.Kind.Geometry == nil || !p.Kind.Geometry(*p).Type().Traits().Member:
			ps.Add(spec.Where(n), "%q is a %s: a group joins lamps, digits and bars", n.Value, p.Kind.Name)
			return
		case slices.Contains(g.Of, n.Value):
			ps.Add(spec.Where(n), "%q is in the group twice", n.Value)
			return
		case spec.Find(display.CommonFields, n.Value) != nil:
			ps.Add(spec.Where(n),
				"a member named %q conflicts with a key of frames: give that part another name",
				n.Value)
			return
		}
		look := p.Kind.Geometry(*p)
		lights += look.Lights()
		g.Of, members = append(g.Of, n.Value), append(members, display.Member{Name: n.Value, Geometry: look})
	}
	if lights > group.MaxLights {
		ps.Add(spec.Where(list), "the group has %d lights; up to %d can be read as one", lights, group.MaxLights)
		return
	}
	x.Groups = append(x.Groups, Group{g, group.Join(members)})
}

// Group is a name for several displays, with how they look side by side.
type Group struct {
	reel.Group
	Geometry display.Geometry
}

// part is the group as a display of its own.
func (g *Group) part() *part.Instance {
	return &part.Instance{Name: g.Name,
		Kind: &part.Kind{Name: display.GroupKind, Title: "Group",
			Geometry: func(part.Instance) display.Geometry { return g.Geometry }}}
}

// Subjects are the parts of the bench, and its groups as displays of their own: all that a program may get wrong.
func (x *Exercise) Subjects() []*part.Instance {
	out := slices.Clone(x.Parts)
	for i := range x.Groups {
		out = append(out, x.Groups[i].part())
	}
	return out
}

// Holds reports whether a group has a part as a member.
func (x *Exercise) Holds(group, name string) bool {
	return slices.ContainsFunc(x.Groups, func(g Group) bool { return g.Name == group && slices.Contains(g.Of, name) })
}

// displayNames lists the displays of the bench, and its groups.
func (x *Exercise) displayNames() (out []string) {
	for _, p := range x.Subjects() {
		if p.Kind.Geometry != nil {
			out = append(out, p.Name)
		}
	}
	return out
}

// names lists the parts of the bench, and its groups.
func (x *Exercise) names() (out []string) {
	for _, p := range x.Subjects() {
		out = append(out, p.Name)
	}
	return out
}

// readCharacters reads the custom characters of character displays: what stands for each in texts, and its dots.
func readCharacters(n *yaml.Node, ps *spec.Problems) (out []display.Character) {
	if n.Kind != yaml.MappingNode || len(n.Content)/2 > maxCharacters {
		ps.Add(spec.Where(n), "characters are a mapping from a letter to its rows of dots, up to %d", maxCharacters)
		return nil
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, list := n.Content[i], n.Content[i+1]
		letter := []rune(key.Value)
		if len(letter) != 1 || letter[0] == display.Nameless {
			ps.Add(spec.Where(key), "%q cannot name a character: expected a single letter such as ▲", key.Value)
			continue
		}
		if _, ok := glyph.Code(letter[0]); ok {
			ps.Add(spec.Where(key), "%q is a letter that displays have anyway: take one that they have not, such as ▲",
				key.Value)
			continue
		}
		var rows []string
		for _, row := range list.Content {
			rows = append(rows, row.Value)
		}
		dots, err := glyph.ReadDots(rows)
		if list.Kind != yaml.SequenceNode {
			ps.Add(spec.Where(list), "a character is a list of its rows, as [\"..#..\", \".###.\"]")
			continue
		}
		if err != nil {
			ps.Add(spec.Where(list), "%s: %s", key.Value, err)
			continue
		}
		c := display.Character{Letter: key.Value, Dots: dots}
		if code, ok := glyph.Drawn(dots); ok {
			ps.Add(spec.Where(list),
				"%s has the same dots as %q, which displays have built in: the two could not be distinguished",
				key.Value, glyph.Rune(code))
			continue
		}
		if k := slices.IndexFunc(out, func(o display.Character) bool {
			return o.Letter == c.Letter ||
				o.Dots == c.Dots
		}); k >= 0 {
			ps.Add(spec.Where(key), "%s and %s are the same: two custom characters have two letters and two patterns",
				c.Letter, out[k].Letter)
			continue
		}
		out = append(out, c)
	}
	return out
}
