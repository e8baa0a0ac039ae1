package max7219

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
)

// signs are what the registers that were written tell: the data sheet's power-on values (19-4452, "Initial Power-Up")
// and tables 2 to 10.
var signs = []part.Sign{
	{Entry: finding.Entry{Code: "clocks-too-few", Order: 2, Sure: true, Fact: true,
		Doc:      "a display driver is told to take a word before all of its bits were sent",
		Subsumes: []finding.Code{"dark", "shutdown", "scan-limit", "decode-mode", "bit-order", "not-shown", "never-changes"}},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			var short []part.Taken
			for _, x := range log {
				if x.What == shortWord && len(x.Data) > 0 {
					short = append(short, x)
				}
			}
			if len(short) == 0 || 2*len(short) < len(log) { // of each the log has what was executed as well
				return "", 0
			}
			return fmt.Sprintf("%s takes words of %d bits, address and value, and is told to take one after %d: load rises too soon.",
				b.Name, wordLength, short[0].Data[0]), short[0].At
		}},
	{Entry: finding.Entry{Code: "bit-order", Order: 2, Sure: true, Subsumes: []finding.Code{"dark", "shutdown"}},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			// Shutdown takes 0 and 1, so that 80 is the 1 of a word that is sent from its other end.
			for _, x := range written(log, regShutdown) {
				if x.Data[0] == 0x80 {
					return fmt.Sprintf("%s takes its data with the highest bit first, and the program sends the lowest first: shutdown is set to 80 in place of 01.",
						b.Name), x.At
				}
			}
			return "", 0
		}},
	{Entry: finding.Entry{Code: "shutdown", Doc: "a display driver is never taken out of shutdown", Order: 2,
		Sure:     true,
		Subsumes: []finding.Code{"dark"}},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			set := written(log, regShutdown)
			if n := len(set); n > 0 && set[n-1].Data[0]&1 == 1 {
				return "", 0
			}
			for digit := 1; digit <= digits; digit++ {
				if list := written(log, uint16(digit)); len(list) > 0 {
					return fmt.Sprintf("%s is never taken out of shutdown: register C must be set to 1, and stay so.",
						b.Name), list[0].At
				}
			}
			return "", 0
		}},
	{Entry: finding.Entry{Code: "scan-limit", Doc: "a display driver does not scan all of its digits", Order: 2,
		Sure: true},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			limit := written(log, regScan)
			scanned := 1
			if n := len(limit); n > 0 {
				scanned = limit[n-1].Data[0]&7 + 1
			}
			for digit := scanned + 1; digit <= digits; digit++ {
				for _, x := range written(log, uint16(digit)) {
					if !blankIn(log, x.Data[0], digit) {
						return fmt.Sprintf("%s scans %d of its digits: digit %d is written, and stays dark. The scan limit must be higher.",
							b.Name, scanned, digit), x.At
					}
				}
			}
			return "", 0
		}},
	{Entry: finding.Entry{Code: "decode-mode",
		Doc:   "a display driver decodes what are patterns, or shows numbers as patterns",
		Order: 2, Sure: true},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			if b.Settings.Text("shows") == "matrix" {
				for _, x := range written(log, regDecode) {
					if x.Data[0] != 0 && x.Data[0] == decoding(log) {
						return fmt.Sprintf("%s decodes its rows as figures: decode mode must be 0 for a matrix.",
							b.Name), x.At
					}
				}
				return "", 0
			}
			decoded, patterns, numbers, all := decoding(log), 0, 0, 0
			var at clock.Time
			for digit := 1; digit <= digits; digit++ {
				for _, x := range written(log, uint16(digit)) {
					all++
					switch v := x.Data[0] &^ 0x80; {
					case decoded>>(digit-1)&1 == 1 && v > 15:
						patterns++
						at = max(at, x.At)
					case decoded>>(digit-1)&1 == 0 && v >= 1 && v < blankCode:
						numbers++
						at = max(at, x.At)
					case decoded>>(digit-1)&1 == 0 && v > 15:
						return "", 0 // patterns, as they should be
					case v == 0 || v == blankCode:
						all-- // dark, or a 0
					}
				}
			}
			switch {
			case patterns*2 > all:
				return fmt.Sprintf("%s decodes numbers, and the program sends it patterns of segments: decode mode must be 0.", b.Name), at
			case numbers*2 > all:
				return fmt.Sprintf("%s takes what it gets for patterns of segments, and the program sends numbers: decode mode must be FF.",
					b.Name), at
			}
			return "", 0
		}},
}

// blankCode leaves a digit that is decoded dark (datasheet table 5).
const blankCode = 15

// written lists what a register got.
func written(log []part.Taken, register uint16) (out []part.Taken) {
	for _, x := range log {
		if x.What == "register "+names[register] && len(x.Data) > 0 {
			out = append(out, x)
		}
	}
	return out
}

// decoding is the decode mode that was set last.
func decoding(log []part.Taken) int {
	if list := written(log, regDecode); len(list) > 0 {
		return list[len(list)-1].Data[0]
	}
	return 0
}

// blankIn reports whether a value leaves a digit dark.
func blankIn(log []part.Taken, v, digit int) bool {
	if decoding(log)>>(digit-1)&1 == 1 {
		return v&0x8f == 15
	}
	return v == 0
}
