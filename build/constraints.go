package build

import (
	"fmt"
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"

	"hemble/core/netlist"
	"hemble/core/sheet"
)

// constraints say which port of a design sits on which pin: set_property of an .xdc, with -dict or without, and set_io
// of a .pcf.
type constraints struct {
	pins, pulls map[string]string
	at          map[string]sheet.Message // where each port's pin is given
	messages    []sheet.Message
	any         bool
}

var (
	dictionary = regexp.MustCompile(`^set_property\s+-dict\s*\{([^}]*)\}\s*\[\s*get_ports\s+(.+?)\s*\]\s*;?\s*(?:#.*)?$`)
	property   = regexp.MustCompile(`^set_property\s+(\w+)\s+\{?(\w+)\}?\s+\[\s*get_ports\s+(.+?)\s*\]\s*;?\s*(?:#.*)?$`)
	setIO      = regexp.MustCompile(`^set_io\s+((?:-\S+(?:\s+(?:yes|no))?\s+)*)(\S+)\s+(\S+)\s*(?:#.*)?$`)
	number     = regexp.MustCompile(`^\d+$`)
)

// readConstraints reads all files of them.
func readConstraints(s *Source) *constraints {
	c := &constraints{pins: map[string]string{}, pulls: map[string]string{}, at: map[string]sheet.Message{}}
	for _, f := range s.Files {
		ext := strings.ToLower(path.Ext(f.Path))
		if ext != ".xdc" && ext != ".pcf" {
			continue
		}
		c.any = true
		for i, line := range strings.Split(string(f.Data), "\n") {
			where := sheet.Message{File: f.Path, Line: i + 1, Kind: "error", Code: short(strings.TrimRight(line,
				"\r"), maxCode)}
			line = strings.TrimSpace(line)
			if m := dictionary.FindStringSubmatch(line); m != nil && ext == ".xdc" {
				words := strings.Fields(m[1])
				for k := 0; k+1 < len(words); k += 2 {
					c.set(where, words[k], words[k+1], m[2])
				}
			} else if m := property.FindStringSubmatch(line); m != nil && ext == ".xdc" {
				c.set(where, m[1], m[2], m[3])
			} else if m := setIO.FindStringSubmatch(line); m != nil && ext == ".pcf" {
				if strings.Contains(m[1], "-pullup yes") {
					c.pulls[m[2]] = netlist.PullUp
				}
				pin := m[3]
				if number.MatchString(pin) {
					pin = "P" + pin
				}
				c.set(where, "PACKAGE_PIN", pin, m[2])
			}
		}
	}
	return c
}

// set takes one property of a port.
func (c *constraints) set(where sheet.Message, name, value, port string) {
	port = strings.TrimSpace(strings.Trim(strings.TrimSpace(port), "{}\""))
	switch strings.ToUpper(name) {
	case "PACKAGE_PIN", "LOC":
		if before, twice := c.at[port]; twice && c.pins[port] != value {
			where.Text = fmt.Sprintf("port %s is put at %s here, and at %s in line %d", port, value, c.pins[port], before.Line)
			c.messages = append(c.messages, where)
			return
		}
		c.pins[port], c.at[port] = value, where
	case "PULLUP":
		c.pulls[port] = netlist.PullUp
	case "PULLDOWN":
		c.pulls[port] = netlist.PullDown
	case "PULLTYPE":
		if pull, ok := map[string]string{"PULLUP": netlist.PullUp, "PULLDOWN": netlist.PullDown}[strings.ToUpper(value)]; ok {
			c.pulls[port] = pull
		}
	}
}

// check compares them with the ports of a design and the pins of the device.
func (c *constraints) check(d *netlist.Design, t Target) (out []sheet.Message) {
	out = c.messages
	ports := map[string]netlist.Port{}
	for _, p := range d.Ports {
		for i := range p.Bits {
			ports[p.Bit(i)] = p
		}
	}
	users := map[string]string{}
	for _, name := range sortedNames(c.pins) {
		where, pin := c.at[name], c.pins[name]
		_, known := ports[name]
		_, exists := t.Chip.Pin(pin)
		switch other := users[pin]; {
		case !known:
			where.Kind = "warning"
			where.Text = fmt.Sprintf("the design has no port %s", name)
		case !exists:
			where.Text = fmt.Sprintf("port %s is put at pin %s, which the device has not", name, pin)
		case other != "":
			where.Text = fmt.Sprintf("ports %s and %s are both at pin %s", other, name, pin)
		default:
			users[pin] = name
			continue
		}
		out = append(out, where)
	}
	missing := []string{}
	for _, p := range d.Ports {
		for i := range p.Bits {
			if c.pins[p.Bit(i)] == "" {
				missing = append(missing, p.Bit(i))
			}
		}
	}
	if len(missing) > 0 {
		text := "no pin is given for " + strings.Join(missing[:min(len(missing), 8)], ", ")
		if !c.any {
			text = "there is no constraints file (.xdc or .pcf): " + text
		}
		out = append(out, sheet.Message{Kind: "error", Text: text})
	}
	if clock := users[t.ClockPin]; t.ClockPin != "" && (clock == "" || !ports[clock].Input) {
		out = append(out, sheet.Message{Kind: "warning",
			Text: fmt.Sprintf("no input of the design is at %s, where the board's oscillator is", t.ClockPin)})
	}
	return out
}

func sortedNames(m map[string]string) []string { return slices.Sorted(maps.Keys(m)) }
