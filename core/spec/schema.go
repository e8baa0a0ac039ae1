package spec

import (
	"strconv"
	"strings"
)

// Object gives the JSON Schema (draft 2020-12) of a mapping with these fields.
func Object(fields []Field) map[string]any {
	properties, required := map[string]any{}, []string{}
	for _, f := range fields {
		properties[f.Name] = f.Schema()
		if f.Required {
			required = append(required, f.Name)
		}
	}
	out := map[string]any{"type": "object", "properties": properties, "additionalProperties": false}
	if len(required) > 0 {
		out["required"] = required
	}
	return out
}

var patterns = map[Kind]string{
	Name:     name.String(),
	Duration: `^ *[0-9]*\.?[0-9]+ *(ps|ns|us|µs|ms|s|min) *$|^0$`,
	Rate:     `^ *[0-9]*\.?[0-9]+ *(MHz|kHz|Hz) *$`,
	Percent:  `^ *[0-9]*\.?[0-9]+ *% *$`,
}

// Schema gives the JSON Schema of a field's value.
func (f *Field) Schema() map[string]any {
	var s map[string]any
	switch f.Kind {
	case Int:
		s = map[string]any{"type": "integer"}
		if f.Min != f.Max {
			s["minimum"], s["maximum"] = f.Min, f.Max
		}
	case Decimal:
		s = map[string]any{"type": "number", "minimum": 0}
	case Bool:
		s = map[string]any{"enum": []any{true, false, "yes", "no"}}
	case Choice:
		s = map[string]any{"enum": choices(f.Choices)}
	case List:
		s = map[string]any{"type": "array", "items": f.Of.Schema()}
	case Mapping:
		s = Object(f.Fields)
	case Dict:
		properties, required := map[string]any{}, []string{}
		for _, k := range f.Keys {
			properties[k.Name] = map[string]any{"type": "string", "description": k.Doc}
			if !k.Optional {
				required = append(required, k.Name)
			}
		}
		s = map[string]any{"type": "object", "properties": properties, "additionalProperties": len(f.Keys) == 0,
			"required": required}
	case Frame:
		s = map[string]any{"type": []string{"string", "number", "boolean", "object", "null"}}
	case Any:
		s = map[string]any{}
	case Ohms, Volts, Text:
		s = map[string]any{"type": []string{"string", "number", "boolean"}}
	default:
		s = map[string]any{"type": []string{"string", "number"}}
		if p := patterns[f.Kind]; p != "" {
			s["pattern"] = p
		}
	}
	if f.Doc != "" {
		s["description"] = f.Doc
	}
	if f.Default != "" {
		s["default"] = f.Default
	}
	return s
}

// Reference writes fields as rows of a Markdown table.
func Reference(fields []Field) string {
	var b strings.Builder
	b.WriteString("| key | value | default | meaning |\n|---|---|---|---|\n")
	for _, f := range fields {
		value := kindNames[f.Kind]
		if f.Kind == Choice {
			value = "`" + strings.Join(f.Choices, "`, `") + "`"
		}
		if f.Kind == List {
			value = "a list: " + kindNames[f.Of.Kind]
		}
		initial := "—"
		if f.Default != "" {
			initial = "`" + f.Default + "`"
		}
		if f.Required {
			initial = "required"
		}
		b.WriteString("| `" + f.Name + "` | " + value + " | " + initial + " | " + strings.ReplaceAll(f.Doc, "|",
			"\\|") + " |\n")
	}
	return b.String()
}

// choices lists words as YAML may give them: one that is a number, as a number too.
func choices(words []string) (out []any) {
	for _, w := range words {
		out = append(out, w)
		if n, err := strconv.Atoi(w); err == nil {
			out = append(out, n)
		}
	}
	return out
}
