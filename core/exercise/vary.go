package exercise

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/binary"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/spec"
)

// Varied is a value that differs from student to student.
type Varied struct{ Name, Value string }

// StudentKey is what a student's values follow from: the same secret, exercise and student, the same values. The secret
// stays where it is.
func StudentKey(secret []byte, exercise, student string) []byte {
	h := hmac.New(sha256.New, secret)
	h.Write([]byte(exercise + "\x00" + student))
	return h.Sum(nil)
}

// maxChoices bounds what one value is chosen from.
const maxChoices = 10_000

// names are those of values within a sum; arithmetic is a scalar that is nothing but a sum, sumOf one with something to
// compute.
var (
	names      = regexp.MustCompile(`[a-z][a-z0-9]*(-[a-z][a-z0-9]*)*`)
	arithmetic = regexp.MustCompile(`^[-+*/%×÷−() 0-9]+$`)
	sumOf      = regexp.MustCompile(`[0-9)] *[-+*/%×÷−]`)
)

var reference = regexp.MustCompile(`\$\{([^}]*)\}`)

// vary chooses the values and puts them in place of their names, before anything else is read. Without a key the first
// choices stand.
func vary(root *yaml.Node, key []byte, ps *spec.Problems) (out []Varied) {
	values := map[string]string{}
	for i := 0; root.Kind == yaml.MappingNode && i+1 < len(root.Content); i += 2 {
		if root.Content[i].Value != "vary" {
			continue
		}
		n := root.Content[i+1]
		if n.Kind != yaml.MappingNode {
			ps.Add(spec.Where(n), "vary is a mapping of names, each with its choices")
			return nil
		}
		for k := 0; k+1 < len(n.Content); k += 2 {
			name := n.Content[k]
			if !spec.IsName(name.Value) {
				ps.Add(spec.Where(name), "%q cannot name a value; names are lower-case letters, digits and hyphens",
					name.Value)
				continue
			}
			choices := readChoices(n.Content[k+1], ps)
			if len(choices) == 0 {
				continue
			}
			pick := 0
			if key != nil {
				h := hmac.New(sha256.New, key)
				h.Write([]byte(name.Value))
				pick = int(binary.BigEndian.Uint64(h.Sum(nil)) % uint64(len(choices)))
			}
			values[name.Value] = choices[pick]
			out = append(out, Varied{name.Value, choices[pick]})
		}
	}
	substitute(root, values, ps)
	return out
}

// readChoices reads a list of scalars, or {from, to, step}.
func readChoices(n *yaml.Node, ps *spec.Problems) (out []string) {
	if n.Kind == yaml.SequenceNode {
		for _, c := range n.Content {
			if c.Kind != yaml.ScalarNode {
				ps.Add(spec.Where(c), "choices are words or numbers")
				return nil
			}
			out = append(out, c.Value)
		}
		if len(out) == 0 {
			ps.Add(spec.Where(n), "there is nothing to choose from")
		}
		return out
	}
	v := spec.Decode(n, []spec.Field{
		{Name: "from", Kind: spec.Int, Min: -1 << 40, Max: 1 << 40, Required: true, Doc: "the lowest"},
		{Name: "to", Kind: spec.Int, Min: -1 << 40, Max: 1 << 40, Required: true, Doc: "the highest"},
		{Name: "step", Kind: spec.Int, Min: 1, Max: 1 << 40, Default: "1", Doc: "from one to the next"},
	}, ps)
	if !v.Has("from") || !v.Has("to") {
		return nil
	}
	if count := (v.Int("to")-v.Int("from"))/v.Int("step") + 1; count < 1 || count > maxChoices {
		ps.Add(spec.Where(n), "that are %d choices; there can be 1 to %d", count, maxChoices)
		return nil
	}
	for c := v.Int("from"); c <= v.Int("to"); c += v.Int("step") {
		out = append(out, strconv.FormatInt(c, 10))
	}
	return out
}

// substitute puts values in place of ${name} in every scalar, and computes ${name + 8}, and a scalar that is nothing
// but a sum.
func substitute(n *yaml.Node, values map[string]string, ps *spec.Problems) {
	if n.Kind == yaml.ScalarNode && strings.Contains(n.Value, "${") {
		failed := false
		say := func(format string, args ...any) {
			failed = true
			ps.Add(spec.Where(n), format, args...)
		}
		whole := arithmetic.MatchString(reference.ReplaceAllString(n.Value, "1"))
		n.Value = reference.ReplaceAllStringFunc(n.Value, func(r string) string {
			inside := strings.TrimSpace(r[2 : len(r)-1])
			if v, ok := values[inside]; ok {
				return v
			}
			sum := inside
			for _, name := range names.FindAllString(inside, -1) {
				if _, known := values[name]; !known {
					say("nothing called %q varies%s", name, spec.Nearest(name, slices.Sorted(maps.Keys(values))))
					return r
				}
			}
			sum = names.ReplaceAllStringFunc(sum, func(name string) string { return values[name] })
			v, err := compute(sum)
			if err != nil {
				say("${%s}: %s", inside, err)
				return r
			}
			return strconv.FormatInt(v, 10)
		})
		if whole && !failed && sumOf.MatchString(strings.TrimSpace(n.Value)) {
			v, err := compute(n.Value)
			if err != nil {
				say("%s", err)
				return
			}
			n.Value = strconv.FormatInt(v, 10)
		}
	}
	for _, c := range n.Content {
		substitute(c, values, ps)
	}
}
