package rp2040

import (
	"math"
)

// floatSlots is how many functions each of the two tables has.
const floatSlots = 32

// floatAddress is what stands in so many words behind the beginning of the first table: the second begins 64 words
// later.
func floatAddress(slot uint32) uint32 {
	if slot%64 >= floatSlots {
		return 0
	}
	return romFloats + 16*(slot/64*floatSlots+slot%64) + 1
}

// floatCycles is about how long a function takes, by its place (2.8.3.2 gives ranges).
var floatCycles = [2]int64{70, 180}

// callFloat carries out a function on floating-point numbers (2.8.3.2): results are rounded to the nearest, of two the
// even one; what is too small for a normal number is 0, before and after, and what is none counts as infinite.
func (m *Machine) callFloat(n int) bool {
	if n >= 2*floatSlots {
		return false
	}
	double := n >= floatSlots
	f := form{r: &m.core.R, double: double}
	m.core.Cycle += floatCycles[n/floatSlots]
	x, y := f.take(0), f.take(1)
	switch n % floatSlots {
	case 0:
		f.give(x + y)
	case 1:
		f.give(x - y)
	case 2:
		f.give(x * y)
	case 3:
		f.give(x / y)
	case 4, 5, 21: // compares; those of the first version set flags
		c := compare(x, y)
		f.r[0] = uint32(c)
		m.core.Compare(c)
	case 6:
		f.give(math.Sqrt(x))
	case 7:
		f.giveInteger(math.Floor(x), math.MinInt32, math.MaxInt32)
	case 8:
		f.giveInteger(math.Floor(math.Ldexp(x, f.places())), math.MinInt32, math.MaxInt32)
	case 9:
		f.giveInteger(math.Floor(x), 0, math.MaxUint32)
	case 10:
		f.giveInteger(math.Floor(math.Ldexp(x, f.places())), 0, math.MaxUint32)
	case 11:
		f.give(float64(int32(f.r[0])))
	case 12:
		f.give(math.Ldexp(float64(int32(f.r[0])), -int(int32(f.r[1]))))
	case 13:
		f.give(float64(f.r[0]))
	case 14:
		f.give(math.Ldexp(float64(f.r[0]), -int(int32(f.r[1]))))
	case 15:
		f.give(math.Cos(x))
	case 16:
		f.give(math.Sin(x))
	case 17:
		f.give(math.Tan(x))
	case 18: // sine and cosine at once
		f.give(math.Sin(x))
		f.put(1, math.Cos(x))
	case 19:
		f.give(math.Exp2(x * math.Log2E)) // math.Exp differs from machine to machine in its last bit
	case 20:
		f.give(math.Log(x))
	case 22:
		f.give(math.Atan2(x, y))
	case 23, 24:
		f.giveRounded(int64(f.wide()) < 0, f.wide(), -f.shift(n%floatSlots == 24))
	case 25, 26:
		f.giveRounded(false, f.wide(), -f.shift(n%floatSlots == 26))
	case 27:
		f.giveWide(math.Floor(x), true)
	case 28:
		f.giveWide(math.Floor(math.Ldexp(x, f.places())), true)
	case 29:
		f.giveWide(math.Floor(x), false)
	case 30:
		f.giveWide(math.Floor(math.Ldexp(x, f.places())), false)
	case 31: // the other precision
		f.double = !double
		f.give(x)
	}
	return true
}

// compare is -1, 0 or 1.
func compare(x, y float64) int32 {
	switch {
	case x < y:
		return -1
	case x > y:
		return 1
	}
	return 0
}

// form is how numbers stand in registers: a single in one, a double in two, the lower half first.
type form struct {
	r      *[16]uint32
	double bool
}

// take is an argument.
func (f form) take(n int) float64 {
	if f.double {
		v := uint64(f.r[2*n]) | uint64(f.r[2*n+1])<<32
		switch exponent := v >> 52 & 0x7ff; exponent {
		case 0:
			v &= 1 << 63
		case 0x7ff:
			v &^= 1<<52 - 1
		}
		return math.Float64frombits(v)
	}
	v := f.r[n]
	switch exponent := v >> 23 & 0xff; exponent {
	case 0:
		v &= 1 << 31
	case 0xff:
		v &^= 1<<23 - 1
	}
	return float64(math.Float32frombits(v))
}

// give is a result. That of a sum, a product, a quotient or a root of two singles, computed as a double, rounds to the
// same single: a double has more than twice their bits and two.
func (f form) give(v float64) { f.put(0, v) }

// put is one of several results. What is no number has a sign on one machine and none on another: here it has none.
func (f form) put(n int, v float64) {
	if v != v {
		v = math.Inf(1)
	}
	if f.double {
		b := math.Float64bits(v)
		if b>>52&0x7ff == 0 {
			b &= 1 << 63
		}
		f.r[2*n], f.r[2*n+1] = uint32(b), uint32(b>>32)
		return
	}
	b := math.Float32bits(float32(v))
	if b>>23&0xff == 0 {
		b &= 1 << 31
	}
	f.r[n] = b
}

// places is how many binary places a fixed-point result has: the argument behind the number.
func (f form) places() int {
	if f.double {
		return int(int32(f.r[2]))
	}
	return int(int32(f.r[1]))
}

// giveInteger is a result of 32 bits, the nearest there is.
func (f form) giveInteger(v, least, most float64) {
	f.r[0] = uint32(int64(max(least, min(most, v))))
}

// giveWide is one of 64 bits.
func (f form) giveWide(v float64, signed bool) {
	var w uint64
	switch {
	case signed && v >= 1<<63:
		w = math.MaxInt64
	case signed && v < -(1<<63):
		w = 1 << 63
	case signed:
		w = uint64(int64(v))
	case v >= 1<<64:
		w = math.MaxUint64
	case v > 0:
		w = uint64(v)
	}
	f.r[0], f.r[1] = uint32(w), uint32(w>>32)
}

func (f form) wide() uint64 { return uint64(f.r[0]) | uint64(f.r[1])<<32 }

// shift is how many binary places an integer of 64 bits has.
func (f form) shift(fixed bool) int {
	if fixed {
		return int(int32(f.r[2]))
	}
	return 0
}

// giveRounded is an integer of 64 bits times a power of two, rounded once.
func (f form) giveRounded(negative bool, v uint64, power int) {
	if negative {
		v = -v
	}
	sign := 1.0
	if negative {
		sign = -1
	}
	if !f.double {
		f.give(sign * math.Ldexp(float64(float32(v)), power))
		return
	}
	f.give(sign * math.Ldexp(float64(v), power))
}
