package build

import (
	"context"
	"fmt"
	"os"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/machine/scripted"
	packed "hemble/core/script"
	"hemble/core/sheet"
)

// checkScript has Python read each file, and tells of what it cannot.
const checkScript = `import sys
for name in sys.argv[1:]:
    with open(name, "rb") as f:
        text = f.read()
    try:
        compile(text, name, "exec", dont_inherit=True)
    except SyntaxError as e:
        print(f"{name}\t{e.lineno or 1}\t{e.offset or 1}\t{e.msg}")
    except ValueError as e:
        print(f"{name}\t1\t1\t{e}")
`

var pythonSays = regexp.MustCompile(`^(\d+)\.py\t(\d+)\t(\d+)\t(.*)$`)

// python packs a script, when Python could read it.
func (b *Builder) python(ctx context.Context, with tools, s *Source, t Target) (*Result, error) {
	if t.Chip.Toolchain.Support != nil && isC(s) {
		return b.onBoard(ctx, s, t)
	}
	fail := func(m sheet.Message) (*Result, error) {
		m.Kind = "error"
		return &Result{Messages: []sheet.Message{m}}, nil
	}
	files := map[string]string{}
	var names []string
	sc := newScript("")
	sc.put(unitFolder+"/check.py", []byte(checkScript))
	line := ""
	for _, f := range s.Files {
		if strings.ToLower(path.Ext(f.Path)) != ".py" {
			return fail(sheet.Message{File: f.Path, Text: "for this board only Python (.py) is taken"})
		}
		line += fmt.Sprintf(" %d.py", len(names))
		sc.put(fmt.Sprintf("%s/%d.py", unitFolder, len(names)), f.Data)
		names = append(names, f.Path)
		files[f.Path] = string(f.Data)
	}
	entry, problem := entryOf(names)
	if problem != "" {
		return fail(sheet.Message{Text: problem})
	}
	o, err := with.box.Run(ctx, sc.files, "cd "+unitFolder+" && exec "+scripted.Python+" -I -S -B check.py"+line+"\n", b.limits)
	if err != nil {
		return nil, err
	}
	if file, line := usesZero(names, files); file != "" && zeroMissing() {
		return fail(sheet.Message{File: file, Line: line, Text: "gpiozero is not installed here (Debian package python3-gpiozero)"})
	}
	r := &Result{}
	for _, l := range strings.Split(string(o.Output), "\n") {
		m := pythonSays.FindStringSubmatch(l)
		if m == nil {
			continue
		}
		i, _ := strconv.Atoi(m[1])
		say := sheet.Message{Kind: "error", Text: short(m[4], maxText)}
		say.Line, _ = strconv.Atoi(m[2])
		say.Column, _ = strconv.Atoi(m[3])
		if i < len(names) {
			say.File = names[i]
			if lines := strings.Split(files[say.File], "\n"); say.Line > 0 && say.Line <= len(lines) {
				say.Code = short(strings.TrimRight(lines[say.Line-1], "\r"), maxCode)
			}
		}
		if len(r.Messages) < maxMessages {
			r.Messages = append(r.Messages, say)
		}
	}
	switch {
	case len(r.Messages) > 0:
		return r, nil
	case !o.OK && o.Stopped != "":
		return fail(sheet.Message{Text: "reading the script was stopped: it needed " + o.Stopped})
	case !o.OK:
		return fail(sheet.Message{Text: "the script could not be read: " + short(strings.TrimSpace(o.Messages), maxText)})
	}
	r.ELF, err = packed.Write(entry, files)
	return r, err
}

var importsZero = regexp.MustCompile(`^\s*(?:from|import)\s+gpiozero\b`)

// usesZero is where a script imports the package of the system that it may have; no file for nowhere.
func usesZero(names []string, files map[string]string) (file string, line int) {
	for _, name := range names {
		for i, l := range strings.Split(files[name], "\n") {
			if importsZero.MatchString(l) {
				return name, i + 1
			}
		}
	}
	return "", 0
}

func zeroMissing() bool {
	_, err := os.Stat("/usr/lib/python3/dist-packages/gpiozero")
	return err != nil
}

// entryOf is the file that is started: the only one, or main.py.
func entryOf(names []string) (entry, problem string) {
	switch {
	case len(names) == 0:
		return "", "there is no script (.py)"
	case len(names) == 1:
		return names[0], ""
	case slices.Contains(names, "main.py"):
		return "main.py", ""
	}
	return "", "there are several files, and none is called main.py: which one is started?"
}
