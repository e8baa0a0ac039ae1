// Package dht11 is a sensor of temperature and humidity on one wire (Aosong, "DHT11 product manual").
package dht11

import (
	"fmt"
	"strconv"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// Times of the protocol (product manual, section 5).
const (
	startLow   = 18 * clock.Millisecond // the least time that the chip pulls low
	settle     = clock.Second           // after power-on
	between    = clock.Second           // from reading to reading
	answerWait = 30 * clock.Microsecond // after the line went high: 20 µs to 40 µs
	answerHalf = 80 * clock.Microsecond
	bitLow     = 50 * clock.Microsecond
	zeroHigh   = 27 * clock.Microsecond // 26 µs to 28 µs
	oneHigh    = 70 * clock.Microsecond
)

func init() {
	part.Register(&part.Kind{
		Name:     "dht11",
		Title:    "DHT11 temperature and humidity sensor",
		Function: "ϑ, % RH",
		Doc:      "Answers on one wire with forty bits after the chip has pulled it low for 18 ms. It needs a second after power-on and between readings; asked sooner, it stays silent. `set` changes its temperature, such as 23C, or a humidity, such as 45%.",
		Source:   "Aosong DHT11 product manual, section 5 (serial interface)",
		Settings: []spec.Field{
			{Name: "temperature", Kind: spec.Int, Min: 0, Max: 50, Default: "20", Doc: "in °C at power-on"},
			{Name: "humidity", Kind: spec.Int, Min: 20, Max: 90, Default: "50", Doc: "in percent at power-on"},
			{Name: "pull-up", Kind: spec.Bool, Default: "yes", Doc: "the module's own pull-up resistor"},
		},
		Pins:     []spec.Key{{Name: "data", Doc: "the wire, bidirectional"}},
		Cues:     []string{part.Set},
		Value:    "temperature",
		Measured: true,
		Example:  "air: {part: dht11, temperature: 21, humidity: 48, pins: {data: <1>}}",
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, _, err := reading(c.To)
			return err
		},
		Controls: func(b part.Instance) []part.Control {
			return []part.Control{part.Scale("temperature", 0, 50, 1, int(b.Settings.Int("temperature")),
				part.Unit("C")),
				part.Scale("humidity", 20, 90, 5, int(b.Settings.Int("humidity")), part.Unit("%"))}
		},
		Notes: []finding.Entry{
			{Code: "dht11-start", Doc: "the start pulse was too short to wake the sensor"},
			{Code: "dht11-soon", Doc: "the sensor was asked again too soon"},
		},
		New: func(b part.Instance, w part.Host) part.Part {
			s := &sensor{world: w, temperature: uint8(b.Settings.Int("temperature")),
				humidity: uint8(b.Settings.Int("humidity")), idle: circuit.Released, next: settle}
			if b.Settings.Bool("pull-up") {
				s.idle = circuit.PulledUp
			}
			return s
		},
	})
}

// reading takes what a cue sets: a temperature or a humidity.
func reading(to string) (value uint8, humidity bool, err error) {
	number, percent := strings.CutSuffix(strings.TrimSpace(to), "%")
	v, parsed := strconv.Atoi(strings.TrimSuffix(strings.TrimSuffix(number, "C"), "°"))
	if parsed != nil || percent && (v < 20 || v > 90) ||
		!percent && (v < 0 || v > 50 || number == strings.TrimSuffix(number, "C")) {
		return 0, false,
			fmt.Errorf("a DHT11 is set `to:` a temperature of 0C to 50C or a humidity of 20%% to 90%%, not %q", to)
	}
	return uint8(v), percent, nil
}

type sensor struct {
	world                 part.Host
	temperature, humidity uint8
	idle                  circuit.Drive
	begun                 bool
	low                   bool
	fell                  clock.Time
	next                  clock.Time   // when it answers again
	edges                 []clock.Time // of the answer still to come, as gaps; it goes low first
	sending               bool
}

// Changed watches for a start signal.
func (s *sensor) Changed(uint64) {
	if !s.begun {
		s.begun = true
		s.world.Drive(0, s.idle)
	}
	low := s.world.Net(0).Level == circuit.Low
	if low == s.low || s.sending {
		return
	}
	s.low = low
	now := s.world.Now()
	switch {
	case low:
		s.fell = now
	case now-s.fell < startLow:
		s.world.Note("dht11-start", "the wire was pulled low for %s; the sensor wakes after %s", (now - s.fell).Short(),
			startLow.Short())
	case now < s.next:
		s.world.Note("dht11-soon", "the sensor was asked %s too soon, and stayed silent", (s.next - now).Short())
	default:
		s.answer()
	}
}

// answer lays out the edges: a response, forty bits, and the end.
func (s *sensor) answer() {
	s.sending, s.next = true, s.world.Now()+between
	data := [5]uint8{s.humidity, 0, s.temperature, 0, s.humidity + s.temperature}
	s.world.Log("answer", data[:]...)
	s.edges = append(s.edges[:0], answerHalf, answerHalf)
	for _, v := range data {
		for i := 7; i >= 0; i-- {
			high := zeroHigh
			if v>>i&1 == 1 {
				high = oneHigh
			}
			s.edges = append(s.edges, bitLow, high)
		}
	}
	s.edges = append(s.edges, bitLow)
	s.world.After(0, answerWait)
}

// Wake is the next edge of an answer.
func (s *sensor) Wake(int) {
	if len(s.edges) == 0 {
		s.sending, s.low = false, false
		s.world.Drive(0, s.idle)
		return
	}
	if len(s.edges)%2 == 1 {
		s.world.Drive(0, circuit.DrivenLow)
	} else {
		s.world.Drive(0, circuit.DrivenHigh)
	}
	gap := s.edges[0]
	s.edges = s.edges[1:]
	s.world.After(0, gap)
}

// Cue changes what it measures.
func (s *sensor) Cue(c part.Cue) error {
	v, humidity, err := reading(c.To)
	switch {
	case err != nil:
	case humidity:
		s.humidity = v
	default:
		s.temperature = v
	}
	return err
}
