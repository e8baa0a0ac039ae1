package scripted

import (
	"math"
	"path"
	"slices"
	"strconv"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// alterations lists how single words and lines of what its author wrote may have been meant. A program that was built
// of C has none: it would have to be built again.
func alterations(im *firmware.Image, hints machine.Hints) (out []machine.Alteration) {
	if im.Script == nil || im.Script.Binary != nil {
		return nil
	}
	for number, name := range im.Script.Names() {
		if path.Ext(name) != ".py" {
			continue
		}
		l := &lister{number: number, name: name, text: im.Script.Files[name], hints: hints, out: out}
		l.tokens = script.Tokens(name, l.text)
		l.lines = logical(l.text, l.tokens)
		l.list()
		out = l.out
	}
	return out
}

// lister lists the alterations of one file.
type lister struct {
	number int // of the file
	name   string
	text   string
	tokens []script.Token
	lines  []line
	hints  machine.Hints
	out    []machine.Alteration
}

// edit is a part of a file with what stands in its place.
type edit struct {
	at, end int
	to      string
}

// put adds an alteration: edits do not overlap, and stand in their order.
func (l *lister) put(at int, a machine.Alteration, edits ...edit) {
	a.Address = script.Address(l.number, at)
	if len(l.out) == machine.MostAltered || !l.hints.Runs(a.Address) {
		return
	}
	a.Line = firmware.Line{File: l.name, Line: at}
	name, before := l.name, l.text
	a.Change = func(im *firmware.Image) *firmware.Image {
		if im.Script == nil || im.Script.Files[name] != before { // another change came first
			return im
		}
		return &firmware.Image{Format: im.Format, Script: im.Script.Rewritten(name, edited(before, edits))}
	}
	l.out = append(l.out, a)
}

func edited(text string, edits []edit) string {
	var b strings.Builder
	done := 0
	for _, e := range edits {
		b.WriteString(text[done:e.at])
		b.WriteString(e.to)
		done = e.end
	}
	b.WriteString(text[done:])
	return b.String()
}

// replace puts another word in the place of a token.
func (l *lister) replace(t script.Token, slip machine.Slip, rare int, to string) {
	l.put(t.Line, machine.Alteration{Slip: slip, Rare: rare, Stands: t.Word, Meant: to}, edit{t.At, t.Behind(), to})
}

// word gives the word at a place; "" where there is none.
func (l *lister) word(i int) string {
	if i < 0 || i >= len(l.tokens) {
		return ""
	}
	return l.tokens[i].Word
}

// list lists all.
func (l *lister) list() {
	var calls []int // open brackets, by what stands before them
	for n, line := range l.lines {
		first := l.word(line.from)
		if first == "import" || first == "from" {
			continue
		}
		calls = calls[:0]
		for i := line.from; i < line.to; i++ {
			switch t := l.tokens[i]; t.Word {
			case "(", "[", "{":
				calls = append(calls, i)
				l.elements(i, line.to)
				l.scaled(i, line.to)
			case ")", "]", "}":
				calls = calls[:max(0, len(calls)-1)]
			default:
				opener, function := l.within(calls)
				l.token(i, opener, function)
			}
		}
		l.statement(n)
	}
	l.globals()
	l.peers()
}

// within tells by what the innermost brackets open, and of which function they are.
func (l *lister) within(calls []int) (opener, function string) {
	if len(calls) == 0 {
		return "", ""
	}
	at := calls[len(calls)-1]
	if l.applied(at) {
		function = l.word(at - 1)
	}
	return l.word(at), function
}

// applied reports whether brackets belong to what stands before them, a function or a list.
func (l *lister) applied(open int) bool {
	return open > 0 && l.word(open) != "{" && (l.tokens[open-1].Kind == script.Name ||
		l.word(open-1) == ")" || l.word(open-1) == "]")
}

// turned are words for one of two, by the other: what rare slips are, by how seldom they come.
var turned = func() map[string]word {
	out := map[string]word{}
	pair := func(slip machine.Slip, rare int, pairs ...string) {
		for _, p := range pairs {
			a, b, _ := strings.Cut(p, " ")
			out[a], out[b] = word{b, slip, rare}, word{a, slip, rare}
		}
	}
	pair(machine.Inclusive, 0, "< <=", "> >=")
	pair(machine.Reversed, 0, "== !=", "and or")
	pair(machine.Sign, 0, "+= -=")
	pair(machine.Level, 0, "True False", "HIGH LOW", "high low", "on off", "RISING FALLING", "PUD_UP PUD_DOWN",
		"PULL_UP PULL_DOWN", "IRQ_RISING IRQ_FALLING")
	pair(machine.Level, 1, "when_pressed when_released", "wait_for_press wait_for_release", "min max")
	pair(machine.Shift, 1, "<< >>", "<<= >>=")
	pair(machine.Mask, 1, "& |", "&= |=")
	pair(machine.Sign, 2, "// %", "* //")
	return out
}()

type word struct {
	to   string
	slip machine.Slip
	rare int
}

// comparisons of numbers.
var comparisons = map[string]bool{"<": true, ">": true, "<=": true, ">=": true, "==": true, "!=": true}

// crossed are comparisons the other way round.
var crossed = map[string]string{"<": ">", ">": "<", "<=": ">=", ">=": "<="}

// token looks at one token, within brackets of a kind: those of a function, where it has a name.
func (l *lister) token(i int, opener, function string) {
	t := l.tokens[i]
	before := l.word(i - 1)
	binary := i > 0 && (l.tokens[i-1].Kind == script.Name || l.tokens[i-1].Kind == script.Number ||
		before == ")" || before == "]")
	if w, ok := turned[t.Word]; ok && t.Kind != script.Text && before != "while" {
		l.replace(t, w.slip, w.rare, w.to)
	}
	switch {
	case t.Kind == script.Number:
		l.numberAt(i, opener, function)
	case crossed[t.Word] != "":
		l.replace(t, machine.Reversed, 1, crossed[t.Word])
	case t.Word == "+" && binary:
		l.replace(t, machine.Sign, 0, "-")
	case t.Word == "-" && binary:
		l.replace(t, machine.Sign, 0, "+")
	case t.Word == "-" && i+1 < len(l.tokens) && l.tokens[i+1].Kind == script.Number:
		l.replace(t, machine.Sign, 1, "")
	case t.Word == "~":
		l.replace(t, machine.Inverted, 1, "")
	case t.Word == "not" && l.word(i+1) != "in":
		l.replace(t, machine.Reversed, 0, "")
	case (t.Word == "if" || t.Word == "elif" || t.Word == "while") && l.word(i+1) != "not" && l.word(i+2) == ":",
		(t.Word == "if" || t.Word == "elif" || t.Word == "while") && l.word(i+2) == ".":
		l.put(t.Line, machine.Alteration{Slip: machine.Reversed, Rare: 1, Meant: "not"},
			edit{t.Behind(), t.Behind(), " not"})
	case t.Kind == script.Name && before == "." && methods[t.Word] && l.word(i+1) != "(":
		l.replace(t, machine.Missing, 0, t.Word+"()")
	}
}

// methods are those that ask for something, and give themselves where the brackets are missing.
var methods = map[string]bool{"value": true, "read": true, "read_u16": true, "ticks_ms": true, "ticks_us": true,
	"time": true, "monotonic": true, "perf_counter": true}

// likeNext are the numbers beside a comparison that change as much as the other comparison does: by one, up or down.
var likeNext = map[string]int64{"<": 1, "<=": -1, ">": -1, ">=": 1}

// Digits that are kept of a number with a point.
const digits = 4

// Slips that are seldom, and those that are tried last.
const (
	seldom   = 1
	unlikely = 2
)

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
		try(unlikely, strconv.FormatInt(1-is, 10))
		return
	}
	for _, r := range l.hints.Ratios {
		if to := meant(float64(is) * float64(r[0]) / float64(r[1])); !listed && !wired && (waits || to == float64(int64(to))) {
			try(0, written(to))
		}
		if to := meant(float64(is) + float64(r[0]-r[1])/1000); !listed && !wired && to > 0 && to == float64(int64(to)) {
			try(0, written(to))
		}
	}
	hexadecimal := strings.HasPrefix(strings.ToLower(t.Word), "0x")
	l.hints.Each(is, hexadecimal, func(rare int, to int64) {
		switch off := to - is; {
		case to < 0:
			return
		case wired || hexadecimal || listed:
			rare = unlikely
		case waits || off == 1 || off == -1:
			rare = max(rare, seldom)
		case compared && slices.Contains(l.hints.Wanted, to):
			rare = 0
		case rare > 0:
			rare = unlikely
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
		try(1, written(is*by))
	}
	for _, by := range l.hints.Shifts {
		try(unlikely, written(is+float64(by)))
		try(unlikely, written(is-float64(by)))
	}
}

// meant is the number of two digits that is meant by one that comes from a time as it was seen.
func meant(n float64) float64 { return float64(machine.Rounded(int64(math.Round(n*1000)))) / 1000 }

// written is a number as people write it.
func written(n float64) string {
	rounded, _ := strconv.ParseFloat(strconv.FormatFloat(n, 'g', digits, 64), 64)
	return strconv.FormatFloat(rounded, 'f', -1, 64)
}

// How far is looked for what belongs together: a script may be made so that each of its lines is looked at from each.
const (
	farTokens = 500
	farLines  = 200
)

// elements looks at what is listed within brackets that open at a place: neighbours may be exchanged.
func (l *lister) elements(open, end int) {
	if l.applied(open) {
		return
	}
	var parts [][2]int // tokens of each, without the comma; of a pair, its value
	from, depth := open+1, 0
	for i := open + 1; i < min(end, open+farTokens); i++ {
		switch w := l.word(i); {
		case w == "(" || w == "[" || w == "{":
			depth++
		case depth > 0 && (w == ")" || w == "]" || w == "}"):
			depth--
		case depth > 0:
		case w == ":":
			from = i + 1
		case w == "for":
			return
		case w == "," || w == ")" || w == "]" || w == "}":
			if from < i {
				parts = append(parts, [2]int{from, i})
			}
			from = i + 1
			if w != "," {
				i = end
			}
		}
	}
	source := func(p [2]int) (edit, string) {
		e := edit{at: l.tokens[p[0]].At, end: l.tokens[p[1]-1].Behind()}
		return e, l.text[e.at:e.end]
	}
	for n := 1; n < len(parts); n++ {
		a, one := source(parts[n-1])
		b, other := source(parts[n])
		if one != other {
			a.to, b.to = other, one
			l.put(l.tokens[parts[n-1][0]].Line, machine.Alteration{Slip: machine.Neighbours, Rare: 1,
				Stands: cut(one + ", " + other), Meant: cut(other + ", " + one)}, a, b)
		}
	}
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
	bits, rare := true, seldom
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
		var edits []edit
		var stands, others []string
		for _, t := range numbers {
			is, err := strconv.ParseFloat(t.Word, 64)
			if err != nil {
				return
			}
			bits = bits && (is == 0 || is == 1)
			to := written(meant(is * f))
			edits = append(edits, edit{t.At, t.Behind(), to})
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
		l.put(numbers[0].Line, machine.Alteration{Slip: machine.Number, Rare: rare, Stands: cut(strings.Join(stands, ", ")),
			Meant: cut(whole)}, edits...)
	}
}

// mostWords is how much of a line is told.
const mostWords = 40

func cut(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if runes := []rune(text); len(runes) > mostWords {
		return string(runes[:mostWords-1]) + "…"
	}
	return text
}

// Words that begin a line of more than one statement, or one that changes nothing by itself.
var (
	heads = strings.Fields("if elif else for while def class try except finally with async match case @")
	plain = strings.Fields("global nonlocal pass import from")
)

// statement looks at a line as a whole: it may be one too many, or belong to the block before or around it.
func (l *lister) statement(n int) {
	this := l.lines[n]
	first := l.word(this.from)
	if slices.Contains(plain, first) || l.tokens[this.from].Kind == script.Text { // a text is a comment
		return
	}
	if first == "if" && n > 0 && l.headBefore(n) {
		l.replace(l.tokens[this.from], machine.Reversed, 1, "elif")
	}
	if slices.Contains(heads, first) {
		if first == "elif" {
			l.replace(l.tokens[this.from], machine.Reversed, 1, "if")
		}
		return
	}
	at := l.tokens[this.from].Line
	begin, end := l.tokens[this.from].At, l.tokens[this.to-1].Behind()
	whole := l.text[begin:end]
	if l.word(this.from+1) != ":" && !(this.indent == "" && l.word(this.from+1) == "=") { // what is defined is needed
		l.put(at, machine.Alteration{Slip: machine.Needless, Rare: 1, Stands: cut(whole)}, edit{begin, end, "pass"})
	}
	if strings.Contains(whole, "\n") {
		return
	}
	move := func(indent string) {
		l.put(at, machine.Alteration{Slip: machine.Indented, Rare: 1, From: int64(len(this.indent)), To: int64(len(indent)),
			Stands: cut(whole)}, edit{begin - len(this.indent), begin, indent})
	}
	if n > 0 && deeper(l.lines[n-1].indent, this.indent) {
		move(l.lines[n-1].indent)
	}
	last := n+1 == len(l.lines) || deeper(this.indent, l.lines[n+1].indent)
	if !last {
		return
	}
	alone := true
	for k := n - 1; k >= max(0, n-farLines); k-- {
		if head := l.lines[k]; deeper(this.indent, head.indent) {
			if !alone && l.word(head.from) != "def" {
				move(head.indent)
			}
			return
		} else if head.indent == this.indent {
			alone = false
		}
	}
}

// headBefore reports whether the block before a line belongs to an if.
func (l *lister) headBefore(n int) bool {
	for k := n - 1; k >= max(0, n-farLines); k-- {
		if !deeper(l.lines[k].indent, l.lines[n].indent) {
			first := l.word(l.lines[k].from)
			return l.lines[k].indent == l.lines[n].indent && k < n-1 && (first == "if" || first == "elif")
		}
	}
	return false
}

// globals looks for functions that set a variable of the file without saying that it is not their own.
func (l *lister) globals() {
	outside := map[string]bool{}
	for _, line := range l.lines {
		if line.indent == "" && l.word(line.from+1) == "=" {
			outside[l.word(line.from)] = true
		}
	}
	for n, head := range l.lines {
		if l.word(head.from) != "def" || n+1 == len(l.lines) || !deeper(l.lines[n+1].indent, head.indent) {
			continue
		}
		told := map[string]bool{}
		for _, t := range l.tokens[head.from:min(head.to, head.from+farTokens)] { // parameters
			told[t.Word] = true
		}
		indent := l.lines[n+1].indent
		at := l.tokens[l.lines[n+1].from].At
		for _, line := range l.lines[n+1 : min(len(l.lines), n+farLines)] {
			if !deeper(line.indent, head.indent) {
				break
			}
			name := l.word(line.from)
			if name == "global" {
				for _, t := range l.tokens[line.from:line.to] {
					told[t.Word] = true
				}
			}
			if sets := l.word(line.from + 1); strings.HasSuffix(sets, "=") && sets != "==" && outside[name] && !told[name] {
				told[name] = true
				l.put(l.tokens[head.from].Line, machine.Alteration{Slip: machine.Missing, Meant: "global " + name},
					edit{at, at, "global " + name + "\n" + indent})
			}
		}
	}
}

// mostPeers is how many others are tried in the place of one.
const mostPeers = 4

// peers looks for things of one kind, as lamps that are made by the same call: one may stand in the place of another.
func (l *lister) peers() {
	kinds, same := map[string]string{}, map[string][]string{}
	for _, line := range l.lines {
		if line.indent != "" || l.word(line.from+1) != "=" || l.tokens[line.from].Kind != script.Name {
			continue
		}
		kind := ""
		for i := line.from + 2; i < min(line.to, line.from+farTokens) && l.word(i) != "("; i++ {
			kind += l.word(i)
		}
		name := l.word(line.from)
		if _, known := kinds[name]; !known && kind != "" && l.word(line.to-1) == ")" {
			kinds[name] = kind
			same[kind] = append(same[kind], name)
		}
	}
	for i, t := range l.tokens {
		if kinds[t.Word] == "" || l.word(i+1) != "." || l.word(i-1) == "." {
			continue
		}
		for _, other := range same[kinds[t.Word]][:min(mostPeers, len(same[kinds[t.Word]]))] {
			if other != t.Word {
				l.replace(t, machine.Number, unlikely, other)
			}
		}
	}
}
