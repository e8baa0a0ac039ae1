package build

import (
	"bytes"
	"context"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"hemble/core/sheet"
)

// planned is a source ready to be compiled.
type planned struct {
	files     []File // what is in the source folder
	units     []unit // what is compiled
	framework bool   // it has setup() and loop()
	cPlusPlus bool
	shown     map[string][]string // the lines of each file as it was submitted, for messages
}

var (
	mainFunction  = regexp.MustCompile(`\bmain\s*\(`)
	mainLabel     = regexp.MustCompile(`(?m)^[ \t]*main[ \t]*:`) // in assembler
	setupFunction = regexp.MustCompile(`\bvoid\s+setup\s*\(`)
	loopFunction  = regexp.MustCompile(`\bvoid\s+loop\s*\(`)
)

// plan sorts out what kind of program a source is. The problem, if there is one, is for the student.
// One whose ctx ends is not to be used.
func plan(ctx context.Context, s *Source) (*planned, *sheet.Message) {
	p := &planned{shown: map[string][]string{}}
	var loops []File
	hasMain, hasSetup, hasLoop := false, false, false
	code := make([][]byte, len(s.Files))
	for i, f := range s.Files {
		if ctx.Err() != nil {
			return p, nil
		}
		p.shown[f.Path] = strings.Split(string(f.Data), "\n")
		if isAssembler(f.Path) {
			hasMain = hasMain || mainLabel.Match(f.Data)
			continue
		}
		code[i] = stripped(f.Data)
		bare := code[i]
		hasMain = hasMain || mainFunction.Match(bare) && !isHeader(f.Path)
		hasSetup, hasLoop = hasSetup || setupFunction.Match(bare), hasLoop || loopFunction.Match(bare)
	}
	for i, f := range s.Files {
		ext := strings.ToLower(path.Ext(f.Path))
		bare := code[i]
		if ext == loopExt || !hasMain && !isHeader(f.Path) && (setupFunction.Match(bare) || loopFunction.Match(bare)) {
			loops = append(loops, f)
			continue
		}
		p.files = append(p.files, f)
		if !isHeader(f.Path) {
			p.units = append(p.units, including(f.Path, inSource(f.Path)))
			p.cPlusPlus = p.cPlusPlus || isCPlusPlus(f.Path)
		}
	}
	switch {
	case len(loops) > 0 && !hasMain && !(hasSetup && hasLoop):
		missing := "setup()"
		if hasSetup {
			missing = "loop()"
		}
		return nil, &sheet.Message{Kind: "error",
			Text: "the program has no " + missing + ": it needs both setup() and loop()"}
	case len(loops) > 0:
		p.framework, p.cPlusPlus = true, true
		p.units = append(p.units, unit{joinedUnit, join(ctx, loops)})
	case len(p.units) == 0:
		return nil, &sheet.Message{Kind: "error",
			Text: "there are headers only; a program needs main(), or setup() and loop()"}
	case !hasMain:
		return nil, &sheet.Message{Kind: "error",
			Text: "no file has main(), nor setup() and loop(): nothing says where the program starts"}
	}
	return p, nil
}

// joinedUnit stands for the files with setup() and loop(), joined.
const joinedUnit = "program.cpp"

func isHeader(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".h", ".hpp", ".hh", ".inc":
		return true
	}
	return false
}

// join puts the files of a program with setup() and loop() behind each other, the one with setup() first, with
// the prototypes that they lack; messages keep the files' own lines.
func join(ctx context.Context, files []File) []byte {
	slices.SortFunc(files, func(a, b File) int { return strings.Compare(a.Path, b.Path) })
	for i, f := range files {
		if setupFunction.Match(f.Data) {
			copy(files[1:i+1], files[:i])
			files[0] = f
			break
		}
	}
	var all []string
	first := 0
	for i, f := range files {
		if ctx.Err() != nil {
			return nil
		}
		declared, at := prototypes(f.Data)
		all = append(all, declared...)
		if i == 0 {
			first = at
		}
	}
	var b bytes.Buffer
	b.WriteString("#include <Arduino.h>\n")
	for i, f := range files {
		head, rest := "", string(f.Data)
		if i == 0 {
			head, rest = string(f.Data[:first]), string(f.Data[first:])
			line(&b, 1, f.Path)
			b.WriteString(head)
			b.WriteString("\n" + strings.Join(all, "\n") + "\n")
		}
		line(&b, 1+strings.Count(head, "\n"), f.Path)
		b.WriteString(rest + "\n")
	}
	return b.Bytes()
}

func line(b *bytes.Buffer, n int, file string) {
	fmt.Fprintf(b, "#line %d \"%s\"\n", n, inSource(file))
}
