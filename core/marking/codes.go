package marking

import (
	"slices"
	"strings"

	"hemble/core/advice"
	"hemble/core/fault"
	"hemble/core/machine"
)

// reported are the families of findings that the chip, the parts and the bench report, without the pin, part or register that
// they are about.
var reported = []string{
	"adc-channel", "aref", "capture-end", "charge-pump", "clkpr", "command", "contention", "cue", "current", "dht11-soon", "dht11-start", "floating", "inert", "lcd-busy",
	"lcd-enable", "nobody", "nothing-happened", "outside-sram", "refs", "reserved", "serial-command", "serial-framing",
	"serial-warm-up", "spi-ss", "twi-lines", "unmodelled", "unstable",
}

// Codes lists what a finding can be, in order: families of codes, as `deductions` name them.
func Codes() []string {
	codes := slices.Concat(reported, advice.Signs())
	for _, f := range fault.All() {
		codes = append(codes, f.Code)
	}
	for _, r := range machine.Reasons {
		codes = append(codes, string(r))
	}
	slices.Sort(codes)
	return slices.Compact(codes)
}

// Family tells whether a code is of a family: the same word, or more of it after a hyphen or a space. What a part reports has the
// part's name before its code.
func Family(code, of string) bool {
	for {
		if rest, ok := strings.CutPrefix(code, of); ok && (rest == "" || rest[0] == '-' || rest[0] == ' ') {
			return true
		}
		_, rest, ok := strings.Cut(code, " ")
		if !ok {
			return false
		}
		code = rest
	}
}
