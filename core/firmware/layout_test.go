package firmware

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// AVR is where avr-ld puts the memories.
var AVR = Layout{Erased: 0xffff, Regions: []Region{{Kind: Flash}, {From: 0x800000, Kind: RAM},
	{From: 0x810000, Kind: EEPROM}, {From: 0x820000, Kind: Fuses}, {From: 0x830000, Kind: Ignored}}}

// Addresses of a file go to the memories that a chip has them in, wherever those begin.
func TestLayout(t *testing.T) {
	arm := Layout{Erased: 0xffff, Regions: []Region{{Kind: Ignored}, {From: 0x10000000, Kind: Flash, Shown: 0x10000000},
		{From: 0x20000000, Kind: RAM, Shown: 0x20000000}, {From: 0x20100000, Kind: Ignored}}}
	im, err := Read([]byte(record(4, 0, 0x10, 0x00)+record(0, 4, 1, 2)+end), arm)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0x10000004, []byte{1, 2}}}, im.Flash)
	_, err = Read([]byte(record(0, 4, 1, 2)+end), arm)
	assert.ErrorContains(t, err, "line 1: address 0x4 is in no memory of the chip")
	im, err = Read([]byte(record(0, 0, 1, 2)+record(4, 0, 0x00, 0x81)+record(0, 3, 7)+end), AVR)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{3, []byte{7}}}, im.EEPROM)
}
