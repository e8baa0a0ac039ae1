package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
	_ "hemble/core/machine/pic14"
)

const alternating = `        LIST    p=16F877A
        #include <P16F877A.INC>
        __CONFIG _HS_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON
count   equ     0x20
        org     0
        goto    main
        org     5
main    banksel TRISB
        clrf    TRISB
        banksel PORTB
loop    movlw   0x55
        movwf   PORTB
        call    delay
        comf    PORTB,f
        goto    loop
delay   decfsz  count,f
        goto    delay
        return
        org     0x2100
        de      "hi", 3
        end
`

func assembleFor(t *testing.T, files ...File) (*Result, *machine.Chip) {
	t.Helper()
	b, err := New(Config{Cache: t.TempDir()})
	require.NoError(t, err)
	chip, err := machine.Find("pic16f877a")
	require.NoError(t, err)
	s := &Source{}
	for _, f := range files {
		require.NoError(t, s.Add(f.Path, f.Data))
	}
	r, err := b.Build(t.Context(), s, Target{Chip: chip, Clock: 4_000_000})
	require.NoError(t, err)
	return r, chip
}

func TestAssemble(t *testing.T) {
	r, chip := assembleFor(t, File{"Night watch.asm", []byte(alternating)})
	require.False(t, r.Failed(), "%v", r.Messages)
	im, err := firmware.Read(r.ELF, chip.Firmware)
	require.NoError(t, err)
	assert.Equal(t, "coff", im.Format)
	assert.Equal(t, []byte{0x72, 0x3f}, im.Fuses)
	require.Len(t, im.EEPROM, 1)
	assert.Equal(t, []byte{'h', 'i', 3}, im.EEPROM[0].Data)
	line, ok := im.Line(2 * 0x0b)
	assert.True(t, ok)
	assert.Equal(t, firmware.Line{File: "Night watch.asm", Line: 12}, line, "movwf PORTB")
	s, ok := im.Symbol("delay")
	assert.True(t, ok)
	assert.Equal(t, uint32(2*0x0f), s.Address)
}

func TestAssembleLinked(t *testing.T) {
	r, chip := assembleFor(t, File{"main.asm", []byte("\tinclude \"p16f877a.inc\"\n\textern wait\nrst\tcode 0\n\tgoto main\n" +
		"\tcode\nmain\tcall wait\n\tgoto main\n\tend\n")},
		File{"wait.asm", []byte("\tinclude \"p16f877a.inc\"\n\tglobal wait\n\tcode\nwait\tnop\n\treturn\n\tend\n")})
	require.False(t, r.Failed(), "%v", r.Messages)
	im, err := firmware.Read(r.ELF, chip.Firmware)
	require.NoError(t, err)
	s, ok := im.Symbol("wait")
	require.True(t, ok)
	line, _ := im.Line(s.Address)
	assert.Equal(t, "wait.asm", line.File)
	assert.Equal(t, 4, line.Line)
}

func TestAssembleWrong(t *testing.T) {
	r, _ := assembleFor(t, File{"a.asm", []byte("\tinclude \"p16f877a.inc\"\n\tmovlw 1\n\tmovwf LAMPS\n\tend\n")})
	require.True(t, r.Failed())
	require.NotEmpty(t, r.Messages)
	m := r.Messages[0]
	assert.Equal(t, "a.asm", m.File)
	assert.Equal(t, 3, m.Line)
	assert.Contains(t, m.Text, "LAMPS")
	assert.Contains(t, m.Code, "movwf LAMPS")
	r, _ = assembleFor(t, File{"a.c", []byte("int main(void) { return 0; }")})
	require.True(t, r.Failed())
	assert.Contains(t, r.Messages[0].Text, "only assembler")
	r, _ = assembleFor(t, File{"a.asm", []byte("\tinclude \"/etc/passwd\"\n\tend\n")})
	assert.True(t, r.Failed(), "nothing of the host is there")
	r, _ = assembleFor(t, File{"a.asm", []byte("x\tmacro\n\tx\n\tx\n\tendm\n\tx\n\tend\n")})
	assert.True(t, r.Failed(), "a macro without an end is bounded")
	t.Log(r.Messages)
}
