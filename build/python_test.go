package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine/scripted"
	packed "hemble/core/script"
)

// A script is packed as it is, or told with the place where Python cannot read it.
func TestPython(t *testing.T) {
	b, err := New(Config{Cache: t.TempDir()})
	require.NoError(t, err)
	for _, c := range []struct {
		name  string
		files []string
		say   string
	}{
		{"one file", []string{"lamp.py", "print(1)\n"}, ""},
		{"main and others", []string{"main.py", "import a.b\n", "a/b.py", "", "a/__init__.py", ""}, ""},
		{"which is started", []string{"a.py", "", "b.py", ""}, "there are several files, and none is called main.py"},
		{"no colon", []string{"main.py", "x = 1\nwhile True\n    pass\n"}, "main.py:2:11: error: expected ':'"},
		{"indentation", []string{"main.py", "def f():\nreturn 1\n"}, "main.py:2:1: error: expected an indented block"},
		{"another file", []string{"main.py", "import b\n", "b.py", "print 'x'\n"}, "b.py:1:1: error: Missing parentheses"},
		{"no text", []string{"main.py", "x = 1\x00\n"}, "main.py:"},
		{"C", []string{"main.c", "int main(void) { return 0; }\n"}, "only Python (.py) is taken"},
	} {
		t.Run(c.name, func(t *testing.T) {
			chip := scripted.Linux
			if c.name == "C" {
				chip = scripted.Micro
			}
			r, err := b.Build(t.Context(), text(t, c.files...), Target{Chip: chip})
			require.NoError(t, err)
			if c.say != "" {
				require.True(t, r.Failed())
				assert.Contains(t, said(r), c.say)
				return
			}
			require.False(t, r.Failed(), said(r))
			p, err := packed.Read(r.ELF)
			require.NoError(t, err)
			assert.Len(t, p.Files, len(c.files)/2)
		})
	}
}
