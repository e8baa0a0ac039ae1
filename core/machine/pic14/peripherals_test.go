package pic14

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// wave keeps every edge.
type wave struct {
	edges []edge
	m     *Machine
	joins [][2]machine.Pin // nets of two pins: the second sees what the first drives
}

type edge struct {
	at    clock.Time
	pin   machine.Pin
	drive circuit.Drive
}

func (w *wave) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		w.edges = append(w.edges, edge{t, c.Pin, c.Drive})
		for _, j := range w.joins {
			if j[0] == c.Pin {
				w.m.Input(j[1], c.Drive.Level)
			}
		}
	}
	return clock.Never
}

// times are those at which a pin goes high, and low.
func (w *wave) times(pin machine.Pin) (out []clock.Time) {
	for _, e := range w.edges {
		if e.pin == pin {
			out = append(out, e.at)
		}
	}
	return out
}

// bench is a chip whose program waits at address 0, and registers by name.
type bench struct {
	*Machine
	t testing.TB
	w *wave
}

func idle(t testing.TB, v *Variant, config uint16, rate clock.Rate) *bench {
	t.Helper()
	m := newMachine(v, machine.Config{Clock: rate})
	require.NoError(t, m.Load(image(config, map[uint16][]uint16{0: {0x2800}, 4: {0x2804}})))
	m.cycle = m.begins
	b := &bench{m, t, &wave{m: m}}
	m.listener = b.w
	return b
}

func (b *bench) register(name string) uint16 {
	b.t.Helper()
	i := slices.Index(b.v.registers.name[:], name)
	require.GreaterOrEqual(b.t, i, 0, "no register %s", name)
	return uint16(i)
}

func (b *bench) set(name string, x uint8) { b.t.Helper(); b.write(b.register(name), x) }

func (b *bench) get(name string) uint8 { b.t.Helper(); return b.read(b.register(name)) }

// pass lets cycles pass.
func (b *bench) pass(cycles int64) {
	b.Run(b.now.At(b.cycle+cycles), b.w)
}

// The calm configuration words: crystal or oscillator inside, nothing else on.
const (
	calm887  = 0x2ce2 | 0x20 // HS, MCLR, no LVP, BOR off, WDT off, PWRT off
	calm88   = 0x3f2a
	calm628a = 0x3f10 // INTOSC, no MCLR
)

// Timer 0 by its divider: so many cycles from a write to the overflow, two of which do not count.
func TestTimer0(t *testing.T) {
	for ps := range uint8(9) {
		b := idle(t, PIC16F877A, quiet, 4_000_000)
		divider := int64(1)
		if ps == 8 {
			b.set("OPTION_REG", 0x08)
		} else {
			divider = 2 << ps
			b.set("OPTION_REG", ps)
		}
		b.set("TMR0", 250)
		at := b.cycle
		b.pass(3 + 6*divider - 1)
		assert.Zero(t, b.ram[regINTCON]&bitT0IF, "divider %d, at %d", divider, b.cycle-at)
		b.pass(2)
		assert.NotZero(t, b.ram[regINTCON]&bitT0IF, "divider %d", divider)
		b.pass(256*divider + divider/2)
		assert.Equal(t, uint8((b.cycle-at-3-6*divider)/divider), b.get("TMR0"))
	}
}

// What a read sees in the cycles behind a write (figure 11-2).
func TestTimer0Inhibit(t *testing.T) {
	m := program(t, true, 0x3050, 0x0081, 0x0801, 0x00a0, 0x0801, 0x00a1, 0x0801, 0x00a2)
	m.write(regOPTION, 0x08)
	for range 8 {
		m.one()
	}
	assert.Equal(t, []uint8{0x50, 0x50, 0x52}, []uint8{m.ram[0x20], m.ram[0x21], m.ram[0x22]},
		"reads 1, 3 and 5 cycles behind")
}

func TestTimer0CountsEdges(t *testing.T) {
	for _, falling := range []bool{false, true} {
		b := idle(t, PIC16F877A, quiet, 4_000_000)
		o := uint8(0x21) // divider 4
		if falling {
			o |= bitT0SE
		}
		b.set("OPTION_REG", o)
		b.set("TMR0", 0)
		for range 22 {
			b.Input(4, circuit.High)
			b.pass(10)
			b.Input(4, circuit.Low)
			b.pass(10)
		}
		assert.Equal(t, uint8(5), b.get("TMR0"))
	}
}

func TestTimer1(t *testing.T) {
	for shift := range uint8(4) {
		b := idle(t, PIC16F877A, quiet, 4_000_000)
		b.set("TMR1H", 0xff)
		b.set("TMR1L", 0x00)
		b.set("T1CON", shift<<4|1)
		from := b.cycle + 1
		b.pass(256<<shift - 1)
		assert.Zero(t, b.ram[regPIR1]&1, "1:%d", 1<<shift)
		assert.Equal(t, uint8((b.cycle-from)>>shift), b.get("TMR1L"))
		b.pass(4)
		assert.Equal(t, uint8(1), b.ram[regPIR1]&1, "1:%d", 1<<shift)
		assert.Equal(t, uint8(0), b.get("TMR1H"))
	}
}

// On a watch crystal, timer 1 goes on in sleep and wakes the chip each second.
func TestTimer1WatchCrystal(t *testing.T) {
	m := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000})
	// bsf RP0; bsf PIE1,0; bcf RP0; clrf TMR1L; movlw 80; movwf TMR1H; movlw 0F; movwf T1CON; bsf INTCON,6
	// 9: sleep; nop; bcf PIR1,0; movlw 80; movwf TMR1H; incf 20; goto 9
	require.NoError(t, m.Load(image(quiet, map[uint16][]uint16{0: {0x1683, 0x140c, 0x1283, 0x018e, 0x3080,
		0x008f, 0x300f,
		0x0090, 0x170b, 0x0063, 0x0000, 0x100c, 0x3080, 0x008f, 0x0aa0, 0x2809}})))
	m.ram[0x20] = 0
	end := m.Run(10*clock.Second+clock.Second/2, &wave{m: m})
	assert.Equal(t, machine.Reached, end.Reason, end.Text)
	assert.Equal(t, uint8(10), m.ram[0x20])
	assert.Less(t, m.counters.Instructions, int64(200), "it sleeps")
}

func TestTimer2(t *testing.T) {
	for _, x := range []struct {
		con, pr uint8
		cycles  int64
	}{{0x04, 99, 100}, {0x05, 99, 400}, {0x06, 9, 160}, {0x0c, 99, 200}, {0x7c, 0, 16}, {0x7f, 255, 16 * 16 * 256}} {
		b := idle(t, PIC16F887, calm887, 8_000_000)
		b.set("PR2", x.pr)
		b.set("T2CON", x.con)
		from := b.cycle + 1
		for n := range int64(3) {
			b.ram[regPIR1] &^= 2
			b.pass(from + (n+1)*x.cycles - b.cycle - 3)
			assert.Zero(t, b.ram[regPIR1]&2, "%+v", x)
			b.pass(4) // an instruction of the program takes two
			assert.NotZero(t, b.ram[regPIR1]&2, "%+v", x)
		}
	}
}

// PWM: ten bits of duty, a quarter of a cycle fine, and a new one from the next period on.
func TestPWM(t *testing.T) {
	for _, x := range []struct {
		v          *Variant
		config     uint16
		pin        machine.Pin
		tris       string
		con        uint8
		duty       uint16
		pr         uint8
		high, turn clock.Time
	}{
		{PIC16F877A, quiet, 18, "TRISC", 0x04, 130, 99, 130 * clock.Microsecond / 4, 100 * clock.Microsecond},
		{PIC16F887, calm887, 18, "TRISC", 0x05, 7, 9, 7 * clock.Microsecond, 40 * clock.Microsecond},
		{PIC16F88, calm88, 8, "TRISB", 0x06, 1000, 255, 4 * 1000 * clock.Microsecond, 16 * 256 * clock.Microsecond},
		{PIC16F628A, calm628a, 11, "TRISB", 0x04, 1, 3, clock.Microsecond / 4, 4 * clock.Microsecond},
	} {
		b := idle(t, x.v, x.config, 4_000_000)
		b.set(x.tris, 0)
		b.set("CCP1CON", 0x0c|uint8(x.duty&3)<<4)
		b.set("CCPR1L", uint8(x.duty>>2))
		b.set("PR2", x.pr)
		b.set("T2CON", x.con)
		b.w.edges = nil
		b.Run(b.Now()+5*x.turn+x.turn/2, b.w)
		at := b.w.times(x.pin)
		require.GreaterOrEqual(t, len(at), 8, "%s", x.v.title)
		rises := at
		if b.w.edges[0].drive == circuit.DrivenLow {
			rises = at[1:]
		}
		assert.Equal(t, x.high, rises[1]-rises[0], "%s", x.v.title)
		assert.Equal(t, x.turn, rises[2]-rises[0], "%s", x.v.title)
	}
}

// An enhanced module: a half bridge has two pins, of which one is on.
func TestHalfBridge(t *testing.T) {
	b := idle(t, PIC16F887, calm887, 4_000_000)
	b.set("TRISC", 0)
	b.set("TRISD", 0)
	b.set("PR2", 99)
	b.set("CCPR1L", 25)
	b.set("CCP1CON", 0x8c)
	b.set("T2CON", 4)
	b.pass(1000)
	for range 20 {
		b.pass(37)
		a, d := b.Drives(18), b.Drives(29)
		assert.NotEqual(t, a, d, "P1A and P1B")
	}
}

func TestCompareAndCapture(t *testing.T) {
	b := idle(t, PIC16F877A, quiet, 4_000_000)
	b.set("CCPR1H", 0x01)
	b.set("CCPR1L", 0x00)
	b.set("CCP1CON", 0x0b) // special event: timer 1 begins again
	b.set("T1CON", 1)
	b.pass(0x102)
	assert.NotZero(t, b.ram[regPIR1]&4)
	b.pass(3 * 0x101)
	assert.Equal(t, uint8(0), b.get("TMR1H"))
	assert.Zero(t, b.ram[regPIR1]&1, "it never came to its end")

	b = idle(t, PIC16F877A, quiet, 4_000_000)
	b.set("CCP2CON", 0x06) // each fourth rising edge
	b.set("T1CON", 1)
	for range 8 {
		b.pass(100)
		b.Input(17, circuit.High)
		b.pass(100)
		b.Input(17, circuit.Low)
	}
	assert.NotZero(t, b.ram[regPIR2]&1)
	count := int(b.ram[0x1c])<<8 | int(b.ram[0x1b])
	assert.InDelta(t, 7*200+100, count, 3)
}

// Each setting of the converter: time of a conversion, where its bits stand, references.
func TestADC(t *testing.T) {
	for _, x := range []struct {
		v        *Variant
		config   uint16
		con0     uint8
		con1     uint8
		goes     uint8
		cycles   int64
		right    bool
		millivol int64
		code     int
	}{
		{PIC16F877A, quiet, 0x41, 0x80, 4, 24, true, 2500, 512},
		{PIC16F877A, quiet, 0x81, 0x00, 4, 96, false, 1250, 256},
		{PIC16F877A, quiet, 0x01, 0xc0, 4, 12, true, 5000, 1023},
		{PIC16F877A, quiet, 0x41, 0x81, 4, 24, true, 1000, 512}, // against 2 V at AN3
		{PIC16F887, calm887, 0x41, 0x80, 2, 24, true, 2500, 512},
		{PIC16F88, calm88, 0x41, 0x80, 4, 24, true, 2500, 512},
	} {
		m := newMachine(x.v, machine.Config{Clock: 4_000_000, Sample: func(p machine.Pin) (int64, bool) {
			if p == 3 {
				return 2_000_000, true
			}
			return x.millivol * 1000, true
		}})
		require.NoError(t, m.Load(image(x.config, map[uint16][]uint16{0: {0x2800}})))
		m.cycle = m.begins
		b := &bench{m, t, &wave{m: m}}
		m.Input(0, circuit.Low)
		m.Input(3, circuit.Low)
		b.set("ADCON1", x.con1)
		b.set("ADCON0", x.con0)
		b.set("ADCON0", x.con0|x.goes)
		b.pass(x.cycles)
		assert.NotZero(t, b.get("ADCON0")&x.goes, "%s %+v", x.v.title, x)
		b.pass(3)
		assert.Zero(t, b.get("ADCON0")&x.goes, "%s %+v", x.v.title, x)
		assert.NotZero(t, b.ram[regPIR1]&0x40)
		code := int(b.get("ADRESH"))<<2 | int(b.get("ADRESL"))>>6
		if x.right {
			code = int(b.get("ADRESH"))<<8 | int(b.get("ADRESL"))
		}
		assert.InDelta(t, x.code, code, 1, "%s %+v", x.v.title, x)
	}
}

// The serial port sends frames at its speed and takes what it sends.
func TestUSART(t *testing.T) {
	for _, x := range []struct {
		v            *Variant
		config       uint16
		tx, rx       machine.Pin
		txsta, spbrg uint8
		bit          clock.Time
	}{
		{PIC16F877A, quiet, 22, 23, 0x24, 25, 104 * clock.Microsecond},
		{PIC16F877A, quiet, 22, 23, 0x20, 12, 208 * clock.Microsecond},
		{PIC16F887, calm887, 22, 23, 0x24, 12, 52 * clock.Microsecond},
		{PIC16F88, calm88, 13, 10, 0x24, 25, 104 * clock.Microsecond},
		{PIC16F628A, calm628a, 10, 9, 0x24, 25, 104 * clock.Microsecond},
	} {
		var sent []byte
		m := newMachine(x.v, machine.Config{Clock: 4_000_000, Bytes: func(b machine.Byte) {
			sent = append(sent, b.Value)
		}})
		require.NoError(t, m.Load(image(x.config, map[uint16][]uint16{0: {0x2800}})))
		m.cycle = m.begins
		b := &bench{m, t, &wave{m: m, joins: [][2]machine.Pin{{x.tx, x.rx}}}}
		m.listener = b.w
		m.Input(x.rx, circuit.High)
		b.set("SPBRG", x.spbrg)
		b.set("TXSTA", x.txsta)
		b.set("RCSTA", 0x90)
		assert.NotZero(t, b.ram[regPIR1]&0x10, "TXIF: room")
		b.w.edges = nil
		began := b.Now()
		b.set("TXREG", 0x55)
		b.set("TXREG", 0xa3)
		assert.Zero(t, b.ram[regPIR1]&0x10)
		b.Run(began+21*x.bit, b.w)
		at := b.w.times(x.tx)
		require.GreaterOrEqual(t, len(at), 10)
		assert.InDelta(t, float64(x.bit), float64(at[1]-at[0]), float64(clock.Microsecond), x.v.title)
		assert.InDelta(t, float64(9*x.bit), float64(at[9]-at[0]), float64(9*clock.Microsecond), x.v.title)
		assert.Equal(t, []byte{0x55, 0xa3}, sent)
		assert.NotZero(t, b.ram[regPIR1]&0x20, "RCIF")
		assert.Equal(t, uint8(0x55), b.get("RCREG"))
		assert.Equal(t, uint8(0xa3), b.get("RCREG"))
		assert.Zero(t, b.ram[regPIR1]&0x20)
	}
}

// SPI: the byte that goes out comes in again, in each of the four modes and at each speed.
func TestSPI(t *testing.T) {
	for _, v := range []struct {
		v        *Variant
		config   uint16
		sdo, sdi machine.Pin
		sck      machine.Pin
		tris     string
	}{{PIC16F877A, quiet, 21, 20, 19, "TRISC"}, {PIC16F88, calm88, 10, 9, 12, "TRISB"}} {
		for mode := range uint8(4) {
			for speed := range uint8(4) {
				b := idle(t, v.v, v.config, 4_000_000)
				b.w.joins = [][2]machine.Pin{{v.sdo, v.sdi}}
				b.set(v.tris, 0)
				b.set("SSPSTAT", mode&1<<6)
				b.set("SSPCON", bitSSPEN|mode>>1<<4|speed)
				b.set("PR2", 9)
				b.set("T2CON", 4)
				b.w.edges = nil
				b.set("SSPBUF", 0xb1)
				half := map[uint8]int64{0: 1, 1: 4, 2: 16, 3: 20}[speed]
				b.pass(8*half + 2 + half)
				assert.Equal(t, uint8(0xb1), b.get("SSPBUF"), "%s mode %d speed %d", v.v.title, mode, speed)
				assert.NotZero(t, b.ram[regPIR1]&8)
				assert.Len(t, b.w.times(v.sck), 16)
			}
		}
	}
}

// slave is something on a two-wire bus that takes bytes and acknowledges them.
type slave struct {
	*wave
	scl, sda circuit.Level
	bits     int
	value    uint8
	bytes    []uint8
	log      []string
	pull     bool
	answer   []uint8 // what it sends when it is read
	reading  bool
}

func (s *slave) Drive(at clock.Time, changes []machine.Change, p machine.Place) clock.Time {
	for _, c := range changes {
		level := circuit.High
		if c.Drive == circuit.DrivenLow {
			level = circuit.Low
		}
		switch c.Pin {
		case 19:
			s.clock(level)
		case 20:
			if s.scl == circuit.High && level != s.sda {
				s.log = append(s.log, map[circuit.Level]string{circuit.Low: "start", circuit.High: "stop"}[level])
				s.bits, s.reading = 0, false
			}
			s.sda = level
		}
	}
	s.show()
	return clock.Never
}

func (s *slave) show() {
	s.m.Input(19, s.scl)
	level := s.sda
	if s.pull {
		level = circuit.Low
	}
	s.m.Input(20, level)
}

func (s *slave) clock(level circuit.Level) {
	if level == s.scl {
		return
	}
	if s.scl = level; level == circuit.High {
		if s.bits < 8 {
			s.value <<= 1
			if s.sda == circuit.High {
				s.value |= 1
			}
		}
		s.bits++
		return
	}
	s.pull = false
	switch {
	case s.bits == 8 && !s.reading:
		s.bytes = append(s.bytes, s.value)
		s.pull = true // acknowledge
	case s.bits == 9:
		if !s.reading && s.value&1 == 1 && len(s.bytes) > 0 && s.bytes[len(s.bytes)-1] == s.value {
			s.reading = true
		}
		s.bits = 0
	}
	if s.reading && s.bits < 8 && len(s.answer) > 0 {
		s.pull = s.answer[0]<<s.bits&0x80 == 0
	}
}

// The I2C master: start, address, data, repeated start, reading with an acknowledge, stop.
func TestI2C(t *testing.T) {
	b := idle(t, PIC16F877A, quiet, 4_000_000)
	s := &slave{wave: b.w, scl: circuit.High, sda: circuit.High, answer: []uint8{0xc5}}
	b.listener = s
	s.show()
	b.set("SSPADD", 9) // 100 kHz
	b.set("SSPCON", 0x28)
	s.show()
	wait := func(what string) {
		t.Helper()
		for range 400 {
			if b.ram[regPIR1]&8 != 0 {
				b.ram[regPIR1] &^= 8
				return
			}
			b.Run(b.now.At(b.cycle+1), s)
		}
		t.Fatalf("%s did not end", what)
	}
	b.set("SSPCON2", bitSEN)
	wait("start")
	began := b.cycle
	b.set("SSPBUF", 0x4e)
	wait("address")
	assert.InDelta(t, 9*10, b.cycle-began, 6, "nine bits at 100 kHz")
	assert.Zero(t, b.ram[regSSPCON2]&bitACKSTAT)
	b.set("SSPBUF", 0x81)
	wait("data")
	b.set("SSPCON2", bitRSEN)
	wait("repeated start")
	b.set("SSPBUF", 0x4f)
	wait("address to read")
	b.set("SSPCON2", bitRCEN)
	wait("reading")
	assert.Equal(t, uint8(0xc5), b.get("SSPBUF"))
	s.answer = nil
	b.set("SSPCON2", bitACKEN|bitACKDT)
	wait("no acknowledge")
	b.set("SSPCON2", bitPEN)
	wait("stop")
	assert.Equal(t, []uint8{0x4e, 0x81, 0x4f}, s.bytes)
	assert.Equal(t, []string{"start", "start", "stop"}, s.log)
	b.set("SSPBUF", 0)
	b.set("SSPCON2", bitSEN)
	require.NotEmpty(t, b.Notes())
	assert.Equal(t, "i2c-busy", b.Notes()[0].Code)
}

// EEPROM: the sequence that allows a write, its time, and reading back. It outlives a reset.
func TestEEPROM(t *testing.T) {
	for name, v := range variants {
		b := idle(t, v, map[string]uint16{"16f877a": quiet, "16f887": calm887, "16f88": calm88, "16f628a": calm628a}[name],
			4_000_000)
		l := v.eedata
		b.write(l.address, 0x15)
		b.write(l.data, 0x9c)
		b.write(l.con1, bitWREN)
		b.write(l.con1, bitWREN|bitWR)
		require.Len(t, b.Notes(), 1, name)
		assert.Equal(t, "eeprom-key", b.Notes()[0].Code)
		b.write(l.con2, 0x55)
		b.write(l.con2, 0xaa)
		b.write(l.con1, bitWREN|bitWR)
		assert.NotZero(t, b.read(l.con1)&bitWR)
		b.pass(3990)
		assert.NotZero(t, b.read(l.con1)&bitWR, name)
		b.pass(20)
		assert.Zero(t, b.read(l.con1)&bitWR, name)
		assert.NotZero(t, b.ram[v.flags.eeprom.register]&v.flags.eeprom.mask)
		b.Reset()
		b.write(l.address, 0x15)
		b.write(l.con1, bitRD)
		assert.Equal(t, uint8(0x9c), b.read(l.data), name)
	}
}

// Flash read through EECON1, where the chip can.
func TestReadingFlash(t *testing.T) {
	b := idle(t, PIC16F877A, quiet, 4_000_000)
	b.set("EEADR", 4)
	b.set("EEADRH", 0)
	b.set("EECON1", bitEEPGD|bitRD)
	assert.Equal(t, []uint8{0x04, 0x28}, []uint8{b.get("EEDATA"), b.get("EEDATH")})
}

// Comparators against the ladder and against each other's pins, by mode.
func TestComparators(t *testing.T) {
	volts := map[machine.Pin]int64{0: 1_000_000, 1: 3_000_000, 2: 2_000_000, 3: 4_000_000}
	at := func(v *Variant, config uint16) *bench {
		m := newMachine(v, machine.Config{Clock: 4_000_000,
			Sample: func(p machine.Pin) (int64, bool) { x, ok := volts[p]; return x, ok }})
		require.NoError(t, m.Load(image(config, map[uint16][]uint16{0: {0x2800}})))
		for p := range volts {
			m.Input(p, circuit.Low)
		}
		return &bench{m, t, &wave{m: m}}
	}
	b := at(PIC16F877A, quiet)
	b.set("CMCON", 2) // C1: RA3 over RA0; C2: RA2 over RA1
	assert.Equal(t, uint8(0x42), b.get("CMCON"))
	b.set("CMCON", 0x12) // C1 inverted
	assert.Equal(t, uint8(0x12), b.get("CMCON"))
	b.set("CVRCON", 0xac) // 12/24 of 5 V
	b.set("CMCON", 6)     // against 2.5 V: RA0 and RA1
	assert.Equal(t, uint8(0x46), b.get("CMCON"))
	b.set("CMCON", 0x0e) // CIS: RA3 and RA2
	assert.Equal(t, uint8(0x8e), b.get("CMCON"))
	b = at(PIC16F628A, calm628a)
	b.set("CMCON", 4) // two independent ones: RA3 over RA0, RA2 over RA1
	assert.Equal(t, uint8(0x44), b.get("CMCON"))
	b.set("CMCON", 7)
	assert.Equal(t, uint8(0x07), b.get("CMCON"))
	b = at(PIC16F887, calm887)
	b.set("CM1CON0", 0x80) // RA3 over RA0
	assert.Equal(t, uint8(0xc0), b.get("CM1CON0"))
	b.set("CM2CON0", 0x81) // RA2 over RA1
	assert.Equal(t, uint8(0x81), b.get("CM2CON0"))
	assert.Equal(t, uint8(0x82), b.get("CM2CON1"))
}

// The watchdog by its dividers: it resets a chip that runs and wakes one that sleeps.
func TestWatchdog(t *testing.T) {
	for _, x := range []struct {
		v       *Variant
		config  uint16
		option  uint8
		wdtcon  uint8
		timeout clock.Time
	}{
		{PIC16F877A, quiet | 4, 0xff, 0, 18 * 128 * clock.Millisecond},
		{PIC16F877A, quiet | 4, 0x08, 0, 18 * clock.Millisecond},
		{PIC16F628A, calm628a | 4, 0x0a, 0, 72 * clock.Millisecond},
		{PIC16F887, calm887 | 8, 0x07, 0x08, 16384 * clock.Microsecond},
		{PIC16F88, calm88, 0x07, 0x0b, 32768 * clock.Microsecond},
	} {
		b := idle(t, x.v, x.config, 4_000_000)
		b.set("OPTION_REG", x.option)
		if x.wdtcon != 0 {
			b.set("WDTCON", x.wdtcon)
		}
		from := b.dog.began
		resets := b.counters.Resets
		b.Run(from+x.timeout-10*clock.Microsecond, b.w)
		assert.Equal(t, resets, b.counters.Resets, "%s %s", x.v.title, x.timeout)
		b.Run(from+x.timeout+10*clock.Microsecond, b.w)
		assert.Equal(t, resets+1, b.counters.Resets, "%s %s", x.v.title, x.timeout)
		assert.Zero(t, b.status&statusTO)
	}
	m := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000})
	require.NoError(t, m.Load(image(quiet|4, map[uint16][]uint16{0: {0x01a0, 0x0063, 0x0aa0, 0x2801}}))) // sleep; incf
	m.Run(23*clock.Second, &wave{m: m})
	assert.Equal(t, uint8(9), m.ram[0x20], "each 2.3 s")
	m = newMachine(PIC16F877A, machine.Config{Clock: 4_000_000})
	require.NoError(t, m.Load(image(quiet|4, map[uint16][]uint16{0: {0x1683, 0x3008, 0x0081, 0x2803}})))
	end := m.Run(10*clock.Second, &wave{m: m})
	assert.Equal(t, machine.ResetLoop, end.Reason)
	assert.Contains(t, end.Text, "CLRWDT")
}

func TestSleepForGood(t *testing.T) {
	m := program(t, false, 0x0063)
	end := m.Run(clock.Second, &wave{m: m})
	assert.Equal(t, machine.Asleep, end.Reason)
}

// From a pin's edge to the first instruction of the interrupt: three cycles, in which one instruction still runs.
func TestInterruptLatency(t *testing.T) {
	for _, plain := range []bool{false, true} {
		m := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000, Reference: plain, Watched: []machine.Pin{}})
		words := []uint16{0x3090, 0x008b} // movlw GIE|INTE; movwf INTCON
		for range 64 {
			words = append(words, 0x0aa0) // incf 20
		}
		im := image(quiet, map[uint16][]uint16{0: {0x2840}, 4: {0x0801, 0x0009}, 0x40: words})
		require.NoError(t, m.Load(im))
		w := &wave{m: m}
		m.Input(8, circuit.Low)
		m.write(regOPTION, 0xc8)
		m.Run(m.now.At(m.begins+20), w)
		at := m.cycle
		count := m.ram[0x20]
		m.Input(8, circuit.High)
		for m.pc != 4 && m.cycle < at+20 {
			m.Run(m.now.At(m.cycle+1), w)
		}
		assert.Equal(t, int64(3), m.cycle-at)
		assert.Equal(t, count+1, m.ram[0x20])
		m.Run(m.now.At(m.cycle+1), w)
		assert.Zero(t, m.ram[regINTCON]&bitGIE)
		m.ram[regINTCON] &^= bitINTF
		m.requests(m.cycle)
		for m.pc == 5 {
			m.Run(m.now.At(m.cycle+1), w)
		}
		assert.NotZero(t, m.ram[regINTCON]&bitGIE, "RETFIE")
	}
}

// Port B tells of changes, and wakes the chip.
func TestChangeOfPortB(t *testing.T) {
	b := idle(t, PIC16F877A, quiet, 4_000_000)
	for p := machine.Pin(8); p < 16; p++ {
		b.Input(p, circuit.High)
	}
	b.get("PORTB")
	b.ram[regINTCON] = 0
	b.Input(12, circuit.Low)
	assert.NotZero(t, b.ram[regINTCON]&bitRBIF)
	b.ram[regINTCON] = 0
	b.get("PORTB")
	b.Input(8, circuit.Low) // RB0 is none of them
	assert.Zero(t, b.ram[regINTCON]&bitRBIF)
	c := idle(t, PIC16F887, calm887, 4_000_000)
	c.set("ANSELH", 0)
	for p := machine.Pin(8); p < 16; p++ {
		c.Input(p, circuit.High)
	}
	c.get("PORTB")
	c.ram[regINTCON] = 0
	c.Input(8, circuit.Low)
	assert.Zero(t, c.ram[regINTCON]&bitRBIF, "IOCB chooses")
	c.set("IOCB", 1)
	assert.NotZero(t, c.ram[regINTCON]&bitRBIF)
}

// Instructions on one bit write the others back as the pins are: analog pins read 0, and so lose what they gave.
func TestReadModifyWrite(t *testing.T) {
	// bsf RP0; clrf TRISA; bcf RP0; bsf PORTA,0; bsf PORTA,1; goto
	words := []uint16{0x1683, 0x0185, 0x1283, 0x0185, 0x1405, 0x1485, 0x2806}
	m := program(t, false, words...)
	m.Run(m.now.At(m.cycle+20), &wave{m: m})
	assert.Equal(t, circuit.DrivenLow, m.Drives(0), "RA0 went low again")
	assert.Equal(t, circuit.DrivenHigh, m.Drives(1))
	require.Len(t, m.Notes(), 1)
	assert.Equal(t, "read-modify-write-RA0", m.Notes()[0].Code)
	assert.Contains(t, m.Notes()[0].Text, "analog")
	// with ADCON1 = 6 both stay
	m = program(t, false, append([]uint16{0x1683, 0x3006, 0x009f}, 0x0185, 0x1283, 0x0185, 0x1405, 0x1485, 0x2808)...)
	m.Run(m.now.At(m.cycle+20), &wave{m: m})
	assert.Equal(t, []circuit.Drive{circuit.DrivenHigh, circuit.DrivenHigh}, []circuit.Drive{m.Drives(0), m.Drives(1)})
	assert.Empty(t, m.Notes())
}

// RA4 of two chips only pulls low; RA5 of the small ones cannot be an output.
func TestPinsThatAreSpecial(t *testing.T) {
	b := idle(t, PIC16F877A, quiet, 4_000_000)
	b.set("TRISA", 0)
	b.set("PORTA", 0x10)
	assert.Equal(t, circuit.Released, b.Drives(4))
	b.set("PORTA", 0)
	assert.Equal(t, circuit.DrivenLow, b.Drives(4))
	b = idle(t, PIC16F628A, calm628a, 4_000_000)
	b.set("CMCON", 7)
	b.set("TRISA", 0)
	b.set("PORTA", 0xff)
	assert.Equal(t, circuit.Released, b.Drives(5))
	assert.Equal(t, circuit.DrivenHigh, b.Drives(6), "no oscillator there")
	b = idle(t, PIC16F628A, 0x3f12&^0x10, 4_000_000) // HS
	b.set("TRISA", 0)
	b.set("PORTA", 0xff)
	assert.Equal(t, circuit.Released, b.Drives(6), "the crystal is there")
	b = idle(t, PIC16F628A, calm628a|0x80, 4_000_000) // LVP
	b.set("TRISB", 0)
	b.set("PORTB", 0xff)
	assert.Equal(t, circuit.Released, b.Drives(12), "RB4 is the programming pin")
	b = idle(t, PIC16F877A, quiet, 4_000_000)
	b.set("OPTION_REG", 0x7f)
	assert.Equal(t, circuit.PulledUp, b.Drives(9))
}

// The oscillator that the configuration chooses, and OSCCON.
func TestOscillators(t *testing.T) {
	for _, x := range []struct {
		v      *Variant
		config uint16
		osccon int
		rate   clock.Rate
	}{
		{PIC16F877A, quiet, -1, 20_000_000}, {PIC16F628A, calm628a, -1, 4_000_000},
		{PIC16F887, calm887&^7 | 4, -1, 4_000_000},
		{PIC16F887, calm887&^7 | 4, 0x70, 8_000_000}, {PIC16F887, calm887, 0x11, 125_000},
		{PIC16F887, calm887, 0x70, 20_000_000},
		{PIC16F88, 0x3f30, -1, 31_250}, {PIC16F88, 0x3f30, 0x60, 4_000_000}, {PIC16F88, calm88, -1, 20_000_000},
		{PIC16F88, calm88, 0x72, 8_000_000},
	} {
		b := idle(t, x.v, x.config, 20_000_000)
		if x.osccon >= 0 {
			b.set("OSCCON", uint8(x.osccon))
		}
		assert.Equal(t, x.rate, b.now.Rate, "%s %04x %x", x.v.title, x.config, x.osccon)
	}
	b := idle(t, PIC16F628A, calm628a, 4_000_000)
	b.set("PCON", 0)
	assert.Equal(t, clock.Rate(48_000), b.now.Rate)
	from, at := b.cycle, b.Now()
	b.Run(at+clock.Second, b.w)
	assert.InDelta(t, 12_000, b.cycle-from, 2)
}

// What the configuration word says of the start: the power-up timer, brown-out, a word that is not there.
func TestConfiguration(t *testing.T) {
	m := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000})
	require.NoError(t, m.Load(image(0x3f71, map[uint16][]uint16{0: {0x2800}})))
	assert.Equal(t, int64(72_000+256), m.begins)
	require.NoError(t, m.Load(image(0x3f79, map[uint16][]uint16{0: {0x2800}})))
	assert.Equal(t, int64(256), m.begins)
	im := image(0, map[uint16][]uint16{0: {0x2800}})
	im.Fuses = nil
	require.NoError(t, m.Load(im))
	require.Len(t, m.Notes(), 1)
	assert.Equal(t, "configuration", m.Notes()[0].Code)
	assert.Contains(t, m.Notes()[0].Text, "XT")
	low := newMachine(PIC16F877A, machine.Config{Clock: 4_000_000, Supply: 3_300_000})
	require.NoError(t, low.Load(image(0x3f71, map[uint16][]uint16{0: {0x2800}})))
	assert.Equal(t, machine.NoStart, low.Run(clock.Second, &wave{m: low}).Reason)
	require.NoError(t, low.Load(image(0x3f31, map[uint16][]uint16{0: {0x2800}})))
	assert.Equal(t, machine.Reached, low.Run(clock.Second, &wave{m: low}).Reason, "with brown-out off")
	slow := newMachine(PIC16F877A, machine.Config{Clock: 20_000_000})
	require.NoError(t, slow.Load(image(0x3f31, map[uint16][]uint16{0: {0x2800}})))
	require.Len(t, slow.Notes(), 1)
	assert.Equal(t, "oscillator", slow.Notes()[0].Code)
}

// A program that touches what is not modelled is told by its name.
func TestUnmodelledIsTold(t *testing.T) {
	for _, x := range []struct {
		v        *Variant
		register string
		value    uint8
		want     string
	}{
		{PIC16F877A, "TRISE", 0x10, "unmodelled PSP"}, {PIC16F877A, "TXSTA", bitSYNC, "unmodelled TXSTA"},
		{PIC16F877A, "SSPCON", bitSSPEN | 6, "unmodelled SSPCON"}, {PIC16F887, "SRCON", 0x80, "unmodelled SRCON"},
		{PIC16F887, "ECCPAS", 0x40, "unmodelled ECCPAS"}, {PIC16F887, "BAUDCTL", 1, "unmodelled BAUDCTL"},
		{PIC16F88, "OSCCON", 1, "unmodelled OSCCON"},
	} {
		b := idle(t, x.v, 0x3f2a&^0x1000, 4_000_000)
		b.set(x.register, x.value)
		var codes []string
		for _, n := range b.Notes() {
			codes = append(codes, n.Code)
		}
		assert.Contains(t, codes, x.want, fmt.Sprint(strings.Join(codes, ", ")))
	}
}
