package source

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// built keeps the texts that a program was built with anew.
type built struct {
	texts []string
	err   error
}

func (b *built) program(text string) *Program {
	return &Program{Files: map[string]string{"gate.c": text, "notes.md": "a number: 7"},
		Build: func(_ context.Context, name, text string) (*firmware.Image, error) {
			b.texts = append(b.texts, text)
			if strings.Contains(text, "unbuildable") {
				return nil, b.err
			}
			return &firmware.Image{Format: name}, nil
		}}
}

// tried are the changes that are tried first, as "line: word > other".
func tried(t *testing.T, text string, h machine.Hints) (out []string) {
	for _, a := range (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, h) {
		if a.Rare <= machine.Likely {
			out = append(out, fmt.Sprintf("%d: %s > %s", a.Line.Line, a.Stands, a.Meant))
		}
	}
	slices.Sort(out)
	return out
}

func TestNumberThatIsShown(t *testing.T) {
	h := machine.Hints{Pairs: [][2]int64{{5, 6}, {4, 7}, {4, 1}}}
	assert.Equal(t, []string{"1: 6 > 0", "1: 6 > 5"}, tried(t, "int left = 6, full = 8, step = 1;", h),
		"1 stands for too much where it is not what differs first")
	assert.Equal(t, []string{"1: 1 > 0"}, tried(t, "int tips = 1;", machine.Hints{Pairs: [][2]int64{{0, 1}}}))
	assert.Equal(t, []string{"1: 6UL > 0UL", "1: 6UL > 5UL"}, tried(t, "long left = 6UL;", h), "as its author wrote it")
	for _, text := range []string{"pinMode(6, OUTPUT);", "x |= 6 << 2;", "x = _BV(6);", "char font[] = {0x06};", "x = 06;",
		"#include <6>\n#if 6\n", `text("6");`, "// 6", "y = x6;", "float y = 6.5;"} {
		assert.Empty(t, tried(t, text, h), text)
	}
	assert.Len(t, tried(t, "#define LEFT 6\n", h), 2)
	assert.Empty(t, tried(t, "while (1) ;", machine.Hints{Pairs: [][2]int64{{0, 1}}}))
}

func TestTimes(t *testing.T) {
	h := machine.Hints{Ratios: [][2]int64{{3000, 2000}}, Timing: true}
	assert.Equal(t, []string{"1: 200 > 300"}, tried(t, "left = 200, step = 3;", h))
	assert.Equal(t, []string{"1: 4 > 6"}, tried(t, "left = 4;", h))
	h.Timing = false
	assert.Empty(t, tried(t, "left = 4;", h), "something else is wrong: it may be a number of things")
}

func TestTypes(t *testing.T) {
	h := machine.Hints{Shifts: []int64{256}}
	assert.Equal(t, []string{"1: int > long", "1: uint8_t > uint16_t"}, tried(t, "uint8_t n; y = (int)x; sizeof(x);", h))
	assert.Empty(t, tried(t, "uint8_t n;", machine.Hints{Shifts: []int64{3}}))
}

func TestTexts(t *testing.T) {
	h := machine.Hints{Texts: [][2]string{{"Pepper: 1", "Tomato: 1"}}}
	text := `line("Tomato: "); line("Pepper: "); line("Leek: ");`
	assert.Equal(t, []string{"1: Tomato:  > Pepper: "}, tried(t, text, h))
	h.Texts = append(h.Texts, [2]string{"Tomato: 2", "Pepper: 2"})
	assert.Equal(t, []string{"1: Pepper:  > Tomato: ", "1: Tomato:  > Pepper: ",
		"1: Tomato: … Pepper: > Pepper: … Tomato:"}, tried(t, text, h))
	assert.Empty(t, tried(t, text, machine.Hints{Texts: [][2]string{{"Tomato: 2", "Tomato: 1"}}}))
}

func TestNumbersOfTheTask(t *testing.T) {
	h := machine.Hints{Told: []int64{30, 70, 5}}
	assert.Equal(t, []string{"1: 40 > 70"}, tried(t, "if (m < 30) dry(); else if (m < 40) good(); else if (m == 5) x();", h))
	assert.Empty(t, tried(t, "if (m < 29 || m > 69 || m == 5) x(); else if (m < 40) y();", h), "all are there")
	assert.Equal(t, []string{"1: 2000 > 5000"}, tried(t, "_delay_ms(2000); x(30, 70);", h), "in another unit")
}

// others are those that come after the changes of the compiled program.
func others(t *testing.T, text string) (out []string) {
	b := &built{}
	im := &firmware.Image{}
	for _, a := range b.program(text).Alterations(t.Context(), im, machine.Hints{}) {
		if a.Slip == machine.Missing {
			continue
		}
		require.Greater(t, a.Rare, machine.Likely)
		require.Equal(t, "gate.c", a.Change(im).Format)
		out = append(out, b.texts[len(b.texts)-1])
	}
	return out
}

func TestOtherChanges(t *testing.T) {
	assert.ElementsMatch(t, []string{"PORTD = 8;", "PORTD |= 9;", "PORTD |= 7;"}, others(t, "PORTD |= 8;"))
	for text, rare := range map[string]int{"PORTD |= _BV(3);": machine.Seldom, "PORTD |= (1 << 3);": machine.Seldom,
		"PORTD |= x << 3 | y;": 0, "PORTD |= lamps;": 0} {
		for _, a := range (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, machine.Hints{}) {
			if a.Stands == "|=" {
				assert.Equal(t, rare, a.Rare, text)
			}
		}
	}
	assert.Contains(t, others(t, "send(s % 10);"), "send(s / 10);")
	assert.Contains(t, others(t, "while (up) on = true;"), "while (up) on = false;")
	assert.Contains(t, others(t, "int n[] = {659, 523, 784};"), "int n[] = {523, 659, 784};")
	assert.Contains(t, others(t, `char *s[] = {"mint", "peas", f(1, 2)};`), `char *s[] = {"mint", f(1, 2), "peas"};`)
}

// Of loops a compiler makes others, and of what is compared twice an equation: where it does not, it tells as much.
func TestLimitsOfComparisons(t *testing.T) {
	assert.Contains(t, others(t, "for (i = 7; i > 0; i--) send(i);"), "for (i = 7; i >= 0; i--) send(i);")
	assert.Contains(t, others(t, "if (i > 0) send(i);"), "if (i >= 0) send(i);")
	told := machine.Hints{Compared: map[firmware.Line]bool{{File: "gate.c", Line: 1}: true}}
	for _, a := range (&built{}).program("if (i > 0) send(i);").Alterations(t.Context(), &firmware.Image{}, told) {
		assert.NotEqual(t, machine.Inclusive, a.Slip, "the compiled program tells")
	}
}

func TestExchangedStatements(t *testing.T) {
	for text, want := range map[string][]string{
		"void f(void) { show(n); n++; }":                       {"void f(void) { n++; show(n); }"},
		"void f(void) { show(n); m++; }":                       nil, // they have nothing to do with each other
		"void f(void) { int n = 2; show(n); }":                 nil, // it must be declared first
		"void f(void) { if (a) { show(n); return; } n = 3; }":  {"void f(void) { n = 3; if (a) { show(n); return; } }"},
		"void f(void) { show(n); if (a) n++; else n--; x(); }": {"void f(void) { if (a) n++; else n--; show(n); x(); }"},
		"void f(void) { switch (n) { case 1: n = 2; } }":       nil,
		"struct { int n; } s = { n };":                         nil,
	} {
		var swapped []string
		for _, a := range (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, machine.Hints{}) {
			if a.Slip == machine.Neighbours {
				swapped = append(swapped, a.Stands+" > "+a.Meant)
			}
		}
		assert.Len(t, swapped, len(want), "%s: %v", text, swapped)
		for _, w := range want {
			assert.Contains(t, others(t, text), w)
		}
	}
}

func TestTheSameNumberEverywhere(t *testing.T) {
	text := "#if 16\n#endif\nones = n % 16; tens = n / 16; shift(1 << 4);"
	b := &built{}
	im := &firmware.Image{}
	var said []string
	for _, a := range b.program(text).Alterations(t.Context(), im, machine.Hints{}) {
		if a.Places > 0 {
			a.Change(im)
			said = append(said, fmt.Sprint(a.Places, " ", a.Stands, " > ", a.Meant, " ", a.Line.Line))
		}
	}
	assert.Equal(t, []string{"2 16 > 10 3"}, said)
	assert.Equal(t, "#if 16\n#endif\nones = n % 10; tens = n / 10; shift(1 << 4);", b.texts[len(b.texts)-1])
	assert.Empty(t, tried(t, "x = 16;", machine.Hints{}), "it stands there once")
}

// A loop is not turned round where its condition names the end that it counts towards.
func TestLoopsStay(t *testing.T) {
	for text, want := range map[string]bool{
		"for (i = 0; i < 8; i++) x();":     false,
		"for (i = 7; i >= 0; i--) x();":    false,
		"for (i = f(2, 3); i <= n; i++) ;": false,
		"for (i = 7; i < 8; i--) x();":     true,
		"for (;;) left--;":                 true,
		"while (i < 8) i++;":               true,
	} {
		all := (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, machine.Hints{})
		turned := slices.ContainsFunc(all, func(a machine.Alteration) bool { return a.Stands == "++" || a.Stands == "--" })
		assert.Equal(t, want, turned, text)
	}
}

func TestWhatCannotBeBuilt(t *testing.T) {
	b := &built{err: errors.New("no compiler")}
	im := &firmware.Image{}
	list := b.program("unbuildable = 6;").Alterations(t.Context(), im, machine.Hints{Pairs: [][2]int64{{5, 6}}})
	require.NotEmpty(t, list)
	assert.Same(t, im, list[0].Change(im), "it stays as it is")
	list[0].Change(im)
	assert.Len(t, b.texts, 1, "built once")
	other := &firmware.Image{}
	assert.Same(t, other, list[0].Change(other), "it is of another image")
	assert.Positive(t, list[0].Effort)
	assert.Empty(t, b.program(strings.Repeat("x = 6;", mostText)).Alterations(t.Context(), im, machine.Hints{}))
	sixes := b.program(strings.Repeat("x = 6;", 1000))
	many := sixes.Alterations(t.Context(), im, machine.Hints{Pairs: [][2]int64{{5, 6}}})
	assert.Len(t, many, mostLikely+mostOther)
}

func TestHash(t *testing.T) {
	b := &built{}
	assert.Zero(t, (*Program)(nil).Hash())
	assert.Equal(t, b.program("a").Hash(), b.program("a").Hash())
	assert.NotEqual(t, b.program("a").Hash(), b.program("b").Hash())
}

// Any text has changes of its own words alone, and never too many.
func FuzzAlterations(f *testing.F) {
	f.Add("int n[] = {1, 2}; while (1) x |= 5 << 2; text(\"peas\"); #define X 0x6u\n")
	f.Add("void f(void) { ++5; --(1); }\nvoid g(int) { if (a - b > 3) c |= 1 << 2; switch (c) { case 1: d(); case 2: } }\n")
	f.Add("={{,}}[)]#\"a\\\"b\" 0b 0x 1e+9 'x' uint8_t x %\n#define\n#")
	f.Add("char n, m;\nvoid f(void)\n{\n\tif (n && (m || !n)) {\n\t\tn %= 3;\n\t\tm--;\n\t} else if (m == 2) n = 0;\n\tdo n++; while (m);\n\tif (\n")
	f.Fuzz(func(t *testing.T, text string) {
		b := &built{}
		im := &firmware.Image{}
		list := b.program(text).Alterations(t.Context(), im, machine.Hints{Shifts: []int64{200, -1},
			Ratios: [][2]int64{{3, 2}}, Pairs: [][2]int64{{5, 6}, {0, 1}}, Told: []int64{70, 12},
			Texts: [][2]string{{"peas", "mint"}, {"mint", "peas"}}})
		assert.LessOrEqual(t, len(list), mostLikely+mostOther+mostForgotten)
		for i, a := range list {
			require.GreaterOrEqual(t, a.Line.Line, 1)
			require.LessOrEqual(t, a.Line.Line, strings.Count(text, "\n")+1)
			if a.Slip == machine.Missing && !a.Behind && a.Meant != "else" {
				a.Change(im)
				require.Contains(t, b.texts[len(b.texts)-1], "(!(left_out_here[7] == ")
			}
			if i%7 == 0 && a.Slip != machine.Missing {
				a.Change(im)
				to := b.texts[len(b.texts)-1]
				require.NotEqual(t, text, to)
				require.Equal(t, text[:a.Element], to[:a.Element], "what stands before it is as it was")
			}
		}
	})
}
