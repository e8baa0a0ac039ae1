package exercise

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"math/big"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
)

// Bounds of a file and of what it may ask for.
const (
	maxFile   = 1 << 20
	maxParts  = 64
	maxTrials = 64
	maxLength = 10 * clock.Minute
)

// Read reads and checks an exercise file that is alone. The exercise is nil when there are problems beyond
// warnings.
func Read(file string, text []byte) (*Exercise, []spec.Problem) { return Reader{File: file}.Read(text) }

// Error turns problems beyond warnings into one error, nil if there are none.
func Error(problems []spec.Problem) error {
	var list []error
	for _, p := range problems {
		if !p.Warning {
			list = append(list, p)
		}
	}
	return errors.Join(list...)
}

var yamlLine = regexp.MustCompile(`line (\d+): (.*)`)

func read(text, student []byte, draft bool, chip int, in *included, ps *spec.Problems) *Exercise {
	if len(text) > maxFile {
		ps.Add(spec.Pos{Line: 1, Col: 1}, "the file has %d bytes; an exercise needs less than %d", len(text), maxFile)
		return nil
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		at := spec.Pos{Line: 1, Col: 1}
		message := strings.TrimPrefix(err.Error(), "yaml: ")
		if m := yamlLine.FindStringSubmatch(message); m != nil {
			at.Line, _ = strconv.Atoi(m[1])
			message = m[2]
		}
		ps.Add(at, "not YAML: %s", message)
		return nil
	}
	if len(doc.Content) == 0 {
		ps.Add(spec.Pos{Line: 1, Col: 1}, "the file is empty; an exercise starts with `hemble: 1`")
		return nil
	}
	if n := aliases(&doc, map[*yaml.Node]bool{}); n > 100 {
		ps.Add(spec.Pos{Line: 1, Col: 1}, "the file refers to anchors %d times; 100 are allowed", n)
		return nil
	}
	if in.resolve(doc.Content[0], ps); ps.Failed() {
		return nil // without its parts nothing else could be said
	}
	varied := vary(doc.Content[0], student, ps)
	v := spec.Decode(doc.Content[0], fields(), ps)
	x := &Exercise{Draft: draft, Name: v.Text("name"), Hash: sum(slices.Concat(append([][]byte{text}, in.texts...)...),
		varied), Title: v.Text("title"), Brief: v.Text("brief"), Step: v.Get("rounding").Number,
		Each: v.Text("faults") == "each", Varied: varied}
	x.readMarks(v)
	if x.Step == nil || x.Step.Sign() == 0 {
		x.Step = big.NewRat(1, 2)
		ps.Add(v.At("rounding"), "marks cannot be rounded to multiples of 0")
	}
	x.Takes = []string{Firmware, Source}
	if v.Has("takes") {
		x.Takes = nil
		for _, kind := range v.Get("takes").List {
			x.Takes = append(x.Takes, kind.Text)
		}
		if len(x.Takes) == 0 {
			ps.Add(v.At("takes"), "an exercise takes at least one kind of work")
		}
	}
	c := v.Get("chip").Map
	others := c.Get("or").List
	if x.others = len(others); x.others > maxOthers {
		ps.Add(c.At("or"), "an exercise is for at most %d chips besides its own", maxOthers)
		return nil
	}
	if chip > 0 {
		other := others[chip-1].Map
		x.moves = newMoves(c, other)
		c = other
		x.Hash = sum(x.Hash[:], []Varied{{Name: "chip", Value: c.Text("is")}})
	}
	x.Chip, _ = machine.Find(c.Text("is"))
	if c.Has("board") && x.Chip != nil {
		for _, b := range machine.Boards(x.Chip.Name) {
			if b.Name == c.Text("board") {
				x.Board = b
			}
		}
		if x.Board == nil {
			ps.Add(c.At("board"), "no board called %q has an %s", c.Text("board"), x.Chip.Title)
		}
	}
	x.Clock, x.Supply, x.ClockPin = c.Get("clock").Rate, c.Int("supply"), c.Text("clock-pin")
	if x.Chip == nil && c.Text("is") != noChip {
		return nil
	}
	if x.Chip != nil {
		x.checkChip(c, ps)
		x.checkClockPin(c, ps)
	}
	if v.Has("characters") {
		x.characters = readCharacters(v.Get("characters").Node, ps)
	}
	if v.Has("bench") {
		x.readBench(v.Get("bench").Node, ps)
	}
	x.moves.unused(ps)
	if v.Has("groups") {
		x.readGroups(v.Get("groups").Node, ps)
	}
	trials := v.Get("trials").List
	if v.Has("trials") && len(trials) == 0 || len(trials) > maxTrials {
		ps.Add(v.At("trials"), "an exercise has 1 to %d trials", maxTrials)
		return x
	}
	defer func() { // what follows from a part that could not be read is no mistake of its own
		ps.List = slices.DeleteFunc(ps.List,
			func(p spec.Problem) bool { return p.About != "" && slices.Contains(x.unread, p.About) })
	}()
	defer func() {
		if m := v.Get("marks").Number; m != nil && x.Marks().Cmp(m) != 0 && !x.Draft && !ps.Failed() {
			ps.Add(v.At("marks"), "the marks add up to %s, not to %s", x.Marks().RatString(), m.RatString())
		}
	}()
	names := map[string]bool{}
	for _, t := range trials {
		if name := t.Map.Text("name"); names[name] && name != "" {
			ps.Add(t.Map.At("name"), "two trials are called %q", name)
		} else {
			names[name] = true
		}
		x.readTrial(t.Map, ps)
	}
	return x
}

// sum tells exercises apart, and those of students whose values differ.
func sum(text []byte, varied []Varied) [32]byte {
	h := sha256.New()
	h.Write(text)
	for _, v := range varied {
		h.Write([]byte("\x00" + v.Name + "\x00" + v.Value))
	}
	return [32]byte(h.Sum(nil))
}

func aliases(n *yaml.Node, seen map[*yaml.Node]bool) int {
	count := 0
	if n.Kind == yaml.AliasNode {
		count++
	}
	if seen[n] {
		return count
	}
	seen[n] = true
	for _, c := range n.Content {
		count += aliases(c, seen)
	}
	return count
}

func (x *Exercise) readBench(n *yaml.Node, ps *spec.Problems) {
	if n.Kind != yaml.MappingNode || len(n.Content) == 0 {
		ps.Add(spec.Where(n), "the bench is a mapping of parts by name, with at least one")
		return
	}
	if len(n.Content)/2 > maxParts {
		ps.Add(spec.Where(n), "a bench has at most %d parts", maxParts)
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], n.Content[i+1]
		switch {
		case !spec.IsName(key.Value):
			ps.Add(spec.Where(key), "%q cannot name a part; names are lower-case letters, digits and hyphens",
				key.Value)
		case x.Part(key.Value) != nil:
			ps.Add(spec.Where(key), "two parts are called %q", key.Value)
		default:
			x.readPart(key.Value, value, ps)
			if x.Part(key.Value) == nil {
				x.unread = append(x.unread, key.Value)
			}
		}
	}
	x.checkNets(n, ps)
}

func (x *Exercise) readPart(name string, n *yaml.Node, ps *spec.Problems) {
	var k *part.Kind
	if n.Kind == yaml.MappingNode {
		for i := 0; i+1 < len(n.Content); i += 2 {
			if n.Content[i].Value == "part" {
				if k = part.Find(n.Content[i+1].Value); k == nil {
					ps.Add(spec.Where(n.Content[i+1]), "no kind of part is called %q%s", n.Content[i+1].Value,
						part.Meant(n.Content[i+1].Value))
					return
				}
			}
		}
	}
	if k == nil {
		ps.Add(spec.Where(n), "%q needs its kind of part: {part: …}%s", name, spec.Nearest("", partNames()))
		return
	}
	v := spec.Decode(n, partFields(k), ps)
	b := &part.Instance{Name: name, Kind: k, Settings: v, Wired: make([]string, len(k.Pins)), Supply: x.Supply,
		Characters: x.characters}
	if k.Input != nil && v.Has("supply") {
		b.Supply = v.Int("supply")
		x.checkSupply(b, v.At("supply"), ps)
	}
	for _, e := range v.Get("pins").Dict {
		i := k.Terminal(e.Name)
		if i < 0 {
			ps.Add(e.At, "a %s has no pin %q%s", k.Name, e.Name, spec.Nearest(e.Name, k.PinNames()))
			continue
		}
		e.Value = x.Board.Pin(x.moves.pin(e.Value, x.Chip, ps))
		b.Wired[i] = e.Value
		x.checkWire(e, k, ps)
		x.checkBaud(e, v, ps)
	}
	for i, p := range k.Pins {
		if b.Wired[i] == "" && !p.Optional && v.Has("pins") {
			ps.Add(v.At("pins"), "pin %q of %q is not wired: %s", p.Name, name, p.Doc)
		}
	}
	if k.Check != nil {
		for _, p := range k.Check(*b) {
			at := p.Pos
			if at.Line == 0 {
				at = v.At("pins")
			}
			ps.Add(at, "%s", p.Text)
		}
	}
	x.Parts = append(x.Parts, b)
}

// checkSupply warns of a part whose inputs take more for high than the board has.
func (x *Exercise) checkSupply(b *part.Instance, at spec.Pos, ps *spec.Problems) {
	if _, high := b.Kind.Input.Bounds(b.Supply); x.Supply > 0 && high > x.Supply {
		ps.Warn(at, "at %s, a %s is sure of a high only from %s on; the board's %s are less: what is sent may not be read",
			circuit.Volts(b.Supply), b.Kind.Name, circuit.Volts(high), circuit.Volts(x.Supply))
	}
}

// checkWire checks what a terminal is wired to. Lower-case names are nets of the bench's own.
func (x *Exercise) checkWire(e spec.Entry, k *part.Kind, ps *spec.Problems) {
	if e.Value == "VCC" || e.Value == "GND" || spec.IsName(e.Value) {
		return
	}
	if x.Chip == nil {
		ps.Add(e.ValueAt,
			"%q cannot be wired to: without a chip there are VCC, GND and nets, which have lower-case names", e.Value)
		return
	}
	if _, ok := x.Chip.Pin(e.Value); !ok || e.Value == "" {
		var valid []string
		for _, p := range x.Chip.Pins {
			if p.Name != "" {
				valid = append(valid, p.Name)
			}
		}
		ps.Add(e.ValueAt, "the %s has no pin %q%s", x.Chip.Title, e.Value,
			x.meantPin(e.Value, append(valid, "VCC", "GND")))
	} else if reset := x.Chip.Pins[x.Chip.Reset].Name; e.Value == reset && k.Geometry != nil {
		ps.Add(e.ValueAt, "%s is the reset pin; no display can be wired to it", reset)
	} else if slices.Contains(x.Chip.Crystal[:], e.Value) && x.Chip.Crystals(x.Clock) {
		ps.Warn(e.ValueAt, "%s carries the crystal at %s", e.Value, x.Clock)
	}
}

// checkBaud warns of a part at a port whose rate no program sets, at another rate than that.
func (x *Exercise) checkBaud(e spec.Entry, v spec.Values, ps *spec.Problems) {
	if x.Chip == nil || !v.Has("baud") {
		return
	}
	pin, ok := x.Chip.Pin(e.Value)
	for _, s := range x.Chip.Serial {
		if ok && s.Baud > 0 && (pin == s.Receive || pin == s.Transmit) && v.Int("baud") != s.Baud {
			ps.Warn(e.ValueAt, "the %s of the %s is at %d Bd, this part at %d", s.Name, x.Chip.Title, s.Baud, v.Int("baud"))
		}
	}
}

// checkChip takes the chip's own clock and supply where none is given, and checks those that are.
func (x *Exercise) checkChip(c spec.Values, ps *spec.Problems) {
	e := x.Chip.Electric
	if c.Get("clock").Pos.Line == 0 {
		x.Clock = x.Chip.Clock
	}
	if c.Get("supply").Pos.Line == 0 {
		x.Supply = e.Supply
	}
	if slowest, fastest := x.Chip.Clocks[0], x.Chip.Clocks[1]; x.Clock > 0 && (x.Clock > fastest || x.Clock < slowest) {
		ps.Add(c.At("clock"), "%s is no clock for this chip; it runs at up to %s", x.Clock, fastest)
	}
	if least, most := e.Supplies[0], e.Supplies[1]; x.Supply > 0 && (x.Supply < least || x.Supply > most) {
		ps.Add(c.At("supply"), "%s is no supply for this chip; it runs at %s to %s", c.Text("supply"), circuit.Volts(least),
			circuit.Volts(most))
	}
}

// meantPin returns which pin was meant by a name that is none: that of a board, or the nearest.
func (x *Exercise) meantPin(name string, valid []string) string {
	for _, b := range machine.Boards(x.Chip.Name) {
		if pin := b.Pin(name); pin != name {
			return fmt.Sprintf("; a board has %s at %s: write that, or chip: {is: %s, board: %s}", name, pin,
				x.Chip.Name, b.Name)
		}
	}
	return spec.Nearest(name, valid)
}

// checkNets warns of nets that join nothing.
func (x *Exercise) checkNets(n *yaml.Node, ps *spec.Problems) {
	ends := map[string]int{}
	for _, p := range x.Parts {
		for _, w := range p.Wired {
			if spec.IsName(w) {
				ends[w]++
			}
		}
	}
	for _, p := range x.Parts {
		for i, w := range p.Wired {
			if ends[w] == 1 && spec.IsName(w) {
				ps.Warn(spec.Where(n), "net %q has one end only, pin %q of %q", w, p.Kind.Pins[i].Name, p.Name)
			}
		}
	}
}

func (x *Exercise) readTrial(v spec.Values, ps *spec.Problems) {
	t := Trial{Name: v.Text("name"), Length: v.Time("length"), Seed: uint64(v.Int("seed")), Hidden: v.Bool("hidden"),
		Most: v.Get("at-most").Number, Notes: v.Text("notes")}
	if v.Has("length") && (t.Length == 0 || t.Length > maxLength) {
		ps.Add(v.At("length"), "a trial runs for up to %s", maxLength.Short())
	}
	setting := judge.Setting{Part: x.Part, Names: x.names(), Length: t.Length, Captures: &judge.Captures{}}
	setting.Does = func(name string, sort func(part.Cue) bool) bool {
		return slices.ContainsFunc(t.Cues, func(c Cue) bool { return c.Part == name && sort(c.Cue) })
	}
	for _, c := range v.Get("cues").List {
		cue := x.readCue(c.Map, t, setting.Cues, ps)
		x.checkCue(&cue, c.Map, t, setting.Cues, ps)
		if cue.Name != "" {
			setting.Cues = append(setting.Cues, cue.Name)
		}
		t.Cues = append(t.Cues, cue)
	}
	if len(v.Get("expect").List) == 0 && !x.Draft {
		ps.Add(v.At("expect"), "a trial without expectations judges nothing")
	}
	for _, e := range v.Get("expect").List {
		x.readExpectation(&t, e, setting, ps)
	}
	x.Trials = append(x.Trials, t)
}

// readCue reads a cue, whose verb is the one key of Verbs that it has.
func (x *Exercise) readCue(v spec.Values, t Trial, names []string, ps *spec.Problems) Cue {
	c := Cue{Line: v.Pos.Line, At: v.Time("at"), Name: v.Text("as"),
		Cue: part.Cue{For: v.Time("for"), By: v.Int("by"), To: v.Text("to"),
			Text: strings.ReplaceAll(v.Text("text"), `\n`, "\n"), Key: v.Text("key")}}
	for _, verb := range part.Verbs {
		switch {
		case !v.Has(verb):
		case c.Verb != "":
			ps.Add(v.At(verb), "a cue does one thing; this one has %s and %s", c.Verb, verb)
		default:
			c.Verb, c.Part = verb, v.Text(verb)
		}
	}
	x.readTrigger(&c, v, t, names, ps)
	if c.Verb == "" {
		ps.Add(v.Pos, "a cue needs what to do: one of %s", strings.Join(part.Verbs, ", "))
	}
	return c
}

func (x *Exercise) checkCue(c *Cue, v spec.Values, t Trial, names []string, ps *spec.Problems) {
	p := x.Part(c.Part)
	switch {
	case c.Part == "":
	case p == nil:
		ps.Unknown(v.At(c.Verb), "part of the bench", c.Part, x.names())
	case !slices.Contains(p.Kind.Cues, c.Verb):
		able := "takes no cues"
		if len(p.Kind.Cues) > 0 {
			able = "takes " + strings.Join(p.Kind.Cues, ", ")
		}
		ps.Add(v.At(c.Verb), "%q is a %s, which %s", c.Part, p.Kind.Name, able)
	case p.Kind.CheckCue != nil:
		if err := p.Kind.CheckCue(*p, c.Cue); err != nil {
			ps.Add(v.At(c.Verb), "%s", err)
		}
	}
	if t.Length > 0 && c.At >= t.Length {
		ps.Add(v.At("at"), "the cue comes at %s, after the end of the trial (%s)", c.At.Short(), t.Length.Short())
	}
	if c.For == 0 && c.Moves() == 0 && (c.Verb == part.Press || c.Verb == part.Turn) {
		ps.Add(v.At("for"), "a %s lasts longer than nothing", c.Verb)
	}
	for _, other := range t.Cues {
		if c.Verb == part.Press && other.Verb == part.Press && c.timed() && other.timed() && other.Part == c.Part &&
			other.Key == c.Key && other.At < c.At+c.For && c.At < other.At+other.For {
			ps.Add(v.At("at"), "%q is already pressed from %s to %s", c.Part, other.At.Short(),
				(other.At + other.For).Short())
		}
	}
	for _, name := range names {
		if name == c.Name {
			ps.Add(v.At("as"), "two cues are called %q", name)
		}
	}
}

// readExpectation reads one with its marks.
func (x *Exercise) readExpectation(t *Trial, e spec.Value, setting judge.Setting, ps *spec.Problems) {
	before := len(ps.List)
	var v spec.Values
	out := Expectation{Kind: AnyOf, Line: e.Pos.Line}
	if hasKey(e.Node, AnyOf) {
		var any judge.AnyOf
		v = spec.Decode(e.Node, anyOfFields(), ps)
		for _, one := range v.Get(AnyOf).List {
			if _, _, built := x.buildExpectation(one, setting, nil, ps); built != nil {
				any = append(any, built)
			}
		}
		if v.Has(AnyOf) && len(v.Get(AnyOf).List) < 2 {
			ps.Add(v.At(AnyOf), "alternatives are two expectations or more")
		}
		out.Expectation = any
	} else {
		out.Kind, v, out.Expectation = x.buildExpectation(e, setting, marksFields, ps)
	}
	if out.Marks = v.Get("marks").Number; out.Marks == nil || out.Expectation == nil || len(ps.List) > before {
		return
	}
	out.Bonus, out.Gate, out.Notes = v.Bool("bonus"), v.Bool("gate"), v.Text("notes")
	t.Expect = append(t.Expect, out)
}

func hasKey(n *yaml.Node, key string) bool {
	if n == nil || n.Kind != yaml.MappingNode {
		return false
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return true
		}
	}
	return false
}

// buildExpectation reads one of a kind that is registered, with some fields more; built is nil where it cannot be read.
func (x *Exercise) buildExpectation(e spec.Value, setting judge.Setting, more []spec.Field,
	ps *spec.Problems) (kind string, v spec.Values, built judge.Expectation) {
	var k *judge.Kind
	if e.Node.Kind == yaml.MappingNode {
		for i := 0; i+1 < len(e.Node.Content) && k == nil; i += 2 {
			k = judge.Find(e.Node.Content[i].Value)
		}
	}
	if k == nil {
		first := ""
		if e.Node.Kind == yaml.MappingNode && len(e.Node.Content) > 0 {
			first = e.Node.Content[0].Value
		}
		ps.Add(e.Pos, "no kind of expectation is called %q%s", first, spec.Nearest(first, append(judge.Names(), AnyOf)))
		return "", v, nil
	}
	before := len(ps.List)
	v = spec.Decode(e.Node, slices.Concat(expectationFields(k), more), ps)
	if v.Text(k.Name) == "" || len(ps.List) > before {
		return k.Name, v, nil
	}
	if built = k.Build(setting, v, ps); len(ps.List) > before {
		return k.Name, v, nil
	}
	return k.Name, v, built
}

// checkClockPin looks whether the oscillator is at a pin that the chip has.
func (x *Exercise) checkClockPin(c spec.Values, ps *spec.Problems) {
	if x.ClockPin == "" {
		x.ClockPin = x.Chip.ClockPin
		return
	}
	if _, ok := x.Chip.Pin(x.ClockPin); !ok || x.Chip.ClockPin == "" {
		ps.Add(c.At("clock-pin"), "the %s has no oscillator at a pin called %q", x.Chip.Title, x.ClockPin)
	}
}
