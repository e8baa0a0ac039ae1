// Package clock has simulated time, in picoseconds since power-on, and its exact conversion to and from the cycles of
// an oscillator.
package clock

import (
	"fmt"
	"math"
	"math/bits"
	"strconv"
	"strings"
)

// Unit is what times are counted in wherever they are written as whole numbers.
const Unit = "ps"

// Time is a moment or a span of simulated time in picoseconds. 16 MHz is 62 500 ps a
// cycle; an int64 holds 106 days.
type Time int64

// The usual spans.
const (
	Picosecond  Time = 1
	Nanosecond       = 1000 * Picosecond
	Microsecond      = 1000 * Nanosecond
	Millisecond      = 1000 * Microsecond
	Second           = 1000 * Millisecond
	Minute           = 60 * Second

	// Never is later than any moment of any run.
	Never Time = math.MaxInt64
)

// Brief is Short with three digits, for narrow places: "702 ms", "3.33 ms".
func (t Time) Brief() string {
	for _, u := range []struct {
		name string
		size Time
	}{{"s", Second}, {"ms", Millisecond}, {"µs", Microsecond}} {
		if v := float64(t) / float64(u.size); v >= 0.9995 {
			decimals := 2
			if v >= 99.95 {
				decimals = 0
			} else if v >= 9.995 {
				decimals = 1
			}
			text := strconv.FormatFloat(v, 'f', decimals, 64)
			if strings.Contains(text, ".") {
				text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
			}
			return text + " " + u.name
		}
	}
	return t.Short()
}

// Seconds gives t in seconds, for drawing and for people, never for deciding.
func (t Time) Seconds() float64 { return float64(t) / float64(Second) }

// String writes t as people read it here: seconds with three decimals.
func (t Time) String() string {
	sign := ""
	if t < 0 {
		sign, t = "-", -t
	}
	ms := (t + Millisecond/2) / Millisecond
	return fmt.Sprintf("%s%d.%03d s", sign, ms/1000, ms%1000)
}

// Short writes a span with the unit that suits its size: "62.5 ns", "4 ms", "1.2 s".
func (t Time) Short() string {
	sign := ""
	if t < 0 {
		sign, t = "-", -t
	}
	for _, u := range []struct {
		name string
		size Time
	}{{"s", Second}, {"ms", Millisecond}, {"µs", Microsecond}, {"ns", Nanosecond}} {
		if t >= u.size {
			v := float64(t) / float64(u.size)
			return sign + strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) + " " + u.name
		}
	}
	if t == 0 {
		return "0 s"
	}
	return fmt.Sprintf("%s%d ps", sign, int64(t))
}

var units = []struct {
	suffix string
	size   Time
}{{"ps", Picosecond}, {"ns", Nanosecond}, {"us", Microsecond}, {"µs", Microsecond}, {"ms", Millisecond},
	{"min", Minute}, {"s", Second}}

// Parse reads a span such as "700ms", "1.5 s", "2min" or "40us". A bare number other than
// 0 is refused: a span needs its unit.
func Parse(text string) (Time, error) {
	s := strings.TrimSpace(text)
	if s == "0" {
		return 0, nil
	}
	for _, u := range units {
		number, found := strings.CutSuffix(s, u.suffix)
		if !found {
			continue
		}
		v, err := parseDecimal(strings.TrimSpace(number), int64(u.size))
		if err != nil {
			continue
		}
		return Time(v), nil
	}
	return 0, fmt.Errorf("%q is not a time; write a number and its unit, such as 250ms, 1.5s, 40us or 2min", text)
}

// parseDecimal reads a non-negative decimal number times scale, exactly.
func parseDecimal(s string, scale int64) (int64, error) {
	whole, fraction, _ := strings.Cut(s, ".")
	if whole == "" && fraction == "" || strings.ContainsAny(s, "+-_eE") {
		return 0, strconv.ErrSyntax
	}
	total := int64(0)
	if whole != "" {
		w, err := strconv.ParseInt(whole, 10, 64)
		if err != nil {
			return 0, err
		}
		if w > math.MaxInt64/2/scale {
			return 0, strconv.ErrRange
		}
		total = w * scale
	}
	unit := scale
	for _, digit := range fraction {
		if digit < '0' || digit > '9' {
			return 0, strconv.ErrSyntax
		}
		unit /= 10
		total += int64(digit-'0') * unit
	}
	return total, nil
}

// Rate is an oscillator's frequency in hertz.
type Rate int64

// ParseRate reads a frequency such as "16MHz", "7.3728 MHz", "32768Hz" or "1kHz".
func ParseRate(text string) (Rate, error) {
	s := strings.TrimSpace(text)
	for _, u := range []struct {
		suffix string
		size   int64
	}{{"MHz", 1_000_000}, {"kHz", 1000}, {"Hz", 1}} {
		number, found := strings.CutSuffix(s, u.suffix)
		if !found {
			continue
		}
		v, err := parseDecimal(strings.TrimSpace(number), u.size)
		if err != nil || v == 0 {
			break
		}
		return Rate(v), nil
	}
	return 0, fmt.Errorf("%q is not a frequency; write a number and its unit, such as 16MHz, 32768Hz or 1kHz", text)
}

// String writes the rate with the largest unit that leaves a short number.
func (r Rate) String() string {
	switch {
	case r >= 1_000_000:
		return strconv.FormatFloat(float64(r)/1e6, 'f', -1, 64) + " MHz"
	case r >= 1000:
		return strconv.FormatFloat(float64(r)/1e3, 'f', -1, 64) + " kHz"
	}
	return strconv.FormatInt(int64(r), 10) + " Hz"
}

// At is the moment at which the oscillator has made n cycles since power-on, rounded down to
// a picosecond; no rounding accumulates.
func (r Rate) At(n int64) Time {
	if n < 0 {
		return -r.At(-n)
	}
	hi, lo := bits.Mul64(uint64(n), uint64(Second))
	q, _ := bits.Div64(hi%uint64(r), lo, uint64(r))
	return Time(q)
}

// Cycles is the first cycle count whose moment is at or after t.
func (r Rate) Cycles(t Time) int64 {
	if t <= 0 {
		return 0
	}
	if t == Never {
		return math.MaxInt64
	}
	hi, lo := bits.Mul64(uint64(t), uint64(r))
	q, _ := bits.Div64(hi, lo, uint64(Second))
	for r.At(int64(q)) < t {
		q++
	}
	return int64(q)
}
