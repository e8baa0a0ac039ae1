package scripted

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// FuzzPort sends bytes in any format, and listens to the line: what comes in is what went out.
func FuzzPort(f *testing.F) {
	f.Add([]byte("level 4\r\n"), uint32(8681), uint8(8), "n", uint8(1), uint32(0))
	f.Add([]byte{0, 255, 0x55}, uint32(104167), uint8(7), "e", uint8(2), uint32(700))
	f.Fuzz(func(t *testing.T, data []byte, bit uint32, bits uint8, parity string, stops uint8, pause uint32) {
		form := format{bit: bit%1_000_000 + 1, bits: int(bits)%4 + 5, parity: 'n', stops: int(stops)%2 + 1}
		if parity == "e" || parity == "o" {
			form.parity = parity[0]
		}
		if len(data) > 1000 {
			data = data[:1000]
		}
		p := &port{format: form, tx: 1, rx: 1, high: true}
		var got, want []byte
		now := clock.Time(0)
		hear := func(until clock.Time) {
			for p.over() <= until {
				if v, some := p.listen(); some {
					got = append(got, v)
				}
			}
		}
		for _, v := range data {
			want = append(want, v&byte(1<<form.bits-1))
			now += clock.Time(pause) * clock.Nanosecond
			for _, s := range p.send([]byte{v}) {
				now += clock.Time(s.after) * clock.Nanosecond
				hear(now)
				if s.act != sent {
					p.changed(now, s.act == high)
				}
			}
		}
		hear(now + clock.Second)
		require.Equal(t, want, got)
	})
}

// What is typed at the Linux board comes in whole lines, which it shows while they are typed.
func TestConsole(t *testing.T) {
	m, child := on(t, "r 900000000 0\nx 900000000 \"\"\n")
	var shown bytes.Buffer
	m.config.Bytes = func(b machine.Byte) { shown.WriteByte(b.Value) }
	p := &port{format: consoleFormat, tx: 1}
	now := clock.Millisecond
	for _, s := range p.send([]byte("4x\b1\rwaits")) {
		now += clock.Time(s.after) * clock.Nanosecond
		m.Run(now, nil)
		if s.act != sent {
			m.Input(m.chip.Serial[0].Receive, map[act]circuit.Level{low: circuit.Low, high: circuit.High}[s.act])
		}
	}
	require.Equal(t, machine.Reached, m.Run(clock.Second, nil).Reason)
	assert.Equal(t, "4x\b \b1\nwaits", shown.String())
	assert.Equal(t, fmt.Sprintf("%x.\n", "41\n"), child.heard.String())
}

// A transfer on two wires where somebody acknowledges all, and where nobody does.
func TestTwoWire(t *testing.T) {
	for _, c := range []struct {
		level  circuit.Level
		answer string
	}{{circuit.Low, "3 0000."}, {circuit.High, "0 ."}} {
		m, child := on(t, "c 1000 4 3 2 5000 7 S,w4e0a,S,w4f,r2,P\nf 900000 4\nx 900000 \"\"\n")
		var seen machinetest.Recorder
		m.Input(2, c.level)
		require.Equal(t, machine.Reached, m.Run(clock.Millisecond, &seen).Reason)
		lines := strings.Split(child.heard.String(), "\n")
		assert.Equal(t, c.answer, lines[1])
		for _, pin := range []machine.Pin{2, 3} {
			assert.Equal(t, circuit.High, m.Drives(pin).Level, "the bus is let go at the end")
			assert.Less(t, m.Drives(pin).Strength, circuit.PushPull)
		}
	}
}
