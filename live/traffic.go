package live

import (
	"fmt"
	"sort"
	"strings"

	"hemble/core/clock"
)

// keptSent is how much of a bus's traffic a probe keeps, maxBuses of how many.
const (
	keptSent = 1 << 13
	maxBuses = 64
)

// traffic is what went over a bus last, each byte or command by the moment at which it was over.
type traffic struct {
	sent []sent // a ring
	next int
}

type sent struct {
	at   clock.Time
	text string
}

// Mark is what went over a bus, by the column of a scope in which it ended. Of what ended in the same column the first
// is told, and how many more there are.
type Mark struct {
	Column int    `json:"column"`
	Text   string `json:"text"`
	More   int    `json:"more,omitempty"`
}

// Sent takes what went over a bus; see bench.BusWatcher.
func (p *Probe) Sent(t clock.Time, bus, what string, data []byte) {
	b := p.buses[bus]
	if b == nil {
		if len(p.buses) == maxBuses {
			return
		}
		b = &traffic{}
		p.buses[bus] = b
	}
	s := sent{t, inShort(what, data)}
	if len(b.sent) < keptSent {
		b.sent = append(b.sent, s)
		return
	}
	b.sent[b.next] = s
	b.next = (b.next + 1) % keptSent
}

// inShort is what a scope has room for: what a serial port sent as characters, other bytes in hexadecimal.
func inShort(what string, data []byte) string {
	var out []string
	if what != "" && what != "sent" {
		out = append(out, what)
	}
	for _, v := range data {
		if what == "sent" && v > ' ' && v < 0x7f {
			out = append(out, "'"+string(rune(v))+"'")
		} else {
			out = append(out, fmt.Sprintf("%02X", v))
		}
	}
	return strings.Join(out, " ")
}

// marks are those from one time to another.
func (b *traffic) marks(from, to clock.Time, columns int) (out []Mark) {
	n := len(b.sent)
	at := func(i int) sent { return b.sent[(b.next+i)%n] }
	for i := sort.Search(n, func(i int) bool { return at(i).at >= from }); i < n && at(i).at < to; i++ {
		column := int((at(i).at - from) * clock.Time(columns) / (to - from))
		if last := len(out) - 1; last >= 0 && out[last].Column == column {
			out[last].More++
			continue
		}
		out = append(out, Mark{Column: column, Text: at(i).text})
	}
	return out
}
