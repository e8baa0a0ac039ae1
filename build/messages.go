package build

import (
	"regexp"
	"strconv"
	"strings"

	"hemble/core/sheet"
)

// maxMessages bounds what a student is told at once.
const maxMessages = 40

var (
	diagnostic = regexp.MustCompile(`^(?:\./)?([^:\s][^:]*):(\d+):(?:(\d+):)? (fatal error|error|warning|note): (.*)$`)
	linker     = regexp.MustCompile(`^(?:.*/)?([^:/\s]+):(\d+): (undefined reference to|multiple definition of) (.*)$`)
	unplaced   = regexp.MustCompile("^.*: (undefined reference to|multiple definition of) (.*)$|^.*(region `.*' overflowed by \\d+ bytes|will not fit in region .*)$|^(error: .*)$")
	killed     = regexp.MustCompile(`(internal compiler error.*|virtual memory exhausted.*|File size limit exceeded|out of memory.*|Killed|CPU time limit exceeded)`)
	absent     = regexp.MustCompile(`^(\S+): No such file or directory$`)
)

// parse takes the compiler's output apart. lines has the lines of each file.
func parse(output string, lines map[string][]string) (out []sheet.Message) {
	seen := map[string]bool{}
	add := func(m sheet.Message) {
		m.Text = strings.TrimSpace(m.Text)
		if file := lines[m.File]; m.Line > 0 && m.Line <= len(file) {
			m.Code = strings.TrimRight(file[m.Line-1], "\r")
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
			add(sheet.Message{File: m[1], Line: line, Column: column, Kind: strings.TrimPrefix(m[4], "fatal "), Text: m[5]})
		case linker.MatchString(text):
			m := linker.FindStringSubmatch(text)
			line, _ := strconv.Atoi(m[2])
			add(sheet.Message{File: m[1], Line: line, Kind: "error", Text: m[3] + " " + m[4]})
		case unplaced.MatchString(text):
			m := unplaced.FindStringSubmatch(text)
			add(sheet.Message{Kind: "error", Text: strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(m[1]+" "+m[2]+m[3]+m[4]), "error: "))})
		case killed.MatchString(text):
			add(sheet.Message{Kind: "error", Text: "the compiler ran out of its limits of time, memory or size: " + killed.FindString(text)})
		}
	}
	return out
}

// messages are those of a build. A header that is not there is told with the libraries that are.
func (j *job) messages() []sheet.Message {
	out := parse(j.output.String(), j.plan.shown)
	for i, m := range out {
		if a := absent.FindStringSubmatch(m.Text); a != nil && m.Kind == "error" {
			var names []string
			for _, l := range j.builder.known(j.plan.framework) {
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
