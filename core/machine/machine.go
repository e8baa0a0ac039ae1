// Package machine is the interface of simulated chips: a source of pin activity that takes firmware and inputs. Each
// chip family has a folder of its own and registers its chips here.
package machine

import (
	"fmt"
	"io/fs"
	"math/bits"
	"slices"
	"sort"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
)

// Pin is an index into a chip's Pins.
type Pin uint16

// Place is the program point behind an edge: the byte address of the instruction, and what lay on top of the
// stack then, from which the calls that led there can be found.
type Place struct {
	Core  uint8     `json:"core,omitempty"`
	PC    uint32    `json:"pc"`
	Stack [24]uint8 `json:"-"`
}

// Change is one pin that starts to drive its net differently.
type Change struct {
	Pin   Pin
	Drive circuit.Drive
}

// Edge is a change of some outputs between low and high, of up to 32 pins from one on.
type Edge struct {
	At     clock.Time
	From   Pin
	Pins   uint32 // a set bit for each that changed: bit 0 is From
	Levels uint32 // of those
	Place  Place
}

// CountPins is how many changes of pins some edges are.
func CountPins(edges []Edge) (n int64) {
	for i := range edges {
		n += int64(bits.OnesCount32(edges[i].Pins))
	}
	return n
}

// Listener is told of every change of a watched pin, at once and in order of time. All pins that
// one instruction changes come in one call. Its answer may shorten the run: the machine looks up
// again no later than until.
type Listener interface {
	Drive(t clock.Time, changes []Change, at Place) (until clock.Time)
}

// Source is anything with pin activity.
type Source interface {
	// Run continues until the given moment, or to the end of the instruction that passes it.
	Run(until clock.Time, l Listener) Stop
}

// Config is what a machine needs to know of its bench.
type Config struct {
	Clock    clock.Rate
	Supply   int64      // µV; 5 V where it is 0
	ClockPin string     // where the oscillator is, where a chip looks at it; "" for its usual place
	Seed     uint64     // of everything random: memory at power-on, floating inputs
	Watched  []Pin      // pins whose edges anyone wants; nil means all
	Bytes    func(Byte) // told of each byte a serial port has sent; may be nil
	// Sample gives the voltage of a pin's net in µV where that is neither rail; may be nil.
	Sample    func(Pin) (microvolts int64, analog bool)
	Reference bool // the reference interpreter: slower, same results
	NoSkip    bool // no skipping of waits: slower, same results
	// Effort is the most that a run may take (see Counters), for machines that can take much of it at once; 0 is any.
	Effort int64
	Cover  bool // note down when each instruction is first carried out; see Covering
	// Followed are pins whose edges between low and high nobody answers. The machine may keep such edges and hand them
	// to Follow later, in order, before it tells of anything else.
	Followed []Pin
	Follow   func([]Edge)
	// Repeat takes edges that were handed over and come so many times more, a period after one another; may be nil.
	Repeat func(edges []Edge, times int64, period clock.Time)
	// Around is what the pins are connected to, where that can tell whether it is as it was; may be nil.
	Around Around
}

// Around is what a machine's pins are connected to. A program that does the same again and again, and is answered the
// same, need not be followed each time.
type Around interface {
	// Remember notes how everything is.
	Remember()
	// Same reports whether everything is as it was then, and nothing came meanwhile that can be seen or would come
	// otherwise the next time.
	Same() bool
	// Again has what happened since Remember happen so many times more, a period after one another.
	Again(times int64, period clock.Time)
}

// Byte is a byte that left a serial port, at the end of its stop bit.
type Byte struct {
	At    clock.Time
	Port  string
	Value byte
}

// Machine is a chip running firmware.
type Machine interface {
	Source
	Now() clock.Time
	Load(*firmware.Image) error
	Reset()                           // the reset pin, pulled low and released
	Input(p Pin, level circuit.Level) // what the net is at, from the present time on
	Drives(p Pin) circuit.Drive       // what the pin does to its net now
	Notes() []Note                    // what to know of this run: unmodelled registers, odd accesses
	Counters() Counters               // deterministic effort
	Hash() [32]byte                   // whole state, for equality tests
}

// Covering is a machine that notes down which instructions a program carries out.
type Covering interface {
	// Reached tells when the instruction at a byte address was first carried out.
	Reached(address uint32) (at clock.Time, ok bool)
	// Anew begins another round, and Rounds tells in which the instruction at a byte address was carried out: none
	// where the machine does not tell.
	Anew()
	Rounds(address uint32) Rounds
}

// Close ends what a machine has running outside of itself; most have nothing.
func Close(m Machine) {
	if c, ok := m.(interface{ Close() }); ok {
		c.Close()
	}
}

// Takes tells why the chip, at a rate of its clock, takes no such firmware; nil where it does. Nothing of it runs on.
func (c *Chip) Takes(im *firmware.Image, rate clock.Rate) error {
	m := c.New(Config{Clock: rate})
	defer Close(m)
	return m.Load(im)
}

// Counters tell the effort of a run, equal on every machine.
type Counters struct {
	Instructions int64 `json:"instructions"` // interpreted one by one
	Followed     int64 `json:"-"`            // looked at to find out what a round of a loop does ...
	Walks        int64 `json:"-"`            // ... in so many goes
	Cycles       int64 `json:"cycles"`
	Edges        int64 `json:"edges"`
	LeftOut      int64 `json:"-"` // edges of those that nobody was told of: see Around
	Resets       int64 `json:"resets"`
	Writes       int64 `json:"writes,omitempty"` // bytes of EEPROM programmed
}

// Effort is what a run took, in interpreted instructions: an instruction that is looked at in a loop takes as long as
// 40 of them, an edge, through net, parts and vision, as 50.
func (c Counters) Effort() int64 { return c.Instructions + 40*c.Followed + 50*(c.Edges-c.LeftOut) }

// Note is something the firmware did that a person should know of; each is reported once.
type Note struct {
	Code string     `json:"code"`
	Text string     `json:"text"`
	At   clock.Time `json:"at"`
	PC   uint32     `json:"pc"`
}

// Reason says why a run ended.
type Reason string

// The reasons.
const (
	Reached       Reason = ""               // the asked moment came
	IllegalOpcode Reason = "illegal-opcode" // a word this chip has no instruction for
	OffFlash      Reason = "off-flash"      // execution left the programmed flash
	StackOverrun  Reason = "stack-overrun"  // the stack ran into data or out of memory
	StackEmpty    Reason = "stack-empty"    // a return or pop with nothing on the stack
	ResetLoop     Reason = "reset-loop"     // the program starts over and over
	Asleep        Reason = "asleep"         // asleep with nothing left that could wake it
	Breakpoint    Reason = "break"          // a BREAK instruction with no debugger to take it
	Fault         Reason = "fault"          // something the processor cannot do: a HardFault
	NoStart       Reason = "no-start"       // the chip finds no program that it would start
	Exception     Reason = "exception"      // a script ended by an exception
	TooMuch       Reason = "too-much"       // a design or a script that takes too long to follow
	Restless      Reason = "restless"       // a design whose registers set each other off without end
)

// ThreadException is the note of a thread of a script that ended by an exception, while others go on.
const ThreadException finding.Code = "thread-exception"

// Reasons lists those that end a run early.
var Reasons = []finding.Entry{
	{Code: finding.Code(IllegalOpcode), Doc: "the program reached a word that is no instruction"},
	{Code: finding.Code(OffFlash), Doc: "the program ran past the end of its code"},
	{Code: finding.Code(StackOverrun), Doc: "the stack ran into data, or out of memory"},
	{Code: finding.Code(StackEmpty), Doc: "the program returned, or popped, with nothing on the stack"},
	{Code: finding.Code(ResetLoop), Doc: "the program keeps restarting"},
	{Code: finding.Code(Asleep), Doc: "the chip fell asleep with nothing left that could wake it"},
	{Code: finding.Code(Breakpoint), Doc: "the program reached a BREAK instruction"},
	{Code: finding.Code(Fault), Doc: "the processor met what it cannot do: a HardFault"},
	{Code: finding.Code(NoStart), Doc: "the chip found no program that it would start"},
	{Code: finding.Code(Exception), Doc: "the script ended by an exception"},
	{Code: finding.Code(TooMuch), Doc: "the design or the script takes too long to follow"},
	{Code: finding.Code(Restless), Doc: "the design comes to no rest: its registers set each other off without end"},
}

func init() {
	finding.Provide(finding.Stop, func() []finding.Entry { return Reasons })
	finding.Provide(finding.Note, func() (out []finding.Entry) {
		for _, c := range Chips() {
			out = append(out, c.Notes...)
		}
		return out
	})
}

// Stop is the end of a run.
type Stop struct {
	Reason Reason     `json:"reason,omitempty"`
	Text   string     `json:"text,omitempty"`
	At     clock.Time `json:"at"`
	PC     uint32     `json:"pc"`
}

// Chip describes one chip for people and for the circuit, as data: nothing outside its own package knows a port, a
// register, or a voltage of it.
type Chip struct {
	Name    string // the word in exercise files
	Title   string
	Source  string // the documents its model follows
	Usual   bool   // it is meant where nobody names a chip
	Clock   clock.Rate
	Clocks  [2]clock.Rate // the slowest and the fastest it runs at
	Inside  []clock.Rate  // rates of its own oscillator, which need no crystal
	Crystal [2]string     // pins that an external crystal takes

	Pins     []PinInfo
	Vectors  map[string][]Pin // pins that captures have under one name, in capitals, bit 0 first
	Reset    Pin              // pulled low it resets the chip
	ClockPin string           // the pin that the board's oscillator is at, of a chip that looks at it; else ""
	Supplies []Rail           // pins of the package that are no ports
	Serial   []SerialPort
	Electric Electric
	Limits   Limits

	Flash      int // bytes
	SRAM       int
	Data       int // where it begins
	EEPROM     int
	Reference  int64           // µV of its converter's own reference; 0 for none
	Firmware   firmware.Layout // where a file's addresses belong
	Machine    uint16          // ELF e_machine
	Toolchain  Toolchain       // what builds source for it
	Models     []string        // peripherals modelled
	Unmodelled []string        // peripherals not modelled yet
	Notes      []finding.Entry // what it may report of a program
	Settings   []Setting       // those that keep programs from working

	New func(Config) Machine
	// Says reads what a program says of itself; nil where programs for the chip do not.
	Says func(im *firmware.Image) Says
	// ReturnAddresses gives the byte addresses of the calls whose return addresses are in the bytes of a stack, from
	// its top on.
	ReturnAddresses func(im *firmware.Image, stack []uint8) []uint32
	// Normalise gives an instruction without what differs where the same code is at another place, and its size in
	// bytes; nil for programmable logic.
	Normalise func(im *firmware.Image, address uint32) (shape uint32, size uint32)
	// Alterations lists how a program may have been meant in one place of what its author wrote; nil where nobody
	// knows.
	Alterations func(im *firmware.Image, hints Hints) []Alteration
}

// Causes that settings are.
const (
	SettingCode finding.Code = "chip-settings"   // the chip's configuration
	NarrowCode  finding.Code = "register-narrow" // a register of a design has too few bits
	NumberCode  finding.Code = "numbering"       // a script numbers pins in the other way
)

// Setting is something that programs are often built with by mistake, in the chip's configuration or else.
type Setting struct {
	Code   finding.Code                          // of the cause
	Note   string                                // by which a run tells that it mattered
	Text   string                                // what is wrong, for a person; "" where the note says it
	Change func(*firmware.Image) *firmware.Image // the firmware without it
}

// SerialPort is a serial port of a chip, by the name that its bytes are told with.
type SerialPort struct {
	Name              string
	Receive, Transmit Pin
	Baud              int64 // of one whose rate no program sets; else 0
}

// Electric are the electrical facts of a chip's pins and supply.
type Electric struct {
	Supply   int64    // µV, the usual one
	Supplies [2]int64 // µV, the least and the most
	Drive    int64    // Ω of an output
	Pull     int64    // Ω of a pull-up or pull-down of its own
	Over     int64    // µV above the supply that a pin bears
}

// Toolchain is what builds source for a chip. A zero one is for chips that take built firmware only.
type Toolchain struct {
	Compiler string   // the command of the Debian package
	Device   []string // the flags by which it knows the chip
	Headers  []string // how the names of headers begin that source for the chip includes, and for others does not
	// the folder of pin names of programs with setup() and loop(); "" where there are none for the chip
	Variant string
	// Support has start-up code, headers and, as link.ld, the linker's script, where the packages have none; else nil.
	Support fs.FS
}

// Limits are the currents in nA that a chip bears.
type Limits struct {
	Pin          int64   // one pin
	Source, Sink []Group // groups of pins together, out of and into them
	Chip         int64   // all pins together
}

// Group is some pins that share a limit in nA.
type Group struct {
	Name string
	Pins []Pin
	Most int64
}

// PinInfo is one pin of a chip.
type PinInfo struct {
	Name    string
	Package int // pin number of the package; 0 for none
	Also    []string
}

// Rail is a pin of a package that takes the supply, or a reference.
type Rail struct {
	Name    string
	Package int
	Net     string // VCC or GND; empty where it is left open
}

// Crystals reports whether a clock of this rate comes from a crystal at the chip's pins.
func (c *Chip) Crystals(r clock.Rate) bool { return !slices.Contains(c.Inside, r) }

// Usual is the chip that is meant where nobody names one: examples and commands take it.
func Usual() *Chip {
	for _, c := range Chips() {
		if c.Usual {
			return c
		}
	}
	return nil
}

// Terminal is the serial port whose bytes a reel keeps as text: the first one; "" where there is none.
func (c *Chip) Terminal() string {
	if len(c.Serial) == 0 {
		return ""
	}
	return c.Serial[0].Name
}

// Pin finds a pin by its port name.
func (c *Chip) Pin(name string) (Pin, bool) {
	for i, p := range c.Pins {
		if p.Name == name {
			return Pin(i), true
		}
	}
	return 0, false
}

var chips = map[string]*Chip{}

// Register adds a chip; each chip's file does so once.
func Register(c *Chip) {
	if chips[c.Name] != nil {
		panic("chip registered twice: " + c.Name)
	}
	chips[c.Name] = c
}

// Chips lists all chips by name.
func Chips() []*Chip {
	var all []*Chip
	for _, c := range chips {
		all = append(all, c)
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Name < all[j].Name })
	return all
}

// Find gives a chip by name.
func Find(name string) (*Chip, error) {
	if c := chips[name]; c != nil {
		return c, nil
	}
	return nil, fmt.Errorf("no chip is called %q", name)
}
