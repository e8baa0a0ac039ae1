package exercise

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"go.yaml.in/yaml/v3"

	"hemble/core/spec"
)

func TestCompute(t *testing.T) {
	for text, want := range map[string]int64{
		"3": 3, "3+8": 11, " 3 + 8 * 2 ": 19, "(3+8)*2": 22, "7/2": 3, "-7/2": -4, "7%4": 3, "-1 % 60": 59,
		"3 × 4 ÷ 2 − 1": 5, "10-2-3": 5, "2*(3+(4-1))": 12, "--3": 3,
	} {
		v, err := compute(text)
		assert.NoError(t, err, text)
		assert.Equal(t, want, v, text)
	}
	for text, want := range map[string]string{
		"": "a number is missing", "3+": "a number is missing", "3 4": `got "4"`,
		"a+1": `expected a whole number, got "a+1"`, "1/0": "divides by 0", "1 % 0": "divides by 0", "(1": "not closed",
		"99999999999999999999": "too large", "1099511627776 * 1099511627776": "too large", "3.5": `got ".5"`,
	} {
		_, err := compute(text)
		assert.ErrorContains(t, err, want, text)
	}
}

func FuzzCompute(f *testing.F) {
	f.Add("3+8*(2-1)%4/5")
	f.Fuzz(func(t *testing.T, text string) {
		v, err := compute(text)
		if err != nil {
			return
		}
		again, err := compute("(" + text + ") + 0")
		assert.NoError(t, err)
		assert.Equal(t, v, again, "brackets and a nothing change nothing")
	})
}

// Values reach limits and texts, computed where something is to be computed.
func TestComputedValues(t *testing.T) {
	for text, want := range map[string]string{
		`"${start}+8"`: "11", `"${start + 8}"`: "11", `"${start}"`: "3",
		`"from ${start} to ${start * 2 + 1}"`: "from 3 to 7", `"${start}:${last}"`: "3:12", `"${last} % 5"`: "2",
		`"${word}"`:   "OPEn",
		`"-${start}"`: "-3", `"${start}s"`: "3s", `"${start * 100}ms"`: "300ms", `"12-3"`: "12-3",
		`"(${last} - ${start}) / 2"`: "4",
	} {
		var doc yaml.Node
		assert.NoError(t, yaml.Unmarshal([]byte(text), &doc))
		ps := &spec.Problems{}
		substitute(&doc, map[string]string{"start": "3", "last": "12", "word": "OPEn"}, ps)
		assert.Empty(t, ps.List, text)
		assert.Equal(t, want, doc.Content[0].Value, text)
	}
	for text, want := range map[string]string{
		`"${strat}+8"`:      `nothing called "strat" varies; did you mean "start"?`,
		`"${start + lats}"`: `did you mean "last"?`, `"${word} + 1"`: "",
		`"${word + 1}"`: `expected a whole number`, `"${start}/0"`: "divides by 0",
	} {
		var doc yaml.Node
		assert.NoError(t, yaml.Unmarshal([]byte(text), &doc))
		ps := &spec.Problems{}
		substitute(&doc, map[string]string{"start": "3", "last": "12", "word": "OPEn"}, ps)
		if want == "" {
			assert.Empty(t, ps.List, "a text: %s", text)
			continue
		}
		if assert.Len(t, ps.List, 1, text) {
			assert.Contains(t, ps.List[0].Error(), want)
		}
	}
}
