package avr

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// registerSummary is the register registerSummary of the datasheet (section 36): data address and names from there on.
const registerSummary = `23 PINB DDRB PORTB PINC DDRC PORTC PIND DDRD PORTD
35 TIFR0 TIFR1 TIFR2
3b PCIFR EIFR EIMSK GPIOR0 EECR EEDR EEARL EEARH GTCCR TCCR0A TCCR0B TCNT0 OCR0A OCR0B
4a GPIOR1 GPIOR2 SPCR SPSR SPDR
50 ACSR
53 SMCR MCUSR MCUCR
57 SPMCSR
5d SPL SPH SREG WDTCSR CLKPR
64 PRR
66 OSCCAL
68 PCICR EICRA
6b PCMSK0 PCMSK1 PCMSK2 TIMSK0 TIMSK1 TIMSK2
78 ADCL ADCH ADCSRA ADCSRB ADMUX
7e DIDR0 DIDR1 TCCR1A TCCR1B TCCR1C
84 TCNT1L TCNT1H ICR1L ICR1H OCR1AL OCR1AH OCR1BL OCR1BH
b0 TCCR2A TCCR2B TCNT2 OCR2A OCR2B
b6 ASSR
b8 TWBR TWSR TWAR TWDR TWCR TWAMR
c0 UCSR0A UCSR0B UCSR0C
c4 UBRR0L UBRR0H UDR0`

// Every I/O register of the datasheet is modelled, or is in the list of those that have no effect on
// purpose; no other address has a name.
func TestEveryRegisterIsAccountedFor(t *testing.T) {
	for v, registerSummary := range map[*Variant]string{ATmega328P: registerSummary, ATmega168: registerSummary,
		ATmega2560: summary2560} {
		t.Run(v.title, func(t *testing.T) { accounted(t, v, registerSummary) })
	}
}

func accounted(t *testing.T, v *Variant, registerSummary string) {
	want := map[int]string{}
	for _, line := range strings.Split(registerSummary, "\n") {
		address := 0
		words := strings.Fields(line)
		_, err := fmt.Sscanf(words[0], "%x", &address)
		assert.NoError(t, err)
		for i, name := range words[1:] {
			want[address+i] = name
		}
	}
	got := map[int]string{}
	for address, r := range v.registers {
		if r.name != "" {
			got[address] = r.name
		}
	}
	assert.Equal(t, want, got)
	for _, r := range append(referenceRegisters, v.inert...) {
		assert.Equal(t, r.name, want[int(r.address)])
		assert.NotEmpty(t, r.why)
	}
}

// Initial values that are not zero (register registerSummary).
func TestInitialValues(t *testing.T) {
	m := spin(t)
	for address, v := range map[uint16]uint8{regTWSR: 0xf8, regTWAR: 0xfe, regTWDR: 0xff, 0xc0: 0x20, 0xc2: 0x06,
		regSPL: 0xff, regSPH: 0x08} {
		assert.Equal(t, v, m.load(address), ATmega328P.registers[address].name)
	}
}
