package glyph

import (
	"encoding/binary"
	"hash/fnv"
	"math/bits"
	"slices"
	"strings"

	lru "github.com/hashicorp/golang-lru/v2"
)

// Bitmap is a picture of at most 128 columns.
type Bitmap struct {
	Width, Height int
	rows          [][2]uint64
}

// NewBitmap is a dark one.
func NewBitmap(width, height int) Bitmap {
	return Bitmap{Width: width, Height: height, rows: make([][2]uint64, height)}
}

// Set lights a pixel.
func (b Bitmap) Set(x, y int) { b.rows[y][x>>6] |= 1 << (x & 63) }

// At reports whether a pixel is lit; there is no light outside.
func (b Bitmap) At(x, y int) bool {
	return x >= 0 && y >= 0 && x < b.Width && y < b.Height && b.rows[y][x>>6]>>(x&63)&1 == 1
}

// FromPages is the picture that Pages packs.
func FromPages(width, height int, pages []byte) Bitmap {
	b := NewBitmap(width, height)
	for y := 0; y+8 <= height && len(pages) >= width; y += 8 {
		for x := 0; x < width; x += 8 {
			block := uint64(0)
			for i, column := range pages[x:min(x+8, width)] {
				block |= uint64(column) << (8 * i)
			}
			for k, block := 0, transposed(block); block != 0; k, block = k+1, block>>8 {
				b.rows[y+k][x>>6] |= block & 0xff << (x & 63)
			}
		}
		pages = pages[width:]
	}
	return b
}

// Pages packs the picture into pages of eight rows, a byte for each column, bit 0 on top.
func (b Bitmap) Pages() []byte {
	out := make([]byte, b.Width*b.Height/8)
	for y := 0; y+8 <= b.Height; y += 8 {
		for x := 0; x < b.Width; x += 8 {
			block := uint64(0)
			for k := range 8 {
				block |= b.rows[y+k][x>>6] >> (x & 63) & 0xff << (8 * k)
			}
			block = transposed(block)
			for i := range min(8, b.Width-x) {
				out[y/8*b.Width+x+i] = byte(block >> (8 * i))
			}
		}
	}
	return out
}

// transposed exchanges rows and columns of 8 by 8 bits, a byte for each row (Warren, Hacker's Delight, 7-3).
func transposed(b uint64) uint64 {
	for _, s := range [3]struct {
		shift int
		mask  uint64
	}{{7, 0x00aa00aa00aa00aa}, {14, 0x0000cccc0000cccc}, {28, 0x00000000f0f0f0f0}} {
		t := (b ^ b>>s.shift) & s.mask
		b ^= t ^ t<<s.shift
	}
	return b
}

// Count is how many pixels are lit.
func (b Bitmap) Count() (n int) {
	for _, r := range b.rows {
		n += bits.OnesCount64(r[0]) + bits.OnesCount64(r[1])
	}
	return n
}

// Digest tells pictures apart.
func (b Bitmap) Digest() uint32 {
	h := fnv.New32a()
	for _, r := range b.rows {
		for _, w := range r {
			for i := 0; i < 64; i += 8 {
				h.Write([]byte{byte(w >> i)})
			}
		}
	}
	return h.Sum32()
}

// ParseBitmap reads rows of '#' for lit and '.' or ' ' for dark pixels; bad is the first other rune.
func ParseBitmap(rows []string) (b Bitmap, bad rune) {
	width := 0
	for _, r := range rows {
		width = max(width, len([]rune(r)))
	}
	b = NewBitmap(min(width, 128), len(rows))
	for y, row := range rows {
		for x, r := range []rune(row) {
			switch {
			case r == '#' && x < 128:
				b.Set(x, y)
			case r != '.' && r != ' ':
				return b, r
			}
		}
	}
	return b, 0
}

// Contains reports whether part is in the picture with its corner at x, y, dark pixels included.
func (b Bitmap) Contains(part Bitmap, x, y int) bool {
	for dy := 0; dy < part.Height; dy++ {
		for dx := 0; dx < part.Width; dx++ {
			if b.At(x+dx, y+dy) != part.At(dx, dy) {
				return false
			}
		}
	}
	return true
}

// Find reports whether part stands anywhere in the picture.
func (b Bitmap) Find(part Bitmap) bool {
	for y := 0; y+part.Height <= b.Height; y++ {
		for x := 0; x+part.Width <= b.Width; x++ {
			if b.Contains(part, x, y) {
				return true
			}
		}
	}
	return false
}

// Letters are five dots wide and seven high; lines of text may be drawn at twice the size as well.
const (
	letterWidth  = 5
	letterHeight = 7
	maxScale     = 2
)

// letters finds a character of the 5×7 font by its dots.
var letters = func() map[uint64]rune {
	m := map[uint64]rune{}
	for code, dots := range font {
		r := Rune(code)
		if dots[7] != 0 || r < '!' || r > '~' && r != '°' {
			continue
		}
		key := uint64(0)
		for _, row := range dots[:letterHeight] {
			key = key<<letterWidth | uint64(row)
		}
		m[key] = r
	}
	return m
}()

// Text gives the lines of text that are in the picture, from the top, in the 5×7 font that character
// displays use, at one or two pixels a dot. A line has at least one letter or digit.
func (b Bitmap) Text() []string {
	key := b.key()
	if lines, known := texts.Get(key); known {
		return slices.Clone(lines)
	}
	lines := b.read()
	texts.Add(key, lines)
	return slices.Clone(lines)
}

// key tells pictures apart, to the last pixel.
func (b Bitmap) key() string {
	out := binary.LittleEndian.AppendUint32(make([]byte, 0, 4+16*len(b.rows)), uint32(b.Width))
	for _, r := range b.rows {
		out = binary.LittleEndian.AppendUint64(binary.LittleEndian.AppendUint64(out, r[0]), r[1])
	}
	return string(out)
}

// texts are those of the pictures that were read last: judging looks at the same ones again and again.
var texts = func() *lru.Cache[string, []string] {
	c, err := lru.New[string, []string](1024)
	if err != nil {
		panic(err) // only of a size below 1
	}
	return c
}()

func (b Bitmap) read() (lines []string) {
	for y := 0; y < b.Height; {
		step := 1
		for scale := 1; scale <= maxScale; scale++ {
			if line := b.line(y, scale); line != "" && !b.fuller(y, scale, line) {
				lines = append(lines, line)
				step = letterHeight * scale
				break
			}
		}
		y += step
	}
	return lines
}

// fuller reports whether a line with more in it begins a little lower: then this one is a piece of it, as the upper
// part of a Y with what is above it looks like a v.
func (b Bitmap) fuller(y, scale int, line string) bool {
	for down := 1; down < letterHeight*scale; down++ {
		if len(b.line(y+down, scale)) > len(line) {
			return true
		}
	}
	return false
}

// line reads the characters whose top is at y.
func (b Bitmap) line(y, scale int) string {
	if y+letterHeight*scale > b.Height {
		return ""
	}
	var out strings.Builder
	end := -1
	solid := false
	for x := 0; x+letterWidth*scale <= b.Width; {
		r, ok := b.letter(x, y, scale)
		if !ok || end >= 0 && x < end {
			x++
			continue
		}
		if end >= 0 {
			out.WriteString(strings.Repeat(" ", (x-end)/((letterWidth+1)*scale)))
		}
		out.WriteRune(r)
		solid = solid || r >= '0' && r <= '9' || r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z'
		x += letterWidth * scale
		end = x
	}
	if !solid {
		return ""
	}
	return out.String()
}

// letter reads the character at a place; a dark column and row must stand on each side of it.
func (b Bitmap) letter(x, y, scale int) (rune, bool) {
	dark := true
	for k := 0; k < letterHeight*scale && dark; k++ {
		if b.At(x-1, y+k) {
			return 0, false
		}
		dark = b.dark(x, y+k, letterWidth*scale)
	}
	if dark {
		return 0, false
	}
	key := uint64(0)
	for row := 0; row < letterHeight; row++ {
		for col := 0; col < letterWidth; col++ {
			lit := b.At(x+col*scale, y+row*scale)
			for k := 1; k < scale*scale; k++ {
				if b.At(x+col*scale+k%scale, y+row*scale+k/scale) != lit {
					return 0, false
				}
			}
			key <<= 1
			if lit {
				key |= 1
			}
		}
	}
	r, ok := letters[key]
	if !ok {
		return 0, false
	}
	for k := 0; k < letterHeight*scale; k++ {
		if b.At(x-1, y+k) || b.At(x+letterWidth*scale, y+k) {
			return 0, false
		}
	}
	for k := 0; k < letterWidth*scale; k++ {
		if b.At(x+k, y-1) {
			return 0, false
		}
	}
	return r, true
}

// dark reports whether some columns of a row, all within the picture, are dark.
func (b Bitmap) dark(x, y, columns int) bool {
	row := b.rows[y]
	within := row[x>>6] >> (x & 63)
	if left := 64 - x&63; left < columns {
		within |= row[1] << left
	}
	return within&(1<<columns-1) == 0
}

// Draw puts text into the picture with its top left corner at x, y.
func (b Bitmap) Draw(text string, x, y, scale int) {
	for _, r := range text {
		code, _ := Code(r)
		for row, dots := range ROM(code) {
			for col := 0; col < letterWidth*scale; col++ {
				if dots>>(letterWidth-1-col/scale)&1 == 1 {
					for k := 0; k < scale; k++ {
						if px, py := x+col, y+row*scale+k; px < b.Width && py < b.Height {
							b.Set(px, py)
						}
					}
				}
			}
		}
		x += (letterWidth + 1) * scale
	}
}
