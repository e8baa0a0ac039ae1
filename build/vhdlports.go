package build

import (
	"regexp"
	"strconv"
	"strings"

	"hemble/core/netlist"
)

var (
	portOf = regexp.MustCompile(`(?i)^\s*(\w+(?:, \w+)*)\s*: (?:in|out|inout|buffer) (?:\w+\.)*(\w+)(?: \((.+)\))?;?$`)
	bounds = regexp.MustCompile(`(?i)^\s*(.+?)\s+(to|downto)\s+(.+?)\s*$`)
	named  = regexp.MustCompile(`(?i)\b(?:subtype\s+(\w+)\s+is\s+[\w.]+|type\s+(\w+)\s+is\s+array)\s*\(([^()]+)\)`)
)

// portRanges are how the vectors among the ports of an entity are numbered, by their names: ghdl's Verilog numbers all
// of them from 0 on, downwards, and only its VHDL keeps what the source says. Types with a range of their own are
// looked up in the source.
func portRanges(vhdl, top string, files []File) map[string]netlist.Range {
	types := map[string]string{}
	for _, f := range files {
		for _, m := range named.FindAllSubmatch(f.Data, -1) {
			types[strings.ToLower(string(m[1])+string(m[2]))] = string(m[3])
		}
	}
	out := map[string]netlist.Range{}
	in := false
	for line := range strings.Lines(vhdl) {
		line = strings.TrimRight(line, "\r\n")
		if m := entities.FindStringSubmatch(line); m != nil {
			in = strings.EqualFold(m[1], top)
		}
		m := portOf.FindStringSubmatch(line)
		if !in || m == nil {
			continue
		}
		of := m[3]
		if of == "" {
			of = types[strings.ToLower(m[2])]
		}
		if r, ok := rangeOf(of); ok {
			for name := range strings.SplitSeq(m[1], ", ") {
				out[name] = r
			}
		}
	}
	return out
}

// rangeOf reads a range by the one of its bounds that is a number: how many bits there are is known elsewhere.
func rangeOf(text string) (r netlist.Range, ok bool) {
	m := bounds.FindStringSubmatch(text)
	if m == nil {
		return r, false
	}
	r.Up = strings.EqualFold(m[2], "to")
	if left, err := strconv.Atoi(m[1]); err == nil {
		r.Left = &left
	}
	if right, err := strconv.Atoi(m[3]); err == nil {
		r.Right = &right
	}
	return r, true
}
