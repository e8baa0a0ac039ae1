package source

import (
	"bytes"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const running = `int left = 60, second; char running, rows;
char pressed(char key);
void show(void) { if (rows == 4) PORTB = 1; else PORTB = 0; }
void loop(void)
{
	if (pressed(3)) {
		left += 5;
	}
	if (running && left > 0 && pressed(4))
		running = 0;
	else if (!running) second = 7;
	rows++;
	left--;
	{ char own = 3; if (own > 2) own = left; }
}
`

// A condition that stands elsewhere may be missing beside another one, or before a statement.
func TestUnguarded(t *testing.T) {
	all := missing(t, running)
	for _, want := range []string{"6: && running", "6: && !running", "6: && rows != 4", "6: && rows == 4",
		"9: && rows != 4", "12: if (running)", "12: if (rows != 4)", "13: if (left > 0)", "13: if (left <= 0)"} {
		assert.Contains(t, all, want)
	}
	for _, m := range all {
		assert.NotContains(t, m, "pressed", "it may change something")
		assert.NotContains(t, m, "&& own", "nobody knows it elsewhere")
		assert.NotEqual(t, "9: && !running", m, "the condition asks for that already")
		assert.NotContains(t, m, "3: && running", "the function has nothing to do with it")
	}
	assert.Equal(t, []string{"!(a && b)", "!x", "a + 1 != c", "x"}, reversed("a && b", "x", "a + 1 == c", "!x"))
	assert.Equal(t, []string{"f[n < 2] <= 3"}, reversed("f[n < 2] > 3"))
}

// What a variable is told apart by elsewhere may be missing in a condition.
func TestUnguardedCases(t *testing.T) {
	all := missing(t, "char mode, t;\nvoid f(void)\n{\n\tif (t > 3) {\n\t\tg();\n\t}\n\tswitch (mode) { case 1: g(); break; case TWO: g(); }\n}\n")
	for _, want := range []string{"4: && mode == 1", "4: && mode != 1", "4: && mode == TWO"} {
		assert.Contains(t, all, want)
	}
}

// reversed are the reverses of conditions.
func reversed(texts ...string) (out []string) {
	for _, text := range texts {
		p := &Program{Files: map[string]string{"a.c": text}}
		l := p.listers()[0]
		out = append(out, l.reverse(part{from: 0, to: len(l.tokens) - 1}))
	}
	return out
}

// With all that may be missing planted in it, a program is one that a compiler takes.
func TestPlantedIsBuilt(t *testing.T) {
	for name, text := range map[string]string{
		"running":  "extern char PORTB;\n" + running,
		"counting": "typedef unsigned char uint8_t; extern char more, less; unsigned long millis(void);\n" + counting,
		"nested": `int a, b, c; void f(void);
void g(int n) {
	if (a) if (b) c = 1; else c = 2; else if (a > b) { c++; f(); } else c--;
	do { a--; if (a == 3) break; } while (a > 0);
	for (int i = 0; i < 3; i++) b += i;
	switch (n) { case 1: c = 3; case 2: f(); break; default: if (b) {c = 0;c++;} }
	while (b) b--;
	a = b ? c : n; if ((a && b) || !c) { f(); return; }
}
`} {
		p := &Program{Files: map[string]string{"a.c": text}}
		l := p.listers()[0]
		l.bodies = l.takeApart()
		plants := l.forgotten()
		require.NotEmpty(t, plants, name)
		built := (&builds{program: p}).bed(l, plants[:min(len(plants), most)], 0).text()
		gcc := exec.CommandContext(t.Context(), "gcc", "-x", "c", "-fsyntax-only", "-")
		gcc.Stdin = strings.NewReader(built)
		var said bytes.Buffer
		gcc.Stderr = &said
		assert.NoError(t, gcc.Run(), "%s\n%s\n%s", name, said.String(), built)
	}
}
