package author

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
)

// Whatever a file looks like, the places of its nodes are within it, and what stands there reads as the node does.
func FuzzSource(f *testing.F) {
	course, err := filepath.Glob("../../demo/course/*/exercise.yaml")
	require.NoError(f, err)
	for _, path := range course {
		text, err := os.ReadFile(path)
		require.NoError(f, err)
		f.Add(text)
	}
	f.Add([]byte("a: {b: ['x''y', \"\\\"\"], c: &d e} # f\ng:\n  - h: |\n      i\n    é: \"ü\" # ä\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		s, err := readSource(text)
		if err != nil {
			return
		}
		var walk func(*yaml.Node)
		walk = func(n *yaml.Node) {
			if n.Kind == yaml.ScalarNode || n.Kind == yaml.MappingNode || n.Kind == yaml.SequenceNode {
				if from, to, err := s.extent(n); err == nil && (from < 0 || to < from || to > len(text)) {
					t.Fatalf("line %d, column %d: %d to %d of %d", n.Line, n.Column, from, to, len(text))
				}
			}
			for _, c := range n.Content {
				walk(c)
			}
		}
		walk(s.doc)
	})
}
