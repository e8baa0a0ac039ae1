package display_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/display"
	"hemble/core/display/lines"
	"hemble/core/spec"
)

// What a pattern gives as an example it matches, whatever was seen.
func FuzzExample(f *testing.F) {
	for _, pattern := range []string{`^1\.[4-6]$`, `(on|off) *`, `a$b`, `(?i)ok`, `\bT=\d!?`, `(a{1000}){1000}`, `[^a]`, `(((x?)?)?)*`,
		`\pL`, `|`} {
		f.Add(pattern, "T=12!")
	}
	track := &display.Track{Display: "log", Geometry: display.Geometry{TypeName: lines.Form}}
	f.Fuzz(func(t *testing.T, pattern, seen string) {
		var ps spec.Problems
		named := display.Named{Name: "log", Geometry: track.Geometry}
		p := display.ReadPattern(spec.Value{Text: pattern}, -1, named, &ps)
		if p == nil {
			return
		}
		if example := p.Example(track, display.State{Line: seen}); example != nil {
			ok, _ := p.Match(track, *example)
			assert.True(t, ok, "%q is no %q", example.Line, pattern)
		}
	})
}
