package tm1637_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/part/parttest"
)

type module struct{ *parttest.World }

func open(t *testing.T, settings string) module {
	m := module{parttest.New(t, "tm1637", settings, 1)}
	m.Set("clk", circuit.Released, "dio", circuit.Released)
	return m
}

func level(high bool) circuit.Drive { // open drain
	if high {
		return circuit.Released
	}
	return circuit.DrivenLow
}

// send is START, bytes, STOP; it returns how many bytes were acknowledged.
func (m module) send(bytes ...uint8) (acks int) {
	m.Set("dio", circuit.DrivenLow)
	for _, v := range bytes {
		m.Set("clk", circuit.DrivenLow)
		for i := 0; i < 8; i++ {
			m.Set("dio", level(v>>i&1 == 1))
			m.Set("clk", circuit.Released)
			m.Set("clk", circuit.DrivenLow)
		}
		m.Set("dio", circuit.Released)
		m.Set("clk", circuit.Released)
		if m.Net(1).Level == circuit.Low {
			acks++
		}
		m.Set("clk", circuit.DrivenLow)
		m.Set("dio", circuit.DrivenLow)
	}
	m.Set("clk", circuit.Released)
	m.Set("dio", circuit.Released)
	return acks
}

// keys sends the command and reads the code, lowest bit first.
func (m module) keys() (v uint8) {
	m.Set("dio", circuit.DrivenLow)
	m.Set("clk", circuit.DrivenLow)
	for i := 0; i < 8; i++ {
		m.Set("dio", level(0x42>>i&1 == 1))
		m.Set("clk", circuit.Released)
		m.Set("clk", circuit.DrivenLow)
	}
	m.Set("dio", circuit.Released)
	m.Set("clk", circuit.Released)
	m.Set("clk", circuit.DrivenLow)
	for i := 0; i < 8; i++ {
		m.Set("clk", circuit.Released)
		if m.Net(1).Level == circuit.High {
			v |= 1 << i
		}
		m.Set("clk", circuit.DrivenLow)
	}
	m.Set("clk", circuit.Released)
	m.Set("clk", circuit.DrivenLow)
	m.Set("dio", circuit.DrivenLow)
	m.Set("clk", circuit.Released)
	m.Set("dio", circuit.Released)
	return v
}

func (m module) shown(n int) string {
	d := glyph.Display{}
	for i := 0; i < n; i++ {
		p := glyph.Pattern(0)
		for k := 0; k < 8; k++ {
			if m.Lights[8*i+k] > 0 {
				p |= 1 << k
			}
		}
		d = append(d, p)
	}
	return d.Symbols()
}

func TestWriting(t *testing.T) {
	m := open(t, "")
	assert.Equal(t, 1, m.send(0x40), "each byte is acknowledged")
	assert.Equal(t, 5, m.send(0xc0, 0x06, 0x5b|0x80, 0x4f, 0x66))
	assert.Equal(t, "    ", m.shown(4), "off at power-on")
	m.send(0x8f)
	assert.Equal(t, "1234", m.shown(4))
	assert.Positive(t, m.Lights[32], "bit 7 of the second digit is the colon")
	m.send(0x44)
	m.send(0xc3, 0x6f, 0x7f)
	assert.Equal(t, "1238", m.shown(4), "a fixed address takes all bytes")
	full := m.Lights[1]
	m.send(0x88)
	assert.Equal(t, full/14, m.Lights[1], "1/16 against 14/16 of the time")
	m.send(0x80)
	assert.Equal(t, "    ", m.shown(4), "off")
	m.send(0x8a)
	assert.Equal(t, "1238", m.shown(4), "and on again, with its memory")

	m = open(t, "digits: 6, points: dots")
	m.send(0x40)
	m.send(0xc0, 0x06, 0x5b|0x80, 0x4f, 0x66, 0x6d, 0x7d)
	m.send(0x8f)
	assert.Equal(t, "12.3456", m.shown(6))
}

func TestKeys(t *testing.T) {
	m := open(t, "")
	assert.Equal(t, uint8(0xff), m.keys())
	for key, code := range map[string]uint8{"1": 0xf7, "8": 0xf0, "9": 0xef, "16": 0xe8} {
		require.NoError(t, m.Part.Cue(part.Cue{Verb: part.Press, Key: key, For: 100 * clock.Millisecond}))
		assert.Equal(t, code, m.keys(), "key %s", key)
		m.Pass(101 * clock.Millisecond)
		assert.Equal(t, uint8(0xff), m.keys(), "let go")
	}
	require.NoError(t, m.Part.Cue(part.Cue{Verb: part.Hold, Key: "2"}))
	m.Pass(clock.Second)
	assert.Equal(t, uint8(0xf6), m.keys())
	require.NoError(t, m.Part.Cue(part.Cue{Verb: part.Release, Key: "2"}))
	assert.Equal(t, uint8(0xff), m.keys())
	assert.Error(t, m.Part.Cue(part.Cue{Verb: part.Press, Key: "17"}))
	assert.Error(t, m.Part.Cue(part.Cue{Verb: part.Press}))
}
