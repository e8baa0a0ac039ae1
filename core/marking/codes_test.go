package marking_test

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

	_ "hemble/core/catalogue"
	"hemble/core/finding"
)

// Every note that the source of the core and of scripts' surroundings makes is in the catalogue, and none is left over.
func TestCodes(t *testing.T) {
	note := regexp.MustCompile(`(?:(?:[nN]ote|[nN]otes\.Add)\((?:fmt\.Sprintf\()?|(?:Finding|Note)\{Code: )"([a-z][a-z0-9-]*)`)
	found := []string{}
	for _, dir := range []string{"../part", "../bench", "../machine", ".", "../../interpreter/python"} {
		require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			source := strings.HasSuffix(path, ".go") || strings.HasSuffix(path, ".py")
			if err != nil || d.IsDir() || !source || strings.HasSuffix(path, "_test.go") {
				return err
			}
			text, err := os.ReadFile(path)
			for _, m := range note.FindAllStringSubmatch(string(text), -1) {
				code := m[1]
				for _, of := range []string{"analog", "contention", "current", "floating", "inert", "level", "nobody",
					"numbered", "pin-says", "read-modify-write", "unmodelled", "unused", "volts"} {
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
	declared := []string{}
	for _, e := range finding.All() {
		if e.Source == finding.Note {
			declared = append(declared, string(e.Code))
		}
	}
	assert.Equal(t, declared, slices.Compact(found))
}
