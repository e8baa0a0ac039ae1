// Package demo is the course of the canal lock-house at Wherry Lock: exercises, and firmware of invented students,
// right and wrong.
package demo

import (
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"
	"unicode"
)

//go:embed course
var course embed.FS

//go:embed library
var library embed.FS

// Library gives the course's libraries, a folder of a display each.
func Library() fs.FS {
	sub, err := fs.Sub(library, "library")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}

// Exercise is one exercise of the course with what was submitted.
type Exercise struct {
	Name      string
	Text      []byte
	Files     []File
	Reference []byte // the firmware that the course's instructor goes by ...
	// ... and a name for its file
	ReferenceName string
}

// File is one firmware.
type File struct {
	Login   string // of the student
	Student string
	Name    string
	Data    []byte
}

// Stem is the name without its ending.
func (f File) Stem() string { return strings.TrimSuffix(f.Name, path.Ext(f.Name)) }

// Course reads the exercises.
func Course() ([]Exercise, error) {
	dirs, err := fs.ReadDir(course, "course")
	if err != nil {
		return nil, err
	}
	var out []Exercise
	for _, d := range dirs {
		x := Exercise{Name: d.Name()}
		if x.Text, err = course.ReadFile(path.Join("course", d.Name(), "exercise.yaml")); err != nil {
			return nil, err
		}
		files, err := fs.ReadDir(course, path.Join("course", d.Name(), "firmware"))
		if err != nil {
			return nil, err
		}
		for _, entry := range files {
			if path.Ext(entry.Name()) == ".hex" { // the same again
				continue
			}
			f := path.Join("course", d.Name(), "firmware", entry.Name())
			data, err := course.ReadFile(f)
			if err != nil {
				return nil, err
			}
			login, name := student(path.Base(f))
			x.Files = append(x.Files, File{Login: login, Student: name, Name: path.Base(f), Data: data})
			if x.Files[len(x.Files)-1].Stem() == references[x.Name] {
				x.Reference, x.ReferenceName = data, "reference"+path.Ext(f)
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// references are right programs of the course, by exercise.
var references = map[string]string{
	"basin-level": "bowles-interrupt", "boat-counter": "imre-timer", "boat-lamps": "marsh-waits", "ferry-fares": "webb-spi",
	"chamber-gauge": "ames-polling",
	"flood-alarm":   "naylor-timer", "gate-clock": "rudge-timer",
	"gate-codes": "birch-spi", "gate-word": "frost-loop", "keeper-board": "doyle-waits",
	"lock-tally": "keane-debounced", "lock-plate": "hale-pages", "log-terminal": "tate-polling",
	"notice-board": "webb-hardware", "quay-signal": "birch-table", "tide-board": "frost-sprintf",
	"sluice-dial": "hale-settled", "weir-count": "ames-alarms", "winch-lamp": "selby-ramp",
	"barge-tally": "irwin-loop", "mooring-board": "noble-waits", "wheel-ledger": "vane-waits",
	"lantern-row": "upton-shift", "two-gates": "dyson-waits",
	"gate-digit": "hollis-counter", "tide-seconds": "ames-one-block", "ferry-bell": "abbott-asks", "level-post": "hale-class", "crane-lamps": "noble-table",
}

// Find gives one exercise of the course.
func Find(name string) (Exercise, error) {
	all, err := Course()
	for _, x := range all {
		if x.Name == name {
			return x, nil
		}
	}
	return Exercise{}, errors.Join(err, fs.ErrNotExist)
}

// Pick gives one exercise of the course and one firmware of it, by their names without extension.
func Pick(exercise, firmware string) (Exercise, []byte, error) {
	x, err := Find(exercise)
	for _, f := range x.Files {
		if f.Stem() == firmware {
			return x, f.Data, nil
		}
	}
	return x, nil, errors.Join(err, fmt.Errorf("the course has no firmware %s/%s", exercise, firmware))
}

// initials of the students, by family name.
var initials = map[string]string{"marsh": "A.", "fenwick": "J.", "osei": "L.", "oke": "R.", "lindqvist": "T.",
	"wain": "P.",
	"ames": "E.", "haq": "S.", "quill": "D.", "brook": "N.", "reyes": "M.", "stroud": "V.", "penn": "I.", "tarn": "K.",
	"doyle": "C.", "varga": "B.", "ferris": "G.", "munro": "H.", "zelnik": "O.", "aldous": "W.",
	"hollis": "F.", "imre": "Z.", "jarvis": "U.", "kemp": "X.", "lowe": "Q.", "nash": "Y.", "orton": "B.",
	"abbott": "P.", "birch": "L.", "cole": "Y.", "dunn": "R.", "elgin": "T.", "frost": "K.", "gale": "I.",
	"hurst": "S.",
	"innes": "M.", "joyce": "E.", "keane": "W.", "lunt": "N.", "mason": "G.", "noble": "J.", "ogden": "B.",
	"peake": "V.",
	"rudge": "A.", "sharp": "D.", "tully": "C.", "usher": "H.", "vane": "O.", "webb": "Y.", "yates": "Z.",
	"ainley": "F.",
	"bowles": "R.", "carver": "L.", "dyson": "M.", "bell": "K.", "hale": "U.", "irwin": "G.", "kirk": "S.",
	"lacey":  "P.",
	"mercer": "T.", "naylor": "H.", "oakes": "E.", "pratt": "A.", "quinn": "Z.", "rowe": "V.", "selby": "Q.",
	"tate":  "J.",
	"upton": "B.", "verney": "C.", "wyatt": "O.", "yorke": "W.", "zeller": "N."}

// student tells who submitted a file: its name starts with the family name, which is the login, too.
func student(file string) (login, name string) {
	family, _, _ := strings.Cut(file, "-")
	r := []rune(family)
	r[0] = unicode.ToUpper(r[0])
	return family, initials[family] + " " + string(r)
}

// Student is somebody of the course's class.
type Student struct{ Login, Name, Number, Group string }

// Students lists the class, by login: half of it in the morning's group, half in the evening's.
func Students() []Student {
	var out []Student
	for i, login := range slices.Sorted(maps.Keys(initials)) {
		_, name := student(login)
		group := "morning"
		if i%2 == 1 {
			group = "evening"
		}
		out = append(out, Student{login, name, fmt.Sprint(4001 + i), group})
	}
	return out
}
