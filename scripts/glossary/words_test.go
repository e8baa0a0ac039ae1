package main

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const root = "../.."

// retired are the words that no text may use, with the word to use instead.
func retired() map[*regexp.Regexp]string {
	out := map[*regexp.Regexp]string{}
	for _, t := range glossary {
		for _, w := range t.terms {
			for _, r := range w.retired {
				out[regexp.MustCompile(r)] = w.word
			}
		}
	}
	return out
}

// wrong lists where a text uses a retired word.
func wrong(where, text string) (out []string) {
	for i, line := range strings.Split(strings.ToLower(text), "\n") {
		for r, word := range retired() {
			if found := r.FindString(line); found != "" {
				out = append(out, fmt.Sprintf("%s:%d: %q is retired: %s", where, i+1, found, word))
			}
		}
	}
	return out
}

func TestWrong(t *testing.T) {
	assert.Empty(t, wrong("a", "A state, submitted; on hand in the room was nothing."[:20]))
	assert.Equal(t, []string{`a:2: "sights" is retired: state`}, wrong("a", "ok\nThe Sights of it"))
	for _, topic := range glossary {
		for _, w := range topic.terms {
			assert.Empty(t, wrong(w.word, w.meaning), "the glossary keeps to its own words")
		}
	}
}

// The glossary is what is made of its terms.
func TestGlossaryIsCurrent(t *testing.T) {
	text, err := os.ReadFile(filepath.Join(root, "docs/glossary.md"))
	require.NoError(t, err)
	assert.True(t, document() == string(text), "docs/glossary.md is not current: make docs")
}

// Documents use no retired word. The changelog tells of the past.
func TestDocuments(t *testing.T) {
	names, err := filepath.Glob(filepath.Join(root, "docs/*.md"))
	require.NoError(t, err)
	for _, name := range append(names, filepath.Join(root, "README.md"), filepath.Join(root, "SECURITY.md"),
		filepath.Join(root, "CONTRIBUTING.md")) {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		assert.Empty(t, wrong(strings.TrimPrefix(name, root+"/"), string(text)))
	}
}

// The help of every command uses no retired word.
func TestHelp(t *testing.T) {
	help := func(args ...string) string {
		cmd := exec.Command("go", append([]string{"run", "./cmd/hemble"}, args...)...)
		cmd.Dir = root
		out, err := cmd.Output()
		require.NoError(t, err)
		return string(out)
	}
	all := help("help")
	assert.Empty(t, wrong("hemble help", all))
	assert.Contains(t, all, "mark-again")
}

// Errors and other texts of the program, wherever they are written, use no retired word.
func TestTexts(t *testing.T) {
	files := token.NewFileSet()
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		name := strings.TrimPrefix(path, root+"/")
		switch {
		case err != nil:
			return err
		case d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && d.Name() != ".." ||
			name == "scripts"):
			return filepath.SkipDir
		case !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go"):
			return nil
		}
		file, err := parser.ParseFile(files, path, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
				text, err := strconv.Unquote(lit.Value)
				require.NoError(t, err)
				if strings.Contains(text, " ") { // one word alone is an identifier of some kind
					assert.Empty(t, wrong(files.Position(lit.Pos()).String(), text))
				}
			}
			return true
		})
		return nil
	})
	require.NoError(t, err)
}

// The pages of the console use no retired word. Names in their sources are not looked at, only what is between tags and
// quotes.
func TestConsole(t *testing.T) {
	shown := regexp.MustCompile(`>([^<>{}]+)<|"([^"\n]* [^"\n]*)"|'([^'\n]* [^'\n]*)'|` + "`([^`]* [^`]*)`")
	names, err := filepath.Glob(filepath.Join(root, "console/src/*/*.ts*"))
	require.NoError(t, err)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		for _, line := range bytes.Split(text, []byte("\n")) {
			if bytes.HasPrefix(bytes.TrimSpace(line), []byte("//")) || bytes.HasPrefix(line, []byte("import")) {
				continue
			}
			for _, m := range shown.FindAllString(string(line), -1) {
				assert.Empty(t, wrong(strings.TrimPrefix(name, root+"/"), m))
			}
		}
	}
}
