package script

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWriteAndRead(t *testing.T) {
	files := map[string]string{"main.py": "import lamp\n", "lamp.py": "ON = 1\n", "a/b.py": ""}
	data, err := Write("main.py", files)
	require.NoError(t, err)
	assert.True(t, Is(data))
	p, err := Read(data)
	require.NoError(t, err)
	assert.Equal(t, files, p.Files)
	assert.Equal(t, []string{"a/b.py", "lamp.py", "main.py"}, p.Names())
	name, line := p.Line(1<<lineBits | 7)
	assert.Equal(t, "lamp.py", name)
	assert.Equal(t, 7, line)
	_, line = p.Line(3<<lineBits | 1)
	assert.Zero(t, line)
}

func TestDamaged(t *testing.T) {
	for text, want := range map[string]string{
		`{"hemble-script":1,`: "the script is damaged",
		`{"hemble-script":2,"main":"a.py","files":{"a.py":""}}`:                    "version 2; version 1 is known here",
		`{"hemble-script":1,"main":"b.py","files":{"a.py":""}}`:                    `begins with "b.py", which is none of its files`,
		`{"hemble-script":1,"main":"a.py","files":{"a.py":"","../b.py":""}}`:       `"../b.py" is no name`,
		`{"hemble-script":1,"main":"a.py","files":{"a.py":"","/etc/passwd":""}}`:   `"/etc/passwd" is no name`,
		`{"hemble-script":1,"main":"a.py","files":{"a.py":"","b\\..\\c.py":"\n"}}`: "is no name",
	} {
		_, err := Read([]byte(text))
		assert.ErrorContains(t, err, want)
	}
	big, err := Write("a.py", map[string]string{"a.py": strings.Repeat("#", maxBytes+1)})
	require.NoError(t, err)
	_, err = Read(big)
	assert.ErrorContains(t, err, "more than")
}

func TestTokens(t *testing.T) {
	words := func(name, text string) (out []string) {
		for _, w := range Tokens(name, text) {
			out = append(out, w.Word)
		}
		return out
	}
	assert.Equal(t, []string{"x", "=", "y", "//", "2", "**", ".5", "if", "b", "!=", `rb'\'#'`, "else", "0x1F"},
		words("a.py", "x = y // 2**.5 if b != rb'\\'#' else 0x1F # z"))
	assert.Equal(t, []string{"x", "=", "y", ";", "a", "<<=", "1e-3", "+", `'"'`, "->", "f"},
		words("a.c", "x = y; // 2\na <<= 1e-3/* \n */ + '\"'->f"))
	list := Tokens("a.py", "'''a\nb''' c\n\n d")
	assert.Equal(t, Token{Text, "'''a\nb'''", 0, 1}, list[0])
	assert.Equal(t, Token{Name, "c", 10, 2}, list[1])
	assert.Equal(t, Token{Name, "d", 14, 4}, list[2])
}

// Tokens are parts of the text, in order, and what is between them are spaces and comments.
func FuzzTokens(f *testing.F) {
	f.Add("x = [1, 2.5e-3] # no\ny='''\n''' if a<=b else f\"{x}\"\n", true)
	f.Add("/* */ x->y = '\\''; // no\n#define A 0x1F", false)
	f.Fuzz(func(t *testing.T, text string, python bool) {
		name := map[bool]string{true: "a.py", false: "a.c"}[python]
		at := 0
		for _, w := range Tokens(name, text) {
			require.NotEmpty(t, w.Word)
			require.GreaterOrEqual(t, w.At, at)
			require.Equal(t, w.Word, text[w.At:w.Behind()])
			require.Equal(t, strings.Count(text[:w.At], "\n")+1, w.Line)
			require.Empty(t, Tokens(name, text[at:w.At]), "nothing is left out")
			at = w.Behind()
		}
	})
}

// Whatever is read can be written, and is read as the same again.
func FuzzScript(f *testing.F) {
	data, err := Write("main.py", map[string]string{"main.py": "print(1)\n", "x/y.py": "\x00"})
	require.NoError(f, err)
	f.Add(data)
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := Read(data)
		if err != nil {
			return
		}
		again, err := Write(p.Main, p.Files)
		require.NoError(t, err)
		q, err := Read(again)
		require.NoError(t, err)
		assert.Equal(t, p.Main, q.Main)
		assert.Equal(t, p.Files, q.Files)
	})
}
