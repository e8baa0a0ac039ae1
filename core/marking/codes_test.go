package marking

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every note that the core's source makes is of a family that deductions can name, and no family is left over.
func TestCodes(t *testing.T) {
	note := regexp.MustCompile(`(?:[nN]ote\((?:fmt\.Sprintf\()?|Code: )"([a-z][a-z0-9-]*)`)
	found := []string{}
	for _, dir := range []string{"../part", "../bench", "../machine", "."} {
		require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			text, err := os.ReadFile(path)
			for _, m := range note.FindAllStringSubmatch(string(text), -1) {
				code := m[1]
				for _, of := range []string{"contention", "current", "floating", "inert", "nobody", "unmodelled"} {
					if strings.HasPrefix(code, of+"-") {
						code = of
					}
				}
				found = append(found, code)
			}
			return err
		}))
	}
	slices.Sort(found)
	assert.Equal(t, reported, slices.Compact(found))
}

func TestFamily(t *testing.T) {
	for _, c := range []struct {
		code, of string
		want     bool
	}{
		{"floating-PC0", "floating", true}, {"floating-PC0", "floating-PC0", true}, {"floating-PC0", "float", false},
		{"board lcd-busy", "lcd-busy", true}, {"board lcd-busy", "lcd", true}, {"board lcd-busy", "board lcd-busy", true}, {"board lcd-busy", "busy", false},
		{"unmodelled PRR ADC", "unmodelled", true}, {"time", "time", true}, {"timer", "time", false}, {"current-PD0 to PD4", "current", true},
	} {
		assert.Equal(t, c.want, Family(c.code, c.of), "%s of %s", c.code, c.of)
	}
}
