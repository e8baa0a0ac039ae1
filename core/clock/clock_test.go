package clock

import (
	"encoding/json"
	"math/big"
	"math/rand"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParse(t *testing.T) {
	for text, want := range map[string]Time{
		"0": 0, "1s": Second, "700ms": 700 * Millisecond, "1.5 s": 1500 * Millisecond, "40us": 40 * Microsecond,
		"40µs":   40 * Microsecond,
		"62.5ns": 62500, "2min": 2 * Minute, ".5s": 500 * Millisecond, "1ps": 1, " 3 ms ": 3 * Millisecond,
		"0.001s": Millisecond,
	} {
		got, err := Parse(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "5", "s", "-1s", "1e3ms", "1 h", "1,5s", "99999999999999999999s", "0x10ms",
		"1..5s", "ms5", "1.5.2s", "._s"} {
		_, err := Parse(text)
		assert.Error(t, err, text)
	}
}

// Times that both this package and the console write are in a table of their own, which both are held against.
func TestWriting(t *testing.T) {
	text, err := os.ReadFile("testdata/times.json")
	require.NoError(t, err)
	var cases []struct {
		PS             Time
		Seconds, Brief string
	}
	require.NoError(t, json.Unmarshal(text, &cases))
	require.NotEmpty(t, cases)
	for _, c := range cases {
		assert.Equal(t, c.Seconds, c.PS.String())
		assert.Equal(t, c.Brief, c.PS.Brief())
	}
	for want, span := range map[string]Time{
		"0 s": 0, "62.5 ns": 62500, "3.33 ms": 3330 * Microsecond, "702.38 ms": 702380 * Microsecond,
		"12.35 s": 12345678 * Microsecond,
		"120 s":   2 * Minute, "1000 µs": 999_999 * Nanosecond, "7 ps": 7, "-1.5 s": -1500 * Millisecond,
	} {
		assert.Equal(t, want, span.Short())
	}
	assert.InDelta(t, 1.5, (1500 * Millisecond).Seconds(), 1e-12)
}

func TestRates(t *testing.T) {
	for text, want := range map[string]Rate{"16MHz": 16_000_000, "7.3728 MHz": 7_372_800, "32768Hz": 32768,
		"1kHz": 1000, "0.5kHz": 500} {
		got, err := ParseRate(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "16", "0Hz", "16mhz", "-1Hz", "fastHz"} {
		_, err := ParseRate(text)
		assert.Error(t, err, text)
	}
	assert.Equal(t, "16 MHz", Rate(16_000_000).String())
	assert.Equal(t, "7.3728 MHz", Rate(7_372_800).String())
	assert.Equal(t, "32.768 kHz", Rate(32768).String())
	assert.Equal(t, "50 Hz", Rate(50).String())
}

// Conversions are exact to the picosecond for hours, and each other's inverse.
func TestConversionsAreExact(t *testing.T) {
	random := rand.New(rand.NewSource(1))
	for _, r := range []Rate{1_000_000, 7_372_800, 8_000_000, 11_059_200, 16_000_000, 18_432_000, 20_000_000, 32768,
		3} {
		for i := 0; i < 2000; i++ {
			n := random.Int63n(int64(r) * 3600 * 24)
			exact := new(big.Int).Mul(big.NewInt(n), big.NewInt(int64(Second)))
			exact.Quo(exact, big.NewInt(int64(r)))
			at := r.At(n)
			require.Equal(t, exact.Int64(), int64(at), "%s, cycle %d", r, n)
			require.Equal(t, n, r.Cycles(at), "%s, cycle %d", r, n)
			require.Equal(t, n+1, r.Cycles(at+1), "%s, just after cycle %d", r, n)
		}
	}
	assert.Equal(t, Time(-62500), Rate(16_000_000).At(-1))
	assert.Zero(t, Rate(16_000_000).Cycles(-5))
	assert.Greater(t, Rate(16_000_000).Cycles(Never), int64(1)<<62)
}
