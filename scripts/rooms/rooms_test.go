package main

import (
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func inRoot(t *testing.T) []pkg {
	t.Chdir("../..")
	all, err := packages()
	require.NoError(t, err)
	return all
}

// Imports point one way.
func TestImportsPointDown(t *testing.T) {
	for _, p := range inRoot(t) {
		from := roomOf(p.ImportPath)
		if !assert.GreaterOrEqual(t, from, 0, "%s is in no room", p.ImportPath) {
			continue
		}
		for _, i := range p.Imports {
			if strings.HasPrefix(i, module) {
				assert.LessOrEqual(t, roomOf(i), from, "%s imports %s, which is above it", p.ImportPath, i)
			}
		}
	}
}

// What the core imports, and all that follows from it, is computation.
func TestCoreIsOnlyComputation(t *testing.T) {
	inRoot(t)
	deps := func(what string) []string {
		out, err := exec.Command("go", "list", "-deps", what).Output()
		require.NoError(t, err)
		return strings.Fields(string(out))
	}
	for _, name := range deps("./core/...") {
		for _, f := range foreign {
			assert.False(t, name == f || strings.HasPrefix(name, f+"/"), "the core depends on %s", name)
		}
	}
	assert.NotContains(t, deps("./core/judge"), module+"core/bench", "judging does not run benches")
	assert.NotContains(t, strings.Join(deps("./client"), " "), module+"service")
}

func TestGraphIsCurrent(t *testing.T) {
	all := inRoot(t)
	text, err := os.ReadFile(page)
	require.NoError(t, err)
	now, err := write(string(text), all)
	require.NoError(t, err)
	assert.True(t, now == string(text), "%s is not current: make docs", page)
}

// The walks of docs/architecture.md, each by the latest that went it: where the sources speak of it by name. Tests,
// what is generated, and the demo course are left out.
func TestWalks(t *testing.T) {
	inRoot(t)
	text, err := os.ReadFile(page)
	require.NoError(t, err)
	for name, w := range map[string]struct {
		pattern string
		files   []string
		outside string // that the words of the pattern mean something else in
	}{
		"a display chip": {`max7219|MAX7219`, []string{"core/catalogue/catalogue.go", "core/part/max7219/max7219.go",
			"core/part/max7219/signs.go"}, ":!docs"},
		"a display type": {`"bar"|display/bar"`, []string{"core/display/bar/bar.go", "core/part/bar/bar.go"}, ":!docs"},
		"a chip": {`[aA][tT]mega2560`, []string{"core/machine/avr/atmega2560.go", "core/machine/avr/board.go"},
			":!docs"},
		"an expectation": {`"glows"|glows\{`, []string{"core/judge/glows.go"}, ":!docs"},
		"a cause":        {`Code: +"glyph"`, []string{"core/display/characters/glyph.go"}, ":!docs"},
		"a call, a page": {`wire\.Place\b|\) place\(r \*web\.Request|'/place'|type Place struct|Schemas\['Place'\]`,
			[]string{"client/submissions.go", "console/src/types.ts", "console/src/ui/Place.tsx",
				"service/grading/routes.go", "service/grading/turn.go", "wire/wire.go"}, ":!core"},
	} {
		t.Run(name, func(t *testing.T) {
			found, err := exec.Command("git", "grep", "-lE", w.pattern, "--", ":(glob)**/*.go", ":(glob)**/*.ts",
				":(glob)**/*.tsx",
				":!*_test.go", ":!*.test.ts*", ":!console/src/api-types.ts", ":!demo", ":!scripts", w.outside).Output()
			require.NoError(t, err)
			assert.Equal(t, w.files, strings.Fields(string(found)))
			for _, f := range w.files {
				assert.Contains(t, string(text), "`"+f+"`", "the walk tells of each file")
			}
		})
	}
}
