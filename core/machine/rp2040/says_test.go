package rp2040

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// about is an image whose header, behind the vectors, lists entries.
func about(entries ...[]byte) *firmware.Image {
	data := make([]byte, 0x1000)
	put := func(at int, words ...uint32) {
		for i, v := range words {
			for k := range 4 {
				data[at+4*i+k] = byte(v >> (8 * k))
			}
		}
	}
	put(0x1a8, saysBegin, flashAt+0x400, flashAt+0x400+4*uint32(len(entries)), 0, saysEnd)
	at := 0x600
	for i, e := range entries {
		put(0x400+4*i, flashAt+uint32(at))
		copy(data[at:], e)
		at += (len(e) + 3) &^ 3
	}
	copy(data[0xe00:], "lock counter\x00")
	copy(data[0xe20:], "1.2\x1b[31m\x00")
	copy(data[0xe40:], "lamp|bell\x00")
	return &firmware.Image{Flash: []firmware.Segment{{Address: flashAt, Data: data}}}
}

func words(v ...uint32) (out []byte) {
	for _, w := range v {
		out = append(out, byte(w), byte(w>>8), byte(w>>16), byte(w>>24))
	}
	return out
}

// What a program says of itself is read: name, version, pins by a mask, by a range and one by one.
func TestSays(t *testing.T) {
	tag := uint32(saysTag) << 16
	im := about(words(tag|saysString, saysName, flashAt+0xe00), words(tag|saysString, saysVersion, flashAt+0xe20),
		words(tag|saysPins, 1<<16|1<<25, flashAt+0xe40),
		words(tag|saysFunction, 2|functionI2C<<3|4<<7|5<<12|5<<17|5<<22|5<<27),
		words(tag|saysFunction, 1|functionUART<<3|0<<7|1<<12), words(saysPins, 2, flashAt+0xe40))
	got := says(im)
	assert.Equal(t, machine.Says{Name: "lock counter", Version: "1.2[31m", Pins: []machine.PinSays{{Pin: 16, Word: "lamp"},
		{Pin: 25, Word: "bell"}, {Pin: 4, Word: "SDA"}, {Pin: 5, Word: "SCL"}, {Pin: 0, Word: "TX"}, {Pin: 1, Word: "RX"}}}, got)
	assert.Equal(t, "“lock counter”, version 1.2[31m, GP16 is lamp, GP25 is bell, GP4 is SDA, GP5 is SCL, GP0 is TX, GP1 is RX",
		got.Tell(Chip))
	assert.Empty(t, says(&firmware.Image{}).Tell(Chip))
}

// Whatever stands in the header, it is read in bounded time, and what comes of it is plain text and pins of the chip.
func FuzzSays(f *testing.F) {
	f.Add(words(uint32(saysTag)<<16|saysPins, 0xffff_ffff, flashAt+0xe40), uint32(flashAt+0x400), uint32(flashAt+0x404))
	f.Add([]byte("\t\x00RP0000\xff\xff\xff\xff"), uint32(flashAt+0x3e4), uint32(flashAt+0x42e)) // a text at the end of all addresses
	f.Fuzz(func(t *testing.T, entry []byte, from, to uint32) {
		im := about(entry[:min(len(entry), 0x400)])
		copy(im.Flash[0].Data[0x1ac:], words(from, to))
		got := says(im)
		for _, p := range got.Pins {
			assert.Less(t, int(p.Pin), gpios)
		}
		assert.LessOrEqual(t, len(got.Pins), saysEntries*gpios)
		assert.NotContains(t, got.Tell(Chip), "\x1b")
	})
}
