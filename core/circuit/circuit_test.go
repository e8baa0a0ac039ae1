package circuit

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
)

const supply = 5_000_000 // µV

func TestStrongestWins(t *testing.T) {
	n := NewNet("x", supply)
	a, b, c := n.Attach(), n.Attach(), n.Attach()
	assert.Equal(t, Released, n.Drive)
	assert.True(t, n.Set(a, PulledUp))
	assert.Equal(t, PulledUp, n.Drive)
	assert.False(t, n.Set(a, PulledUp), "the same again changes nothing")
	assert.True(t, n.Set(b, DrivenLow))
	assert.Equal(t, DrivenLow, n.Drive, "an output is stronger than a pull-up")
	assert.False(t, n.Contended)
	n.Set(c, DrivenHigh)
	assert.True(t, n.Contended, "two outputs against each other")
	assert.Equal(t, Low, n.Drive.Level)
	n.Set(a, Ground)
	assert.False(t, n.Contended, "a rail decides")
	n.Set(a, Released)
	n.Set(b, Released)
	assert.Equal(t, DrivenHigh, n.Drive)
	n.Set(c, Released)
	assert.Equal(t, Float, n.Drive.Level)
}

func TestContacts(t *testing.T) {
	pin, ground, other := NewNet("PD7", supply), NewNet("GND", supply), NewNet("other", supply)
	p := pin.Attach()
	ground.Set(ground.Attach(), Ground)
	pin.Set(p, PulledUp)
	assert.True(t, Join(pin, ground))
	assert.True(t, pin.Joined())
	assert.Equal(t, Ground, pin.Drive)
	Join(pin, other)
	assert.Equal(t, Ground, other.Drive, "contacts reach on")
	assert.Len(t, other.Group(), 3)
	pin.Set(p, DrivenHigh)
	assert.Equal(t, Ground, other.Drive)
	assert.True(t, Open(pin, ground))
	assert.Equal(t, []Drive{DrivenHigh, Ground, DrivenHigh}, []Drive{pin.Drive, ground.Drive, other.Drive})
	Open(pin, other)
	assert.Equal(t, Released, other.Drive)
	assert.False(t, pin.Joined())
}

// However contacts open and close, a net is at what a fresh resolution of its group gives.
func TestContactsAtRandom(t *testing.T) {
	random := rand.New(rand.NewSource(2))
	drives := []Drive{Released, PulledUp, DrivenLow, DrivenHigh, Ground, Supply}
	var nets []*Net
	for i := 0; i < 6; i++ {
		n := NewNet("n", supply)
		n.Attach()
		n.Attach()
		nets = append(nets, n)
	}
	type pair struct{ a, b int }
	closed := map[pair]bool{}
	for i := 0; i < 3000; i++ {
		a, b := random.Intn(6), random.Intn(6)
		p := pair{min(a, b), max(a, b)}
		switch {
		case a == b:
			nets[a].Set(random.Intn(2), drives[random.Intn(len(drives))])
		case closed[p]:
			Open(nets[a], nets[b])
			delete(closed, p)
		default:
			Join(nets[a], nets[b])
			closed[p] = true
		}
		for _, n := range nets {
			d, contended := Released, false
			for _, g := range n.Group() {
				d, contended = strongest(d, contended, g.terminals)
			}
			assert.Equal(t, d, n.Drive)
		}
	}
}

func TestDiode(t *testing.T) {
	assert.Equal(t, int64(10_847_457), Diode(supply, RedVf, DrivenHigh, Ground, 270, 0, true, 1))
	assert.Equal(t, int64(10_847_457), Diode(supply, RedVf, Supply, DrivenLow, 270, 0, true, 1), "either way round")
	assert.InDelta(t, 91_000, Diode(supply, RedVf, PulledUp, Ground, 270, 0, true, 1), 1000,
		"a pull-up gives a tenth of a milliampere")
	assert.Equal(t, int64(128_000_000), Diode(supply, RedVf, DrivenHigh, Ground, 0, 0, true, 1),
		"without a resistor the pin limits it, far too high")
	for name, got := range map[string]int64{
		"wrong way round": Diode(supply, RedVf, Ground, DrivenHigh, 270, 0, true, 1),
		"both high":       Diode(supply, RedVf, DrivenHigh, Supply, 270, 0, true, 1),
		"floating":        Diode(supply, RedVf, Released, Ground, 270, 0, true, 1),
		"supply too low":  Diode(1_800_000, BlueVf, Supply, Ground, 270, 0, true, 1),
	} {
		assert.Zero(t, got, name)
	}
	one := Diode(supply, RedVf, Supply, DrivenLow, 270, 0, false, 1)
	eight := Diode(supply, RedVf, Supply, DrivenLow, 270, 0, false, 8)
	assert.Equal(t, one*(270+25)/(270+8*25), eight, "a pin that sinks eight segments limits them")
	assert.Positive(t, Diode(supply, RedVf, Supply, Ground, 0, 0, true, 1),
		"no resistance at all is no division by zero")
}

func TestWords(t *testing.T) {
	assert.Equal(t, []string{"low", "high", "floating"}, []string{Low.String(), High.String(), Float.String()})
	assert.Equal(t, DrivenHigh, Output(true))
	assert.Equal(t, DrivenLow, Output(false))
	assert.Zero(t, None.Ohms())
}

// Resistors pull by their conductance, against each other and against the chip's pull-up; what drives is stronger.
func TestResistors(t *testing.T) {
	n := NewNet("PD7", supply)
	pin, down, up := n.Attach(), n.Attach(), n.Attach()
	n.Set(down, Behind(Ground, 10_000, supply))
	assert.Equal(t, Low, n.Drive.Level)
	assert.Equal(t, int64(10_000), n.Drive.Ohms())
	n.Set(pin, PulledUp)
	assert.Equal(t, Low, n.Drive.Level, "10 kΩ to ground beat a pull-up of 35 kΩ")
	assert.Equal(t, int64(1_111_111), n.Drive.Voltage(supply))
	assert.False(t, n.Contended)
	n.Set(down, Behind(Ground, 100_000, supply))
	assert.Equal(t, High, n.Drive.Level, "100 kΩ do not")
	n.Set(pin, Released)
	n.Set(up, Behind(Supply, 300_000, supply))
	assert.Equal(t, int64(1_250_000), n.Drive.Voltage(supply), "a divider of 300 kΩ and 100 kΩ")
	assert.InDelta(t, 75_000, n.Drive.Ohms(), 10)
	n.Set(pin, DrivenHigh)
	assert.Equal(t, DrivenHigh, n.Drive)
	n.Set(pin, Released)
	switched := NewNet("VCC", supply)
	switched.Set(switched.Attach(), Supply)
	Join(n, switched)
	assert.Equal(t, Supply, n.Drive)
	Open(n, switched)
	assert.Equal(t, int64(1_250_000), n.Drive.Voltage(supply))
	assert.Equal(t, Released, Behind(PulledUp, 1_000, supply))
	assert.Equal(t, Released, Behind(n.Drive, 1_000, supply))
	assert.Equal(t, int64(13_061_224), Diode(supply, RedVf, Behind(DrivenHigh, 220, supply), Ground, 0, 0, true, 1),
		"through 220 Ω and the pin's 25 Ω")
}
