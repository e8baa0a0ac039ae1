package build

import (
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"hemble/core/sheet"
	"hemble/sandbox"
)

// Bounds of what a student is told at once.
const (
	maxMessages = 40
	maxText     = 400 // characters of a message
	maxCode     = 200 // characters of a line of source
)

var (
	diagnostic = regexp.MustCompile(`^(?:\./)?([^:\s][^:]*):(\d+):(?:(\d+):)? ((?i:fatal error|error|warning|note)): (.*)$`)
	linker     = regexp.MustCompile(`^([^:\s][^:]*):(\d+): (undefined reference to|multiple definition of) (.*)$`)
	unplaced   = regexp.MustCompile("^.*: (undefined reference to|multiple definition of) (.*)$|^.*(region `.*' overflowed by \\d+ bytes|will not fit in region .*)$|^(error: .*)$")
	lld        = regexp.MustCompile(`^wasm-ld: error: (?:\S+: )?(undefined|duplicate) symbol: (\S+)$`)
	killed     = regexp.MustCompile(`(internal compiler error.*|virtual memory exhausted.*|File size limit exceeded|out of memory.*|Killed|CPU time limit exceeded)`)
	absent     = regexp.MustCompile(`^(\S+): No such file or directory$`)
)

// piped is what the assembler calls its standard input.
const piped = "{standard input}"

// parse takes the compiler's output apart. lines has the lines of each file.
func parse(output string, lines map[string][]string) (out []sheet.Message) {
	seen := map[string]bool{}
	add := func(m sheet.Message) {
		m.Text = short(strings.TrimSpace(m.Text), maxText)
		if file := lines[m.File]; m.Line > 0 && m.Line <= len(file) {
			m.Code = short(strings.TrimRight(file[m.Line-1], "\r"), maxCode)
		}
		if key := m.String(); !seen[key] && len(out) < maxMessages {
			seen[key] = true
			out = append(out, m)
		}
	}
	for _, text := range strings.Split(output, "\n") {
		switch m := diagnostic.FindStringSubmatch(text); {
		case m != nil:
			line, _ := strconv.Atoi(m[2])
			column, _ := strconv.Atoi(m[3])
			if m[1] == piped { // what the compiler handed to the assembler: no line of the student's
				m[1], line = "", 0
			}
			add(sheet.Message{File: m[1], Line: line, Column: column,
				Kind: strings.TrimPrefix(strings.ToLower(m[4]), "fatal "), Text: m[5]})
		case linker.MatchString(text):
			m := linker.FindStringSubmatch(text)
			line, _ := strconv.Atoi(m[2])
			add(sheet.Message{File: m[1], Line: line, Kind: "error", Text: m[3] + " " + m[4]})
		case lld.MatchString(text): // which knows no lines: where the name is called
			m := lld.FindStringSubmatch(text)
			what := map[string]string{"undefined": "undefined reference to", "duplicate": "multiple definition of"}[m[1]]
			file, line := called(m[2], lines)
			add(sheet.Message{File: file, Line: line, Kind: "error", Text: what + " `" + m[2] + "'"})
		case unplaced.MatchString(text):
			m := unplaced.FindStringSubmatch(text)
			add(sheet.Message{Kind: "error",
				Text: strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(m[1]+" "+m[2]+m[3]+m[4]), "error: "))})
		case killed.MatchString(text):
			add(sheet.Message{Kind: "error",
				Text: "the compiler ran out of its limits of time, memory or size: " + killed.FindString(text)})
		}
	}
	return out
}

// called is where a name is first followed by a parenthesis, as a whole word.
func called(name string, lines map[string][]string) (file string, line int) {
	call := regexp.MustCompile(`(^|\W)` + regexp.QuoteMeta(name) + `\s*\(`)
	for _, file := range slices.Sorted(maps.Keys(lines)) {
		for i, l := range lines[file] {
			if call.MatchString(l) && (!declaration.MatchString(l) || strings.HasPrefix(strings.TrimSpace(l), "return")) {
				return file, i + 1
			}
		}
	}
	return "", 0
}

// declaration is a line that only declares a function.
var declaration = regexp.MustCompile(`^\s*(extern\s+)?(\w+[\s*]+)+\w+\s*\([^;{]*\)\s*;`)

// short cuts a text to a length that a person reads, at a whole character.
func short(s string, most int) string {
	s = strings.ToValidUTF8(s, "?")
	if len(s) <= most {
		return s
	}
	for most > 0 && !utf8.RuneStart(s[most]) {
		most--
	}
	return s[:most] + " …"
}

// outside gives a text of the compiler with the names that files have outside of the sandbox.
func (j *job) outside(text string) string {
	pairs := []string{sourceFolder + "/", ""}
	for _, l := range j.libraries {
		pairs = append(pairs, l.inside+"/", l.name+"/")
	}
	return strings.NewReplacer(pairs...).Replace(text)
}

// messages are those of a run. A header that is not there is told with the libraries that are.
func (j *job) messages(o *sandbox.Outcome) []sheet.Message {
	text := o.Messages
	if o.Stopped != "" {
		text = stopped(o) + text
	}
	out := parse(j.outside(text), j.plan.shown)
	for i, m := range out {
		if a := absent.FindStringSubmatch(m.Text); a != nil && m.Kind == "error" {
			var names []string
			for _, l := range j.known() {
				names = append(names, l.name)
			}
			there := "no libraries are registered"
			if len(names) > 0 {
				there = "the libraries here are " + strings.Join(names, ", ")
			}
			out[i].Text = "there is no header " + a[1] + "; " + there
		}
	}
	return out
}
