package glyph

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSevenVariants(t *testing.T) {
	six, ok := ParseSeven("6")
	require.True(t, ok)
	b, _ := ParseSeven("b")
	assert.True(t, six.Shows(segments("cdefg"), false, nil), "6 without its tail is a 6")
	assert.False(t, six.Shows(segments("cdefg"), true, nil), "unless strict")
	assert.False(t, six.Shows(segments("cdefg"), false, []Want{six, b}), "and not where b is used")
	seven, _ := ParseSeven("7.")
	assert.True(t, seven.Shows(segments("abcf")|DP, false, nil))
	assert.False(t, seven.Shows(segments("abcf"), false, nil), "the point counts")
	_, ok = ParseSeven("12")
	assert.False(t, ok)
	blank, ok := ParseSeven("")
	assert.True(t, ok)
	assert.Equal(t, Pattern(0), blank.Usual)
}

// No two digits share a pattern, in any variant.
func TestDigitsStayDistinct(t *testing.T) {
	seen := map[Pattern]rune{}
	for _, d := range "0123456789" {
		for _, p := range Seven(d) {
			assert.NotContains(t, seen, p, "%c", d)
			seen[p] = d
		}
	}
}

func TestSymbolNamesPatterns(t *testing.T) {
	for _, s := range []string{"0", "1", "2", "9", "A", "b", "-", "4."} {
		w, _ := ParseSeven(s)
		assert.Equal(t, s, w.Usual.Symbol())
	}
	assert.Equal(t, "segments a d", segments("ad").String())
	assert.Equal(t, "blank", Pattern(0).String())
}

func TestROM(t *testing.T) {
	for code := byte(0x21); code < 0x7f; code++ {
		assert.NotEqual(t, Dots{}, ROM(code), "code 0x%02X has dots", code)
		for other := code + 1; other < 0x7f; other++ {
			assert.NotEqual(t, ROM(code), ROM(other), "codes 0x%02X and 0x%02X look different", code, other)
		}
	}
	assert.Equal(t, Dots{}, ROM(' '))
	assert.Equal(t, '¥', Rune('\\'), "ROM A00 has a yen sign where ASCII has a backslash")
	code, ok := Code('°')
	assert.True(t, ok)
	assert.Equal(t, byte(0xdf), code)
	_, ok = Code('\\')
	assert.False(t, ok)
	for code := 0x20; code <= 0xff; code++ {
		_, drawn := font[byte(code)]
		assert.Equal(t, code < 0x80 || code >= 0xa1 && code != 0xfe, drawn,
			"code 0x%02X: all that the ROM has is drawn, and nothing else", code)
		if drawn && code != 0x20 {
			assert.NotEqual(t, Dots{}, ROM(byte(code)))
			for other := code + 1; other <= 0xff; other++ {
				assert.NotEqual(t, ROM(byte(code)), ROM(byte(other)), "codes 0x%02X and 0x%02X look different", code,
					other)
			}
		}
	}
	for code := 0x20; code <= 0xff; code++ {
		if back, ok := Code(Rune(byte(code))); assert.True(t, ok || code >= 0x80 && code < 0xa1 || code == 0xfe) &&
			back != byte(code) && ok {
			assert.Equal(t, Rune(byte(code)), Rune(back), "code 0x%02X", code) // two codes that read alike
		}
	}
}

// Text at any place is read as it was drawn: no letter is taken for a piece of another one.
func TestText(t *testing.T) {
	for _, text := range []string{"WHERRY LOCK", "Yv yV", "CHAMBER FULL", "ijl 1Tt", "The quick fox", "0123456789",
		"QO0 D8B"} {
		for _, y := range []int{0, 1, 8, 11, 57} {
			b := NewBitmap(128, 64)
			b.Draw(text, 7, y, 1)
			assert.Equal(t, []string{text}, b.Text(), "at %d", y)
		}
		b := NewBitmap(128, 64)
		large := strings.TrimSpace(text[:min(len(text), 10)])
		b.Draw(large, 1, 20, 2)
		assert.Equal(t, []string{large}, b.Text(), "twice as large")
	}
	b := NewBitmap(128, 64)
	b.Draw("WHERRY LOCK", 10, 8, 1)
	b.Draw("CHAMBER FULL", 10, 32, 1)
	for x := range 128 {
		b.Set(x, 16) // an underline
	}
	assert.Equal(t, []string{"WHERRY LOCK", "CHAMBER FULL"}, b.Text())
}
