package pic14

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// image puts words at addresses into an image, with configuration words.
func image(config uint16, parts map[uint16][]uint16) *firmware.Image {
	im := &firmware.Image{Fuses: []byte{byte(config), byte(config >> 8)}}
	for at, words := range parts {
		s := firmware.Segment{Address: 2 * uint32(at)}
		for _, w := range words {
			s.Data = append(s.Data, byte(w), byte(w>>8))
		}
		im.Flash = append(im.Flash, s)
	}
	return im
}

func TestTry(t *testing.T) {
	// a nest of decfsz, then RB0 toggles
	code := []uint16{0x1683, 0x0186, 0x1283, // bsf STATUS,RP0; clrf TRISB; bcf
		0x3001, 0x0686, // movlw 1; xorwf PORTB,f
		0x30fa, 0x00a1, // movlw 250; movwf 0x21
		0x30c8, 0x00a0, // movlw 200; movwf 0x20
		0x0000, 0x0ba0, 0x2809, // nop; decfsz 0x20; goto
		0x0ba1, 0x2807, 0x2803}
	im := image(0x3f72, map[uint16][]uint16{0: code})
	for _, ref := range []bool{false, true} {
		m := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000, Reference: ref, Watched: []machine.Pin{8}})
		require.NoError(t, m.Load(im))
		var r machinetest.Recorder
		stop := m.Run(3*clock.Second, &r)
		fmt.Printf("%+v %d %s %+v %v\n", stop, r.Edges, r.Last, m.Counters(), m.Notes())
	}
	assert.True(t, true)
}
