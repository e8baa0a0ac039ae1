// Package table reads tables as schools have them, CSV in any encoding and with any separator, and changes single
// cells: every other byte stays.
package table

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// Encoding is how a file writes its characters.
type Encoding string

// The encodings that are recognised.
const (
	UTF8        Encoding = "UTF-8"
	UTF16LE     Encoding = "UTF-16, low byte first"
	UTF16BE     Encoding = "UTF-16, high byte first"
	Windows1252 Encoding = "Windows-1252"
)

// Cell is one field of a row.
type Cell struct {
	Text   string
	quoted bool
	from   int // in the bytes of the file, quotes included
	to     int
}

// Table is a file, cut into rows.
type Table struct {
	Rows      [][]Cell
	Lines     []int // on which line of the file each row begins, from 1
	Encoding  Encoding
	Separator rune

	data  []byte
	edits []edit
}

type edit struct {
	from, to int
	text     string
}

// MaxRows and MaxColumns bound what is read.
const (
	MaxRows    = 100_000
	MaxColumns = 1000
)

// letter is a character of the file with its bytes.
type letter struct {
	r        rune
	from, to int
}

// Read recognises the encoding and the separator, and cuts the file into rows. Empty rows are left out. It is an error
// where a quoted field does not end, with the line on which it begins.
func Read(data []byte) (*Table, error) {
	t := &Table{data: data, Encoding: recognise(data)}
	text := decode(data, t.Encoding)
	if len(text) > 0 && text[0].r == '\ufeff' {
		text = text[1:]
	}
	line := 1
	if sep, rest, ok := announced(text); ok { // a spreadsheet's own first line
		t.Separator, text, line = sep, rest, 2
	} else {
		t.Separator = separator(text)
	}
	for len(text) > 0 {
		row, rest, lines, err := t.row(text, line)
		if err != nil {
			return nil, err
		}
		text = rest
		if len(row) > 1 || row[0].Text != "" {
			t.Rows, t.Lines = append(t.Rows, row), append(t.Lines, line)
		}
		line += lines
		if len(t.Rows) > MaxRows || len(row) > MaxColumns {
			return nil, fmt.Errorf("the file has more than %d rows or %d columns", MaxRows, MaxColumns)
		}
	}
	if len(t.Rows) == 0 {
		return nil, errors.New("the file is empty")
	}
	return t, nil
}

// recognise tells the encoding by the byte-order mark, and where there is none by what the bytes can be.
func recognise(data []byte) Encoding {
	switch {
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}):
		return UTF16LE
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		return UTF16BE
	case bytes.IndexByte(data, 0) >= 0: // no text has that byte in the other encodings
		odd, even := 0, 0
		for i, b := range data {
			if b == 0 {
				odd, even = odd+i&1, even+1-i&1
			}
		}
		if odd > even {
			return UTF16LE
		}
		return UTF16BE
	case utf8.Valid(data):
		return UTF8
	}
	return Windows1252
}

func decode(data []byte, as Encoding) []letter {
	out := make([]letter, 0, len(data))
	switch as {
	case UTF8:
		for i := 0; i < len(data); {
			r, n := utf8.DecodeRune(data[i:])
			out = append(out, letter{r, i, i + n})
			i += n
		}
	case Windows1252:
		for i, b := range data {
			out = append(out, letter{charmap.Windows1252.DecodeByte(b), i, i + 1})
		}
	default:
		high := 1
		if as == UTF16BE {
			high = 0
		}
		unit := func(i int) rune { return rune(data[i+high])<<8 | rune(data[i+1-high]) }
		for i := 0; i < len(data); {
			if i+1 == len(data) { // half a unit
				out = append(out, letter{utf8.RuneError, i, i + 1})
				break
			}
			r, n := unit(i), 2
			if r >= 0xd800 && r < 0xdc00 && i+3 < len(data) && unit(i+2) >= 0xdc00 && unit(i+2) < 0xe000 {
				r, n = 0x10000+(r-0xd800)<<10+unit(i+2)-0xdc00, 4
			}
			out = append(out, letter{r, i, i + n})
			i += n
		}
	}
	return out
}

// encode writes what is put into cells.
func (t *Table) encode(text string) []byte {
	var out []byte
	for _, r := range text {
		switch t.Encoding {
		case UTF16LE:
			out = append(out, byte(r), byte(r>>8))
		case UTF16BE:
			out = append(out, byte(r>>8), byte(r))
		case Windows1252:
			b, ok := charmap.Windows1252.EncodeRune(r)
			if !ok {
				b = '?'
			}
			out = append(out, b)
		default:
			out = utf8.AppendRune(out, r)
		}
	}
	return out
}

const separators = ",;\t|"

// announced takes the first line `sep=;`.
func announced(text []letter) (sep rune, rest []letter, ok bool) {
	const head = "sep="
	if len(text) < len(head)+2 {
		return 0, nil, false
	}
	for i, r := range head {
		if text[i].r != r {
			return 0, nil, false
		}
	}
	sep = text[len(head)].r
	rest = text[len(head)+1:]
	n := ending(rest)
	if !strings.ContainsRune(separators, sep) || n == 0 {
		return 0, nil, false
	}
	return sep, rest[n:], true
}

// ending is how many letters of a text are the end of a line.
func ending(text []letter) int {
	switch {
	case len(text) > 1 && text[0].r == '\r' && text[1].r == '\n':
		return 2
	case len(text) > 0 && (text[0].r == '\r' || text[0].r == '\n'):
		return 1
	}
	return 0
}

// separator is the one that the first line has most of, outside quotes.
func separator(text []letter) rune {
	count := map[rune]int{}
	quoted := false
	for i := range text {
		if text[i].r == '"' {
			quoted = !quoted
		} else if !quoted {
			if ending(text[i:]) > 0 {
				break
			}
			count[text[i].r]++
		}
	}
	best := ','
	for _, r := range separators {
		if count[r] > count[best] {
			best = r
		}
	}
	return best
}

// row cuts the next row off, and tells on how many lines it stands.
func (t *Table) row(text []letter, line int) (row []Cell, rest []letter, lines int, err error) {
	at := func() int {
		if len(text) == 0 {
			return len(t.data)
		}
		return text[0].from
	}
	for {
		cell := Cell{from: at()}
		var b strings.Builder
		if len(text) > 0 && text[0].r == '"' {
			cell.quoted = true
			text = text[1:]
			for {
				if len(text) == 0 {
					return nil, nil, 0, fmt.Errorf("line %d: a quote is opened and not closed", line)
				}
				if text[0].r == '"' {
					if len(text) > 1 && text[1].r == '"' {
						text = text[1:]
					} else {
						text = text[1:]
						break
					}
				}
				if n := ending(text); n > 0 {
					lines++
					for _, l := range text[:n] {
						b.WriteRune(l.r)
					}
					text = text[n:]
					continue
				}
				b.WriteRune(text[0].r)
				text = text[1:]
			}
		}
		// what is behind a closing quote belongs to it
		for len(text) > 0 && text[0].r != t.Separator && ending(text) == 0 {
			b.WriteRune(text[0].r)
			text = text[1:]
		}
		cell.to, cell.Text = at(), b.String()
		row = append(row, cell)
		if len(text) > 0 && text[0].r == t.Separator {
			text = text[1:]
			continue
		}
		return row, text[ending(text):], lines + 1, nil
	}
}

// Put changes a cell, in quotes if it was or if it must. A row that is too short gets what is missing.
func (t *Table) Put(row, column int, text string) {
	cells := t.Rows[row]
	if column >= len(cells) {
		last := cells[len(cells)-1]
		t.edits = append(t.edits,
			edit{last.to, last.to, strings.Repeat(string(t.Separator), column-len(cells)+1) + t.written(text, false)})
		return
	}
	c := cells[column]
	t.edits = append(t.edits, edit{c.from, c.to, t.written(text, c.quoted)})
}

func (t *Table) written(text string, quoted bool) string {
	if quoted || strings.ContainsRune(text, t.Separator) || strings.ContainsAny(text, "\"\r\n") {
		return `"` + strings.ReplaceAll(text, `"`, `""`) + `"`
	}
	return text
}

// Bytes is the file with what was put into it.
func (t *Table) Bytes() []byte {
	var out []byte
	at := 0
	for _, e := range t.edits {
		out = append(append(out, t.data[at:e.from]...), t.encode(e.text)...)
		at = e.to
	}
	return append(out, t.data[at:]...)
}

// Texts gives the texts of a row.
func (t *Table) Texts(row int) (out []string) {
	for _, c := range t.Rows[row] {
		out = append(out, c.Text)
	}
	return out
}
