package source

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// missing are the statements that may be missing in a program, as "line: statement", the likely ones with a mark.
func missing(t *testing.T, text string) (out []string) { return missingFor(t, text, machine.Hints{}) }

// missingFor are those for which something speaks that was seen.
func missingFor(t *testing.T, text string, h machine.Hints) (out []string) {
	for _, a := range (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, h) {
		if a.Slip == machine.Missing {
			require.Equal(t, !conditional.MatchString(a.Meant), a.Behind, a.Meant)
			out = append(out, fmt.Sprint(map[bool]string{true: "! "}[a.Rare == 0], a.Line.Line, ": ", a.Meant))
		}
	}
	return out
}

// conditional are the beginnings of what is missing before something, or in it; limits are missing behind it.
var conditional = regexp.MustCompile(`^(else|&& .*|if \([^;]*\))$`)

func TestForgottenStatements(t *testing.T) {
	again := missing(t, "void f(void)\n{\n\tif (up)\n\t\tchanged = 1;\n\tleft += 30;\n}\nint left; char changed;\n")
	assert.Contains(t, again, "5: changed = 1;", "it stands elsewhere")
	assert.NotContains(t, again, "4: changed = 1;", "it stands there")
	assert.Contains(t, again, "2: left = 0;", "it counts")
	assert.NotContains(t, again, "4: else left += 30;", "the condition sets something else")

	opposite := missing(t, "void f(void)\n{\n\tif (up)\n\t\tPORTC |= _BV(3);\n\tdigitalWrite(lamp, HIGH);\n}\n")
	assert.Contains(t, opposite, "4: else PORTC &= ~_BV(3);")
	for sets, clears := range map[string]string{"D |= 8;": "D &= ~8;", "D |= (1 << 3);": "D &= ~(1 << 3);",
		"D |= 1 << 3;": "D &= ~(1 << 3);", "D &= ~(A | B);": "D |= (A | B);", "D |= (A) | (B);": "D &= ~((A) | (B));"} {
		assert.Contains(t, missing(t, "void f(void)\n{\n"+sets+"\n}\n"), "3: "+clears)
	}
	assert.Contains(t, opposite, "5: digitalWrite(lamp, LOW);")
	assert.NotContains(t, missing(t, "void f(void)\n{\n\tDDRB |= 8;\n}\n"), "3: DDRB &= ~8;", "nobody forgets that")
	assert.Contains(t, missing(t, "static char called;\nvoid f(void)\n{\n\tcalled = i + 1;\n\tgo(called);\n}\n"),
		"5: called = 0;", "what lasts begins at 0")

	held := missing(t, "char was;\nvoid f(void)\n{\n\tchar now = PINB;\n\tif (now && !was)\n\t\tn++;\n}\n")
	assert.Contains(t, held, "! 6: was = now;", "what never varies is likely to be forgotten")
	assert.NotContains(t, held, "! 3: was = now;", "nobody knows it there")
	assert.Contains(t, missing(t, "char n;\nvoid f(void)\n{\n\tif (++n >= 9)\n\t\tshow();\n}\n"), "! 5: n = 0;", "nor what only counts")

	assert.NotContains(t, missing(t, "int lamp = 3;\nvoid f(void)\n{\n\tint i = 0;\n\tdigitalWrite(lamp, i);\n}\n"), "! 5: lamp = i;",
		"a pin does not vary")
	assert.Contains(t, missing(t, "char last;\nvoid f(void)\n{\n\tchar ab = PINB;\n\tmove(turn[last << 2 | ab]);\n}\n"), "! 5: last = ab;")

	ago := missing(t, "int at;\nvoid f(void)\n{\n\tif (millis() - at >= 250)\n\t\tshow();\n}\n")
	assert.Contains(t, ago, "! 5: at = millis();")
	assert.Contains(t, ago, "! 5: at += 250;")
}

// What stands beside a statement elsewhere speaks for it; what a program begins with is hardly missing later.
func TestForgottenCompanions(t *testing.T) {
	text := "int main(void)\n{\n\tint at = 0;\n\tchar state = REST;\n\tTCCR1A = 3;\n\tfor (;;) {\n\t\tint ago = now() - at;\n" +
		"\t\tif (open)\n\t\t\tstate = OPEN;\n\t\tif (ago > 20) {\n\t\t\tstate = ALARM;\n\t\t\tat = now();\n\t\t}\n\t}\n}\n"
	assert.Contains(t, missing(t, text), "! 9: at = now();", "behind what is carried out without brackets")
	for _, a := range (&built{}).program(text).Alterations(t.Context(), &firmware.Image{}, machine.Hints{}) {
		switch {
		case a.Meant == "at = now();" && a.Line.Line == 13:
			assert.Equal(t, machine.Seldom, a.Rare, "nothing speaks for it there")
		case a.Meant == "TCCR1A = 3;" && a.Line.Line < 14:
			assert.Equal(t, a.Line.Line > 5, a.Rare == machine.Unlikely, a.Line)
		}
	}

	typed := "void f(void)\n{\n\tif (c == 10) {\n\t\tobey(line);\n\t\tn = 0;\n\t}\n\telse\n\t\tline[n++] = c;\n}\n"
	assert.Contains(t, missing(t, typed), "3: line[n] = 0;", "a text has an end")
	ended := strings.Replace(typed, "obey", "line[n] = '\\0'; obey", 1)
	assert.NotContains(t, missing(t, ended), "3: line[n] = 0;", "it has one")

	var out string
	b, im := &built{}, &firmware.Image{}
	for _, a := range b.program("void f(void) { if (up) x = 1; else x = 2; y = 3; }").Alterations(t.Context(), im, machine.Hints{}) {
		if a.Slip == machine.Missing {
			a.Change(im)
			out = b.texts[len(b.texts)-1]
			break
		}
	}
	assert.Equal(t, strings.Count(out, "{"), strings.Count(out, "}"), out)
}

func TestForgottenWords(t *testing.T) {
	cases := "void f(void)\n{\n\tswitch (n) {\n\tcase 1:\n\t\tx = 1;\n\tcase 2:\n\tcase 3:\n\t\tx = 2;\n\t\tbreak;\n\tdefault:\n\t\tx = 3;\n\t}\n}\n"
	assert.Contains(t, missing(t, cases), "! 5: break;")
	for _, m := range missing(t, cases) {
		assert.False(t, strings.HasSuffix(m, "break;") && m != "! 5: break;", m)
	}
	wraps := missing(t, "int font[] = {1, 2}, at = 1;\nenum s state = REST;\nvoid f(void)\n{\n\tPORTD = font[at];\n\tat++;\n\tstate = GO;\n}\n")
	assert.Contains(t, wraps, "6: at %= sizeof font / sizeof *font;")
	assert.Contains(t, wraps, "6: at = 1;", "as at first")
	assert.Contains(t, wraps, "! 7: state = REST;", "it never goes back")

	chained := "void f(void) { if (n > 3) x = 1; if (n > 5) x = 2; if (m) y = 3; }"
	var out []string
	b := &built{}
	im := &firmware.Image{}
	for _, a := range b.program(chained).Alterations(t.Context(), im, machine.Hints{}) {
		if a.Meant == "else" {
			a.Change(im)
			out = append(out, b.texts[len(b.texts)-1])
		}
	}
	assert.Equal(t, []string{"void f(void) { if (n > 3) x = 1; else if (n > 5) x = 2; if (m) y = 3; }"}, out)
}

// Names mean something where a statement is planted: those of other functions, and those that are declared later, do
// not.
func TestScopes(t *testing.T) {
	text := "int all;\nvoid f(int given)\n{\n\tfor (int i = 0; i < 8; i++) {\n\t\tint own = i;\n\t\tall = own;\n\t}\n\tall = given;\n}\n" +
		"void g(void)\n{\n\tall = 2;\n\tint later = 3, more;\n\tmore = later;\n\tall = more;\n}\n"
	for _, m := range missing(t, text) {
		line, what, _ := strings.Cut(strings.TrimPrefix(m, "! "), ": ")
		for word, lines := range map[string]string{"own": "5 6", "given": "3 4 5 6 7 8", "later": "13 14 15", "more": "13 14 15", "i": "4 5 6"} {
			if regexp.MustCompile(`\b` + word + `\b`).MatchString(what) {
				assert.Contains(t, strings.Fields(lines), line, m)
			}
		}
	}
	assert.Contains(t, missing(t, text), "13: all = more;")
	assert.Contains(t, missing(t, text), "6: all = given;")
}

// Of many statements that are built at once each has its number; what cannot be built as a whole is built by halves.
func TestBeds(t *testing.T) {
	text := "char n;\nvoid f(void)\n{\n\tif (++n >= 9)\n\t\tshow();\n\tlast = 1;\n\tn += 2;\n}\n"
	var texts []string
	program := &Program{Files: map[string]string{"gate.c": text},
		Build: func(_ context.Context, name, text string) (*firmware.Image, error) {
			texts = append(texts, text)
			if strings.Count(text, "if (left_out_here") > 8 {
				return nil, errors.New("that is too much")
			}
			data := append(append([]byte("code"), mark...), 0, 'x')
			return &firmware.Image{Flash: []firmware.Segment{{Address: 0x80, Data: data}}}, nil
		}}
	im, tried := &firmware.Image{}, 0
	for _, a := range program.Alterations(t.Context(), im, machine.Hints{}) {
		if a.Slip != machine.Missing {
			continue
		}
		assert.Positive(t, a.Effort)
		other := &firmware.Image{}
		assert.Same(t, other, a.Change(other), "it is of another image")
		changed := a.Change(im)
		if changed == im {
			continue
		}
		tried++
		choice := int(changed.Flash[0].Data[4+len(mark)])
		require.Equal(t, byte('x'), changed.Flash[0].Data[len(changed.Flash[0].Data)-1])
		found := false
		for _, built := range texts {
			found = found || strings.Contains(built, fmt.Sprintf("if (left_out_here[7] == %d) { %s }", choice,
				strings.TrimPrefix(a.Meant, "else ")))
		}
		assert.True(t, found, a.Meant)
	}
	assert.Greater(t, tried, 3)
	assert.Less(t, len(texts), 16, "each is built once")
	assert.True(t, strings.HasPrefix(texts[0], "static const volatile unsigned char left_out_here[8] = {196, "), texts[0])

	program.Files["gate.c"] = "char left_out_here;\n" + text
	for _, a := range program.Alterations(t.Context(), im, machine.Hints{}) {
		assert.NotEqual(t, machine.Missing, a.Slip, "the name is taken")
	}
}
