package spec

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
)

var all = []Field{
	{Name: "text", Kind: Text, Doc: "some text"},
	{Name: "name", Kind: Name},
	{Name: "int", Kind: Int, Min: 1, Max: 9, Default: "3"},
	{Name: "decimal", Kind: Decimal},
	{Name: "duration", Kind: Duration, Default: "5ms"},
	{Name: "rate", Kind: Rate},
	{Name: "ohms", Kind: Ohms},
	{Name: "volts", Kind: Volts},
	{Name: "percent", Kind: Percent},
	{Name: "bool", Kind: Bool},
	{Name: "choice", Kind: Choice, Choices: []string{"anode", "cathode", "1"}},
	{Name: "list", Kind: List, Of: &Field{Name: "item", Kind: Int}},
	{Name: "mapping", Kind: Mapping, Fields: []Field{{Name: "inner", Kind: Text, Required: true, Doc: "needed"}}},
	{Name: "dict", Kind: Dict, Keys: []Key{{Name: "a"}, {Name: "b", Optional: true}}},
	{Name: "any", Kind: Any},
	{Name: "frame", Kind: Frame},
}

func decodeText(t *testing.T, text string) (Values, []Problem) {
	var doc yaml.Node
	require.NoError(t, yaml.Unmarshal([]byte(text), &doc))
	ps := &Problems{File: "x"}
	v := Decode(doc.Content[0], all, ps)
	return v, ps.Sorted()
}

func TestDecode(t *testing.T) {
	v, problems := decodeText(t, `
text: 07
name: a-name
decimal: 2.5
rate: 16MHz
ohms: 4.7k
volts: 3.3V
percent: 2.5%
bool: yes
choice: cathode
list: [1, 2]
mapping: {inner: no}
dict: {a: PC0, b: GND}
frame: 1:10
`)
	require.Empty(t, problems)
	assert.Equal(t, "07", v.Text("text"), "as written")
	assert.Equal(t, int64(3), v.Int("int"), "the default")
	assert.Equal(t, 5*clock.Millisecond, v.Time("duration"))
	assert.Equal(t, "5/2", v.Get("decimal").Number.RatString())
	assert.Equal(t, clock.Rate(16_000_000), v.Get("rate").Rate)
	assert.Equal(t, int64(4700), v.Int("ohms"))
	assert.Equal(t, int64(3_300_000), v.Int("volts"))
	assert.Equal(t, "1/40", v.Get("percent").Number.RatString())
	assert.True(t, v.Bool("bool"))
	assert.Equal(t, int64(2), v.Get("list").List[1].Int)
	assert.Equal(t, "no", v.Get("mapping").Map.Text("inner"), "no is text here")
	assert.Equal(t, []string{"PC0", "GND"}, []string{v.Get("dict").Dict[0].Value, v.Get("dict").Dict[1].Value})
	assert.Equal(t, "1:10", v.Text("frame"))
	assert.False(t, v.Has("any"))
	assert.Equal(t, Pos{Line: 2, Col: 7}, v.At("text"))
	assert.Equal(t, v.Pos, v.At("any"), "what is absent is where its mapping is")
}

func TestDecodeProblems(t *testing.T) {
	for text, want := range map[string]string{
		"name: My Name":      `x:1:7: name: expected a name (lower-case letters, digits and hyphens, starting with a letter), got "My Name"`,
		"int: ten":           `x:1:6: int: expected a whole number, got "ten"`,
		"int: 12":            `int: expected 1 to 9, got 12`,
		"decimal: 1/3":       `expected a number, got "1/3"`,
		"decimal: -1":        `decimal cannot be negative`,
		"duration: 5":        `"5" is not a time`,
		"rate: 16":           `"16" is not a frequency`,
		"ohms: many":         `such as 270 or 4.7k, got "many"`,
		"ohms: 0.5":          `"0.5" is finer than the model resolves`,
		"volts: -5V":         `expected a voltage`,
		"percent: 5":         `expected a percentage, such as 5%, got "5"`,
		"percent: 120%":      `expected 0% to 100%`,
		"bool: maybe":        `expected yes or no, got "maybe"`,
		"choice: annode":     `choice: got "annode"; did you mean "anode"?`,
		"choice: green":      `expected anode, cathode, 1`,
		"list: 1":            `list: expected a list, such as [1]`,
		"list: [a]":          `expected a whole number, got "a"`,
		"mapping: {}":        `inner is missing: needed`,
		"mapping: 5":         `got "5": write {inner: 5}`,
		"dict: {a: [1]}":     `a: expected a word, got a list`,
		"dict: {a: 1, a: 2}": `"a" appears twice`,
		"dict: [a]":          `dict: expected a mapping, got a list`,
		"text: [a]":          `text: expected text, got a list`,
		"frame: [a]":         `expected one frame, got a list`,
		"tetx: a":            `unknown key "tetx"; did you mean "text"?`,
		"text: a\ntext: b":   `x:2:1: "text" appears twice`,
		"- a":                `got a list`,
	} {
		_, problems := decodeText(t, text)
		if assert.NotEmpty(t, problems, text) {
			assert.Contains(t, problems[0].Error(), want, text)
		}
	}
}

func TestProblemsAreSorted(t *testing.T) {
	ps := &Problems{File: "f"}
	ps.Warn(Pos{Line: 3, Col: 1}, "a warning")
	ps.Add(Pos{Line: 1, Col: 5}, "later in the line")
	ps.Add(Pos{Line: 1, Col: 2}, "first")
	var texts []string
	for _, p := range ps.Sorted() {
		texts = append(texts, p.Error())
	}
	assert.Equal(t, []string{"f:1:2: first", "f:1:5: later in the line", "f:3:1: warning: a warning"}, texts)
	assert.True(t, ps.Failed())
	assert.False(t, (&Problems{List: []Problem{{Warning: true}}}).Failed())
}

func TestNearest(t *testing.T) {
	words := []string{"shows", "reads", "steady"}
	for word, want := range map[string]string{"show": `; did you mean "shows"?`, "raeds": `; did you mean "reads"?`,
		"STEADY": `; did you mean "steady"?`, "xyzzyx": "; expected shows, reads, steady"} {
		assert.Equal(t, want, Nearest(word, words))
	}
	assert.Equal(t, "", Nearest("x", nil))
}

func TestSchemaAndReference(t *testing.T) {
	text, err := json.Marshal(Object(all))
	require.NoError(t, err)
	for _, want := range []string{`"additionalProperties":false`, `"enum":["anode","cathode","1",1]`, `"maximum":9`,
		`"default":"5ms"`, `"items":{"type":"integer"}`, `"required":["inner"]`, `"required":["a"]`,
		`"description":"some text"`} {
		assert.Contains(t, string(text), want)
	}
	table := Reference(all)
	assert.Contains(t, table, "| `duration` | a time such as 250ms | `5ms` |")
	assert.Contains(t, table, "| `choice` | `anode`, `cathode`, `1` | — |")
	assert.Contains(t, table, "| `list` | a list: a whole number | — |")
	v, problems := decodeText(t, "{}")
	assert.Empty(t, problems)
	assert.True(t, v.Has("int"), "nothing written: the defaults stand")
	assert.False(t, v.Has("text"))
}
