package spec

import (
	"fmt"
	"maps"
	"math/big"
	"regexp"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
)

// Value is a decoded value with its place in the file. Which member is set follows from the kind
// of its field.
type Value struct {
	Pos    Pos
	Text   string // every scalar as written
	Int    int64  // Int; Ohms in Ω; Volts in µV; Bool as 0 or 1
	Time   clock.Time
	Rate   clock.Rate
	Number *big.Rat // Decimal; Percent as a fraction of one
	List   []Value
	Map    Values
	Dict   []Entry
	Node   *yaml.Node // Any and Frame
}

// Entry is one pair of a Dict, in the order of the file.
type Entry struct {
	Name    string
	At      Pos
	Value   string
	ValueAt Pos
}

// Values is a decoded mapping.
type Values struct {
	Pos    Pos
	Node   *yaml.Node // the mapping itself
	fields map[string]Value
}

// Has reports whether a field was written or has a default.
func (v Values) Has(name string) bool { _, ok := v.fields[name]; return ok }

// With gives the same values with another one of a field.
func (v Values) With(name string, x Value) Values {
	fields := maps.Clone(v.fields)
	if fields == nil {
		fields = map[string]Value{}
	}
	x.Pos = fields[name].Pos
	fields[name] = x
	v.fields = fields
	return v
}

// Get gives a field, zero where it is absent.
func (v Values) Get(name string) Value { return v.fields[name] }

// At is the place of a field, or of the mapping where it is absent.
func (v Values) At(name string) Pos {
	if f, ok := v.fields[name]; ok && f.Pos.Line > 0 {
		return f.Pos
	}
	return v.Pos
}

// Text, Int, Time and Bool are the plain contents of a field.
func (v Values) Text(name string) string     { return v.fields[name].Text }
func (v Values) Int(name string) int64       { return v.fields[name].Int }
func (v Values) Time(name string) clock.Time { return v.fields[name].Time }
func (v Values) Bool(name string) bool       { return v.fields[name].Int == 1 }

// Where is the place of a node.
func Where(n *yaml.Node) Pos { return Pos{n.Line, n.Column} }

// Decode reads a mapping by its fields. Everything wrong goes to ps; the values that could be read
// come back.
func Decode(n *yaml.Node, fields []Field, ps *Problems) Values {
	out := Values{Pos: Where(n), Node: n, fields: map[string]Value{}}
	n = resolve(n)
	if n.Kind != yaml.MappingNode {
		ps.Add(Where(n), "expected a mapping with %s, got %s%s", strings.Join(Names(fields), ", "), describe(n),
			asMapping(n, fields))
		return out
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], n.Content[i+1]
		f := Find(fields, key.Value)
		if f == nil {
			ps.Add(Where(key), "unknown key %q%s", key.Value, Nearest(key.Value, Names(fields)))
			continue
		}
		if key.Value == f.Was {
			ps.Warn(Where(key), "%q is called %q now", f.Was, f.Name)
		}
		if _, twice := out.fields[f.Name]; twice {
			ps.Add(Where(key), "%q appears twice", key.Value)
			continue
		}
		if v, ok := decode(value, f, ps); ok {
			out.fields[f.Name] = v
		} else {
			out.fields[f.Name] = Value{Pos: Where(value)}
		}
	}
	for i := range fields {
		f := &fields[i]
		if _, ok := out.fields[f.Name]; ok {
			continue
		}
		if f.Required {
			ps.Add(out.Pos, "%s is missing: %s", f.Name, f.Doc)
		}
		if f.Default != "" {
			v, _ := decode(&yaml.Node{Kind: yaml.ScalarNode, Value: f.Default}, f, ps)
			v.Pos = Pos{}
			out.fields[f.Name] = v
		}
	}
	return out
}

// asMapping returns how a scalar is written that is in the place of a mapping, where one of its fields takes it.
func asMapping(n *yaml.Node, fields []Field) string {
	if n.Kind != yaml.ScalarNode || n.Value == "" {
		return ""
	}
	for i := range fields {
		f := &fields[i]
		if !f.Required {
			continue
		}
		if _, ok := decode(n, f, &Problems{}); ok {
			return fmt.Sprintf(": write {%s: %s}", f.Name, n.Value)
		}
		return ""
	}
	return ""
}

// resolve follows YAML aliases.
func resolve(n *yaml.Node) *yaml.Node {
	for n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	return n
}

func describe(n *yaml.Node) string {
	switch n.Kind {
	case yaml.MappingNode:
		return "a mapping"
	case yaml.SequenceNode:
		return "a list"
	case yaml.ScalarNode:
		if n.Value == "" {
			return "nothing"
		}
		return strconv.Quote(n.Value)
	}
	return "nothing"
}

var name = regexp.MustCompile(`^[a-z][a-z0-9]*([-_][a-z0-9]+)*$`)

// IsName reports whether a word can name a part, a cue or an exercise.
func IsName(s string) bool { return len(s) <= 64 && name.MatchString(s) }

func decode(n *yaml.Node, f *Field, ps *Problems) (Value, bool) {
	at := Where(n)
	n = resolve(n)
	v := Value{Pos: at, Text: n.Value, Node: n}
	switch f.Kind {
	case Any:
		return v, true
	case List:
		items := n.Content
		if n.Kind != yaml.SequenceNode {
			if n.Kind != yaml.ScalarNode && n.Kind != yaml.MappingNode {
				ps.Add(at, "%s: expected a list, got %s", f.Name, describe(n))
				return v, false
			}
			ps.Add(at, "%s: expected a list, such as [%s]", f.Name, n.Value)
			return v, false
		}
		for _, item := range items {
			if d, ok := decode(item, f.Of, ps); ok {
				v.List = append(v.List, d)
			}
		}
		return v, true
	case Mapping:
		v.Map = Decode(n, f.Fields, ps)
		return v, true
	case Dict:
		return decodeDict(n, f, v, ps)
	case Frame:
		if n.Kind == yaml.SequenceNode {
			ps.Add(at, "expected one frame, got a list")
			return v, false
		}
		return v, true
	}
	if n.Kind != yaml.ScalarNode {
		ps.Add(at, "%s: expected %s, got %s", f.Name, kindNames[f.Kind], describe(n))
		return v, false
	}
	var err error
	switch f.Kind {
	case Name:
		if !IsName(n.Value) {
			err = fmt.Errorf("%s: expected a name (lower-case letters, digits and hyphens, starting with a letter), got %q", f.Name, n.Value)
		}
	case Int:
		if v.Int, err = strconv.ParseInt(n.Value, 10, 64); err != nil {
			err = fmt.Errorf("%s: expected a whole number, got %s", f.Name, describe(n))
		} else if f.Min != f.Max && (v.Int < f.Min || v.Int > f.Max) {
			err = fmt.Errorf("%s: expected %d to %d, got %d", f.Name, f.Min, f.Max, v.Int)
		}
	case Decimal:
		v.Number, err = rational(n.Value)
		if err == nil && v.Number.Sign() < 0 {
			err = fmt.Errorf("%s cannot be negative", f.Name)
		}
	case Percent:
		number, found := strings.CutSuffix(strings.TrimSpace(n.Value), "%")
		if v.Number, err = rational(strings.TrimSpace(number)); err != nil || !found {
			err = fmt.Errorf("%s: expected a percentage, such as 5%%, got %s", f.Name, describe(n))
		} else if v.Number.Quo(v.Number, big.NewRat(100, 1)); v.Number.Sign() < 0 ||
			v.Number.Cmp(big.NewRat(1, 1)) > 0 {
			err = fmt.Errorf("%s: expected 0%% to 100%%, got %s", f.Name, n.Value)
		}
	case Duration:
		v.Time, err = clock.Parse(n.Value)
	case Rate:
		v.Rate, err = clock.ParseRate(n.Value)
	case Ohms:
		v.Int, err = scaled(n.Value, "Ω", map[string]int64{"k": 1000, "M": 1_000_000}, 1,
			"a resistance; write ohms, such as 270 or 4.7k")
	case Volts:
		v.Int, err = ParseVolts(n.Value)
	case Bool:
		switch strings.ToLower(n.Value) {
		case "yes", "true", "on":
			v.Int = 1
		case "no", "false", "off":
		default:
			err = fmt.Errorf("%s: expected yes or no, got %s", f.Name, describe(n))
		}
	case Choice:
		found := false
		for _, c := range f.Choices {
			found = found || c == n.Value
		}
		if !found {
			err = fmt.Errorf("%s: got %s%s", f.Name, describe(n), Nearest(n.Value, f.Choices))
		}
	}
	if err != nil {
		ps.Add(at, "%s", err)
		return v, false
	}
	return v, true
}

func decodeDict(n *yaml.Node, f *Field, v Value, ps *Problems) (Value, bool) {
	if n.Kind != yaml.MappingNode {
		ps.Add(v.Pos, "%s: expected a mapping, got %s", f.Name, describe(n))
		return v, false
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], resolve(n.Content[i+1])
		if seen[key.Value] {
			ps.Add(Where(key), "%q appears twice", key.Value)
			continue
		}
		seen[key.Value] = true
		if value.Kind != yaml.ScalarNode {
			ps.Add(Where(n.Content[i+1]), "%s: expected a word, got %s", key.Value, describe(value))
			continue
		}
		v.Dict = append(v.Dict, Entry{key.Value, Where(key), value.Value, Where(n.Content[i+1])})
	}
	return v, true
}

func rational(s string) (*big.Rat, error) {
	if len(s) > 20 || s == "" || strings.ContainsAny(s, "eE/xX_") {
		return nil, fmt.Errorf("expected a number, got %q", s)
	}
	r, ok := new(big.Rat).SetString(s)
	if !ok {
		return nil, fmt.Errorf("expected a number, got %q", s)
	}
	return r, nil
}

// ParseVolts reads a voltage in µV.
func ParseVolts(text string) (int64, error) {
	return scaled(strings.TrimSuffix(text, "V"), "", map[string]int64{"m": 1000}, 1_000_000,
		"a voltage; write volts, such as 5V or 3.3V")
}

// scaled reads a number with an optional multiplier into units.
func scaled(s, unit string, multipliers map[string]int64, units int64, meant string) (int64, error) {
	text := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(s), unit))
	number, factor := text, big.NewRat(units, 1)
	for suffix, by := range multipliers {
		if cut, found := strings.CutSuffix(text, suffix); found {
			number = cut
			if suffix == "m" {
				factor = big.NewRat(units, by)
			} else {
				factor = big.NewRat(units*by, 1)
			}
		}
	}
	r, err := rational(strings.TrimSpace(number))
	if err != nil || r.Sign() < 0 {
		return 0, fmt.Errorf("expected %s, got %q", meant, s)
	}
	r.Mul(r, factor)
	if !r.IsInt() || !r.Num().IsInt64() {
		return 0, fmt.Errorf("%q is finer than the model resolves", s)
	}
	return r.Num().Int64(), nil
}
