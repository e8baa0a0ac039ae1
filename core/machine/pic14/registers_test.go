package pic14

import (
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine"
)

// headers is where the assembler has the names of each chip's registers.
const headers = "/usr/share/gputils/header/"

// second are names that the headers have beside another one for the same register.
var second = map[string]bool{"TMR1": true, "CCPR1": true, "CCPR2": true, "MSK": true, "SSPMSK": true, "EEDAT": true}

// Every register that the assembler knows of a chip is here at its address, and no other has a name; all can be read
// and written without a panic, and none tells that it is reserved.
func TestEveryRegisterIsAccountedFor(t *testing.T) {
	equ := regexp.MustCompile(`(?m)^(\w+)\s+EQU\s+H'([0-9A-F]{4})'`)
	for name, v := range variants {
		t.Run(name, func(t *testing.T) {
			text, err := os.ReadFile(headers + "p" + name + ".inc")
			require.NoError(t, err, "the assembler is installed by the project's script")
			_, files, ok := strings.Cut(string(text), "Register Files")
			require.True(t, ok)
			files, _, ok = strings.Cut(files, "STATUS Bits")
			require.True(t, ok)
			want, got := map[string]uint16{}, map[string]uint16{}
			for _, m := range equ.FindAllStringSubmatch(files, -1) {
				if a, err := strconv.ParseUint(m[2], 16, 16); err == nil && !second[m[1]] {
					want[m[1]] = uint16(a)
				}
			}
			for a, n := range v.registers.name {
				if n != "" {
					got[n] = uint16(a)
				}
			}
			assert.Equal(t, want, got)
			m := newMachine(v, machine.Config{})
			m.listener = &wave{m: m}
			for a := range uint16(0x200) {
				for _, x := range []uint8{0xff, 0x55, 0} {
					if v.registers.name[v.at[a]] != "" {
						m.write(a, x)
						m.read(a)
						m.jumped = false
					}
				}
			}
			for _, n := range m.Notes() {
				assert.NotEqual(t, "reserved", n.Code, n.Text)
			}
		})
	}
}

// Memory is as large as the datasheets say.
func TestMemories(t *testing.T) {
	for name, want := range map[string][3]int{"pic16f877a": {16384, 368, 256}, "pic16f887": {16384, 368, 256},
		"pic16f88": {8192, 368, 256}, "pic16f628a": {4096, 224, 128}} {
		c, err := machine.Find(name)
		require.NoError(t, err)
		assert.Equal(t, want, [3]int{c.Flash, c.SRAM, c.EEPROM}, name)
	}
}
