package exercise_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

func TestRewire(t *testing.T) {
	x, problems := exercise.Read("x",
		[]byte(strings.Replace(good, "common: anode,", "common: anode, student-wiring: yes,", 1)))
	require.Empty(t, problems)
	own, problems := x.Rewire("wiring.yaml", []byte("gauge: {a: PC1, b: PC0, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0}"))
	require.Empty(t, problems)
	gauge := own.Part("gauge")
	assert.Equal(t, "PC1", gauge.Wired[gauge.Kind.Terminal("a")])
	assert.Equal(t, "VCC", gauge.Wired[gauge.Kind.Terminal("common")], "what is not at the chip stays")
	assert.Equal(t, "PC0", x.Part("gauge").Wired[gauge.Kind.Terminal("a")], "the exercise stays as it is")
	assert.NotEqual(t, x.Hash, own.Hash, "runs of another wiring are other runs")

	for text, want := range map[string]string{
		"gauge: {a: PC1, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0}":              `w:1:1: a and b of "gauge" are both at PC1: they can only do the same`,
		"gauge: {a: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0}":                      `pin "b" of "gauge" is not wired: b stays without a connection`,
		"gauge: {a: PD7, b: PC0, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0}":              `PD7 is used twice: by a of "gauge" and by 1 of "raise"`,
		"gauge: {a: PX1, b: PC0, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0}":              `has no pin "PX1"`,
		"gauge: {a: PC1, b: PC0, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0, h: PB1}":      `has no pin "h"`,
		"gauge: {a: PC1, b: PC0, c: PC2, d: PC3, e: PC4, f: PC5, g: PB0, common: PB1}": "its wiring is given by the exercise",
		"raise: {1: PD6}": `the wiring of "raise" is given by the exercise`,
		"guage: {a: PC0}": `did you mean "gauge"?`,
		"gauge: PC0":      "are a mapping",
		"- gauge":         "a wiring is a mapping",
		"gauge: {a: [":    "not YAML",
		"":                "a wiring is a mapping",
	} {
		own, problems := x.Rewire("w", []byte(text))
		assert.Nil(t, own, text)
		if assert.NotEmpty(t, problems, text) {
			all := ""
			for _, p := range problems {
				all += p.Error() + "\n"
			}
			assert.Contains(t, all, want, text)
		}
	}
}
