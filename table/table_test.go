package table

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Every byte beside the filled cells stays, whatever the encoding, the separator, the quotes and the ends of lines are.
func TestBytesStay(t *testing.T) {
	encodings := map[string]struct {
		e    encoding.Encoding
		mark string
		want Encoding
	}{
		"UTF-8": {unicode.UTF8, "", UTF8}, "UTF-8 with a mark": {unicode.UTF8, "\xef\xbb\xbf", UTF8},
		"Windows-1252":             {charmap.Windows1252, "", Windows1252},
		"UTF-16 LE":                {unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), "\xff\xfe", UTF16LE},
		"UTF-16 BE":                {unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM), "\xfe\xff", UTF16BE},
		"UTF-16 LE without a mark": {unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), "", UTF16LE},
	}
	for name, enc := range encodings {
		for _, sep := range []string{",", ";", "\t", "|"} {
			for _, end := range []string{"\n", "\r\n", "\r"} {
				for _, q := range []string{"", `"`} {
					for _, last := range []string{"", end} {
						t.Run(fmt.Sprintf("%s %q %q %q %q", name, sep, end, q, last), func(t *testing.T) {
							file := func(first, second string) []byte {
								lines := []string{
									q + "Nachname" + q + sep + `"Note ""Labor"""` + sep + q + "Straße" + q,
									q + "Müller" + q + sep + first + sep + q + "Ahornweg 3 – links" + q,
									"",
									"  Oke " + sep + second + sep + `"zwei` + end + `Zeilen"`,
								}
								text, err := enc.e.NewEncoder().String(strings.Join(lines, end) + last)
								require.NoError(t, err)
								return []byte(enc.mark + text)
							}
							in := file(q+q, `"alt"`)
							tab, err := Read(in)
							require.NoError(t, err)
							assert.Equal(t, enc.want, tab.Encoding)
							assert.Equal(t, sep, string(tab.Separator))
							assert.Equal(t, []int{1, 2, 4}, tab.Lines)
							assert.Equal(t, []string{"Nachname", `Note "Labor"`, "Straße"}, tab.Texts(0))
							assert.Equal(t, "Ahornweg 3 – links", tab.Rows[1][2].Text)
							assert.Equal(t, "  Oke ", tab.Rows[2][0].Text)
							assert.Equal(t, in, tab.Bytes(), "nothing put, nothing changed")
							tab.Put(1, 1, "7.5")
							tab.Put(2, 1, "10")
							assert.Equal(t, file(q+"7.5"+q, `"10"`), tab.Bytes())
						})
					}
				}
			}
		}
	}
}

func TestRead(t *testing.T) {
	tab, err := Read([]byte("sep=;\r\na;b\r\nx,y;1\r\n"))
	require.NoError(t, err)
	assert.Equal(t, ';', tab.Separator)
	assert.Equal(t, []string{"x,y", "1"}, tab.Texts(1))
	assert.Equal(t, 3, tab.Lines[1])

	tab, err = Read([]byte("a,b,c\nshort\n"))
	require.NoError(t, err)
	tab.Put(1, 2, "7,5")
	assert.Equal(t, "a,b,c\nshort,,\"7,5\"\n", string(tab.Bytes()), "a short row gets what is missing")

	tab, err = Read([]byte("a;b\n\"x\"y;\"z\"\"\"\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"xy", `z"`}, tab.Texts(1))

	for text, want := range map[string]string{"": "the file is empty", "\n\n": "the file is empty",
		"a\n\"b\nc": "line 2: a quote is opened and not closed", strings.Repeat(",", 2000): "columns"} {
		_, err := Read([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}

// Whatever a file is, reading it changes nothing, and a cell that is put reads as that.
func FuzzTable(f *testing.F) {
	f.Add([]byte("a,b\n1,2\n"), "7.5")
	f.Add([]byte("\xff\xfea\x00;\x00b\x00"), "x")
	f.Add([]byte("\"a\nb\"\t\xe9\r\n"), "1;2")
	f.Fuzz(func(t *testing.T, data []byte, text string) {
		tab, err := Read(data)
		if err != nil {
			return
		}
		assert.True(t, bytes.Equal(data, tab.Bytes()))
		for _, r := range text {
			if r > '~' || r < ' ' {
				return
			}
		}
		last := len(tab.Rows) - 1
		if text == "" || len(tab.Rows[last]) == 0 {
			return
		}
		tab.Put(last, 0, text)
		again, err := Read(tab.Bytes())
		if err != nil || again.Encoding != tab.Encoding || again.Separator != tab.Separator ||
			len(again.Rows) != len(tab.Rows) { // by what was put a file may read as another kind
			return
		}
		assert.Equal(t, text, again.Rows[last][0].Text)
	})
}
