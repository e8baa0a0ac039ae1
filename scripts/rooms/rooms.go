// Command rooms writes the package graph into docs/architecture.md, from the imports.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path"
	"slices"
	"strings"
)

// module is the name before every package.
const module = "hemble/"

// rooms are folders of packages, from the ground up: a package may import what is in rooms before its own, and in its
// own. A package is in the room of its longest prefix here.
var rooms = []string{
	"core/clock", "core/circuit", "core/netlist", "core/script", "core/firmware", "core/glyph", "core/finding",
	"core/spec", "core/machine", "core/display", "core/capture", "core/similarity", "core/source",
	"core/vision", "core/display/",
	"core/part", "core/reel", "core/part/", "core/machine/", "core/catalogue", "core/judge", "core/sheet",
	"core/exercise",
	"core/schematic", "core/bench", "core/fault", "core/diagnosis", "core/marking", "core/author",
	"table", "wire", "render", "live", "templates", "sandbox", "build", "interpreter", "native", "client",
	"service/ports", "service/durable", "service/blobs", "service/events", "service/turns", "service/db",
	"service/record", "service/web",
	"service/people", "service/classes/roster", "service/classes", "service/exercises/policy", "service/exercises",
	"service/submissions",
	"service/grading", "service/marks/gradebook", "service/marks", "service/stores", "service/backup", "service/api",
	"service",
	"demo", "console", "service/servicetest", "service/attack", "service/faults", "service/load",
	"cli", "cmd", "scripts",
}

// foreign are packages that the core may not depend on: it has no interface, keeps nothing and starts nothing.
var foreign = []string{"net/http", "database/sql", "os/exec", "golang.org/x/term", "github.com/urfave/cli",
	"github.com/gin-gonic/gin",
	"github.com/jmoiron/sqlx", "github.com/charmbracelet", "github.com/schollz"}

// pkg is a package as the go command knows it.
type pkg struct {
	ImportPath string
	Doc        string
	Imports    []string
}

func packages() (out []pkg, err error) {
	text, err := exec.Command("go", "list", "-json=ImportPath,Doc,Imports", module+"...").Output()
	if err != nil {
		return nil, err
	}
	for d := json.NewDecoder(bytes.NewReader(text)); ; {
		var p pkg
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			return out, nil
		} else if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
}

// roomOf is the place of a package's room in rooms, -1 where it is in none.
func roomOf(importPath string) int {
	name, best := strings.TrimPrefix(importPath, module), -1
	for i, r := range rooms {
		in := name == r || strings.HasPrefix(name, strings.TrimSuffix(r, "/")+"/")
		if strings.HasSuffix(r, "/") {
			in = strings.HasPrefix(name, r)
		}
		if in && (best < 0 || len(r) > len(rooms[best])) {
			best = i
		}
	}
	return best
}

// edges returns which rooms each room imports, without itself.
func edges(all []pkg) map[int]map[int]bool {
	out := map[int]map[int]bool{}
	for _, p := range all {
		from := roomOf(p.ImportPath)
		for _, i := range p.Imports {
			if to := roomOf(i); strings.HasPrefix(i, module) && to != from {
				if out[from] == nil {
					out[from] = map[int]bool{}
				}
				out[from][to] = true
			}
		}
	}
	return out
}

// reduced leaves out the imports that follow from others.
func reduced(all map[int]map[int]bool) map[int][]int {
	var reaches func(from, to int) bool
	reaches = func(from, to int) bool {
		for next := range all[from] {
			// What points up is no way: it would go round for ever, and is told elsewhere.
			if next == to || next < from && reaches(next, to) {
				return true
			}
		}
		return false
	}
	out := map[int][]int{}
	for from, to := range all {
		for t := range to {
			needed := true
			for other := range to {
				needed = needed && (other == t || !reaches(other, t))
			}
			if needed {
				out[from] = append(out[from], t)
			}
		}
		slices.Sort(out[from])
	}
	return out
}

// graph writes the rooms for which in is true as a diagram (Mermaid).
func graph(all map[int][]int, in func(name string) bool) string {
	var b strings.Builder
	b.WriteString("```mermaid\nflowchart BT\n")
	id := func(i int) string { return fmt.Sprintf("r%d[\"%s\"]", i, label(rooms[i])) }
	for from, name := range rooms {
		for _, to := range all[from] {
			if in(name) && in(rooms[to]) {
				fmt.Fprintf(&b, "  %s --> %s\n", id(from), id(to))
			}
		}
	}
	return b.String() + "```\n"
}

// label is a room's name in words: core/part/ are the folders in core/part.
func label(room string) string {
	if strings.HasSuffix(room, "/") {
		return room + "…"
	}
	return room
}

// table lists the rooms with what their package says of itself.
func table(all []pkg) string {
	var b strings.Builder
	b.WriteString("| package | what it does |\n|---|---|\n")
	for _, r := range rooms {
		at := slices.IndexFunc(all, func(p pkg) bool { return p.ImportPath == module+r })
		text := inWords[r]
		if text == "" && at >= 0 {
			text = sentence(all[at].Doc)
		}
		fmt.Fprintf(&b, "| `%s` | %s |\n", label(r), text)
	}
	return b.String()
}

// inWords says what a room is that is no package.
var inWords = map[string]string{
	"core/display/": "a folder for each display type: all that is particular to it",
	"core/part/":    "a folder for each kind of part; parttest holds them to what parts owe",
	"core/machine/": "a folder for each family of chips, with a file for each chip; machinetest is a chip for tests that is like none of them",
	"service/load":  "measures a service that many use at once, on loopback",
	"cmd":           "the program",
	"scripts":       "what makes the documentation and the tools",
}

// sentence is what a package's doc says it is, without its name.
func sentence(doc string) string {
	words := strings.Fields(doc)
	if len(words) > 2 && words[0] == "Package" {
		words = words[2:]
	}
	return strings.TrimSuffix(strings.Join(words, " "), ".")
}

// page is where the graph goes, between two marks.
const page = "docs/architecture.md"

const begin, end = "<!-- rooms: written by make docs -->\n", "<!-- rooms end -->\n"

// write puts the graph into the text of the page.
func write(text string, all []pkg) (string, error) {
	before, rest, ok := strings.Cut(text, begin)
	_, after, ok2 := strings.Cut(rest, end)
	if !ok || !ok2 {
		return "", errors.New(page + " has no place for the graph")
	}
	few := reduced(edges(all))
	core := func(name string) bool { return strings.HasPrefix(name, "core/") }
	body := "An arrow points from a package to one that it imports; imports that follow from others are left out.\n\nThe core:\n\n" + graph(few, core) +
		"\nAround it:\n\n" + graph(outer(all), func(string) bool { return true }) + "\n" + table(all)
	return before + begin + body + end + after, nil
}

// outer is the graph of the folders at the top, core among them, under the numbers of the first room of each.
func outer(all []pkg) map[int][]int {
	top := func(importPath string) int {
		name, _, _ := strings.Cut(strings.TrimPrefix(importPath, module), "/")
		return slices.IndexFunc(rooms, func(r string) bool { return r == name })
	}
	out := map[int]map[int]bool{}
	for _, p := range all {
		from := top(p.ImportPath)
		if from < 0 || forTests(p.ImportPath) {
			continue
		}
		for _, i := range p.Imports {
			if to := top(i); strings.HasPrefix(i, module) && to >= 0 && to != from {
				if out[from] == nil {
					out[from] = map[int]bool{}
				}
				out[from][to] = true
			}
		}
	}
	return reduced(out)
}

// forTests reports whether a package is there for tests only.
func forTests(importPath string) bool {
	name := path.Base(importPath)
	return strings.HasSuffix(name, "test") || name == "attack" || name == "faults" || name == "load"
}

func main() {
	all, err := packages()
	if err == nil {
		var text []byte
		if text, err = os.ReadFile(page); err == nil {
			var out string
			if out, err = write(string(text), all); err == nil {
				err = os.WriteFile(page, []byte(out), 0o644)
			}
		}
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}
