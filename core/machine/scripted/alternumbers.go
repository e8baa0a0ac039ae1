package scripted

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// likeNext are the numbers beside a comparison that change as much as the other comparison does: by one, up or down.
var likeNext = map[string]int64{"<": 1, "<=": -1, ">": -1, ">=": 1}

// Digits that are kept of a number with a point.
const digits = 4

// numberAt looks at a number within brackets of a kind; function is what is called there.
func (l *lister) numberAt(i int, opener, function string) {
	t := l.tokens[i]
	tried := map[string]bool{t.Word: true}
	try := func(rare int, to string) {
		if !tried[to] {
			tried[to] = true
			l.replace(t, machine.Number, rare, to)
		}
	}
	lower := strings.ToLower(function)
	waits := strings.Contains(lower, "sleep") || strings.Contains(lower, "wait") || strings.Contains(lower, "timer")
	// what is made of pins: there is a repair of the wiring for those
	wired := !waits && function != "" && (function[0] >= 'A' && function[0] <= 'Z' || function == "setup")
	is, err := strconv.ParseInt(t.Word, 0, 32)
	if err != nil {
		l.fraction(t, try)
		return
	}
	if by, ok := likeNext[l.word(i-1)]; ok {
		tried[strconv.FormatInt(is+by, 10)] = true
	}
	compared := comparisons[l.word(i-1)] || comparisons[l.word(i+1)]
	listed := opener != "" && function == ""
	if listed && (is == 0 || is == 1) { // most likely a bit
		try(machine.Unlikely, strconv.FormatInt(1-is, 10))
		return
	}
	for _, r := range l.hints.Ratios {
		longer, later := meant(float64(is)*float64(r[0])/float64(r[1])), meant(float64(is)+float64(r[0]-r[1])/1000)
		if listed || wired {
			break
		}
		if waits || longer == math.Trunc(longer) {
			try(0, written(longer))
		}
		if later > 0 && later == math.Trunc(later) {
			try(0, written(later))
		}
	}
	if !wired {
		for _, to := range l.hints.InPlaceOf(is) {
			try(machine.Likely, strconv.FormatInt(to, 10))
		}
	}
	if !listed && !wired {
		for _, to := range l.odd(is) {
			try(machine.Likely, strconv.FormatInt(to, 10))
		}
	}
	hexadecimal := strings.HasPrefix(strings.ToLower(t.Word), "0x")
	l.hints.Each(is, hexadecimal, func(rare int, to int64) {
		switch off := to - is; {
		case to < 0:
			return
		case wired || hexadecimal || listed:
			rare = machine.Unlikely
		case waits || off == 1 || off == -1:
			rare = max(rare, machine.Seldom)
		case compared && slices.Contains(l.hints.Wanted, to):
			rare = 0
		case rare > 0:
			rare = machine.Unlikely
		}
		if hexadecimal {
			try(rare, "0x"+strconv.FormatInt(to, 16))
		} else {
			try(rare, strconv.FormatInt(to, 10))
		}
	})
}

// fraction looks at a number with a point.
func (l *lister) fraction(t script.Token, try func(rare int, to string)) {
	is, err := strconv.ParseFloat(t.Word, 64)
	if err != nil || is == 0 {
		return
	}
	for _, r := range l.hints.Ratios {
		try(0, written(meant(is*float64(r[0])/float64(r[1]))))
	}
	for _, by := range []float64{10, 0.1, 2, 0.5, 1000, 0.001} {
		try(machine.Seldom, written(is*by))
	}
	for _, by := range l.hints.Shifts {
		try(machine.Unlikely, written(is+float64(by)))
		try(machine.Unlikely, written(is-float64(by)))
	}
}

// meant is the number of two digits that is meant by one that comes from a time as it was seen.
func meant(n float64) float64 { return float64(machine.Rounded(int64(math.Round(n*1000)))) / 1000 }

// written is a number as people write it.
func written(n float64) string {
	rounded, _ := strconv.ParseFloat(strconv.FormatFloat(n, 'g', digits, 64), 64)
	return strconv.FormatFloat(rounded, 'f', -1, 64)
}

// Numbers of a list that may be times.
const mostScaled = 16

// scaled looks at a list of numbers alone: all may be in another unit than was meant.
func (l *lister) scaled(open, end int) {
	if len(l.hints.Ratios) == 0 || l.applied(open) {
		return
	}
	var at []script.Token
	for i := open + 1; i < end && l.tokens[i].Kind == script.Number; i += 2 {
		if at = append(at, l.tokens[i]); l.word(i+1) == ")" || l.word(i+1) == "]" {
			l.scale(at)
			return
		} else if l.word(i+1) != "," || len(at) == mostScaled {
			return
		}
	}
}

func (l *lister) scale(numbers []script.Token) {
	bits, rare := true, machine.Seldom
	by := []float64{10, 0.1, 1000, 0.001}
	for _, r := range l.hints.Ratios {
		by = append(by, float64(r[0])/float64(r[1]))
	}
	for _, t := range numbers { // those of pins have neither
		if t.Word == "1" || strings.Contains(t.Word, ".") {
			rare = 0
		}
	}
	tried := map[string]bool{}
	for _, f := range by {
		var edits []script.Edit
		var stands, others []string
		for _, t := range numbers {
			is, err := strconv.ParseFloat(t.Word, 64)
			if err != nil {
				return
			}
			bits = bits && (is == 0 || is == 1)
			to := written(meant(is * f))
			edits = append(edits, t.Replaced(to))
			stands, others = append(stands, t.Word), append(others, to)
		}
		if bits || len(numbers) < 2 {
			return
		}
		whole := strings.Join(others, ", ")
		if tried[whole] {
			continue
		}
		tried[whole] = true
		l.put(numbers[0].Line, machine.Alteration{Slip: machine.Number, Rare: rare,
			Stands: script.Cut(strings.Join(stands, ", ")), Meant: script.Cut(whole)}, edits...)
	}
}
