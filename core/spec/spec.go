// Package spec has settings declared as data. A list of Fields says what a mapping in an exercise file can contain;
// decoding, checking with positions, the JSON Schema and the reference documentation are derived from it.
package spec

// Kind is what a field's value is.
type Kind uint8

// The kinds of value.
const (
	Text     Kind = iota // any scalar, as written
	Name                 // a word of lower-case letters, digits and hyphens
	Int                  // a whole number, between Min and Max where they differ
	Decimal              // a number with at most a few decimals, kept exactly as a fraction
	Duration             // "250ms"
	Rate                 // "16MHz"
	Ohms                 // "270", "4.7k"
	Volts                // "5V"
	Percent              // "5%"
	Bool                 // yes or no, true or false
	Choice               // one of Choices
	Frame                // the text of a frame, or a mapping such as {segments: [a, d]}
	List                 // a sequence of Of
	Mapping              // a mapping with the fields of Fields
	Dict                 // a mapping from free names to scalars
	Any                  // left to the caller
)

var kindNames = map[Kind]string{
	Text: "text", Name: "a name", Int: "a whole number", Decimal: "a number", Duration: "a time such as 250ms",
	Rate: "a frequency such as 16MHz",
	Ohms: "a resistance such as 270 or 4.7k", Volts: "a voltage such as 5V", Percent: "a percentage such as 5%",
	Bool:   "yes or no",
	Choice: "one of a few words", Frame: "a frame", List: "a list", Mapping: "a mapping", Dict: "a mapping of names",
	Any: "a value",
}

// Field is one key of a mapping.
type Field struct {
	Name     string
	Was      string // what it was called before, which is still read, with a warning
	Kind     Kind
	Doc      string
	Required bool
	Default  string // as it would be written; empty for none
	Choices  []string
	Min, Max int64
	Of       *Field  // of a List
	Fields   []Field // of a Mapping
	Keys     []Key   // of a Dict whose keys are known
}

// Key is a known key of a Dict.
type Key struct {
	Name, Doc string
	Optional  bool
}

// Find gives a field by name.
func Find(fields []Field, name string) *Field {
	for i := range fields {
		if fields[i].Name == name || fields[i].Was == name && name != "" {
			return &fields[i]
		}
	}
	return nil
}

// Names lists the names of fields.
func Names(fields []Field) []string {
	var out []string
	for _, f := range fields {
		out = append(out, f.Name)
	}
	return out
}
