package build

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"hemble/core/sheet"
	"hemble/sandbox"
)

// library is a folder of code that a program may include by one of its headers.
type library struct {
	name   string
	folder string // of its headers, on this machine
	inside string // the same in the sandbox
	files  []libraryFile
	linked bool // it has code of its own; else headers alone are taken
}

// libraryFile is a file of a library: those of the framework are seen in the sandbox where they are, the others are
// brought along.
type libraryFile struct {
	inside string
	data   []byte
}

var include = regexp.MustCompile(`(?m)^[ \t]*#[ \t]*include[ \t]*[<"]([^>"\n]+)[>"]`)

// known lists the libraries there are: an instructor's go before those of the framework.
func (j *job) known() (all []library) {
	dirs := append([]string(nil), j.builder.libraries...)
	if j.plan.framework && j.tools.framework != "" {
		dirs = append(dirs, filepath.Join(j.tools.framework, "libraries"))
	}
	for _, dir := range dirs {
		entries, _ := os.ReadDir(dir)
		for _, e := range entries {
			if !e.IsDir() || strings.HasPrefix(e.Name(), ".") {
				continue
			}
			l := library{name: e.Name(), folder: filepath.Join(dir, e.Name()), linked: true}
			if info, err := os.Stat(filepath.Join(l.folder, "src")); err == nil && info.IsDir() {
				l.folder = filepath.Join(l.folder, "src")
			}
			all = append(all, l)
		}
	}
	return all
}

// Bounds of what is looked at to find libraries.
const (
	maxIncludes  = 1000    // different headers that a program names
	maxLibrary   = 8 << 20 // bytes of one library
	maxLibraries = 40      // that one program takes
)

// findLibraries follows the includes of a source, and of the libraries that it finds, to the libraries that have
// them. The core with setup() and loop() comes last.
func (j *job) findLibraries() *sheet.Message {
	known := j.known()
	looked := map[string]bool{}
	var queue [][]byte
	for _, f := range j.plan.files {
		looked[f.Path] = true
		looked[strings.TrimPrefix(f.Path, "src/")] = true
		queue = append(queue, f.Data)
	}
	for _, u := range j.plan.units {
		queue = append(queue, u.code)
	}
	taken := map[string]bool{}
	for len(queue) > 0 {
		text := queue[0]
		queue = queue[1:]
		for _, m := range include.FindAllSubmatch(text, -1) {
			header := string(m[1])
			if looked[header] || strings.Contains(header, "..") || len(header) > maxPath {
				continue
			}
			if looked[header] = true; len(looked) > maxIncludes+maxFiles*2 {
				return &sheet.Message{Kind: "error",
					Text: fmt.Sprintf("the program includes more than %d different headers", maxIncludes)}
			}
			for _, l := range known {
				if info, err := os.Lstat(filepath.Join(l.folder, header)); err != nil || !info.Mode().IsRegular() ||
					taken[l.folder] {
					continue
				}
				taken[l.folder] = true
				if len(j.libraries) == maxLibraries {
					return &sheet.Message{Kind: "error", Text: fmt.Sprintf("the program uses more than %d libraries",
						maxLibraries)}
				}
				if err := j.take(&l); err != nil {
					return &sheet.Message{Kind: "error", Text: fmt.Sprintf("library %s: %s", l.name, err)}
				}
				for _, f := range l.files {
					queue = append(queue, f.data)
				}
				break
			}
		}
	}
	if !j.plan.framework {
		return nil
	}
	if j.target.Chip.Toolchain.Variant == "" {
		return &sheet.Message{Kind: "error", Text: "programs with setup() and loop() are not built for the " +
			j.target.Chip.Title + " here: submit a program with main(), or a built firmware"}
	}
	root := j.tools.framework
	if root == "" {
		return &sheet.Message{Kind: "error",
			Text: "programs with setup() and loop() need the Debian package arduino-core-avr, which is not installed here"}
	}
	for _, l := range []library{{name: "core", folder: filepath.Join(root, "cores/arduino"), linked: true},
		{name: "core", folder: filepath.Join(root, "variants", j.target.Chip.Toolchain.Variant)}} {
		if err := j.take(&l); err != nil {
			return &sheet.Message{Kind: "error", Text: err.Error()}
		}
	}
	return nil
}

// take reads a library, and gives it its place in the sandbox.
func (j *job) take(l *library) error {
	l.inside = l.folder // as the framework's, which is part of the tools
	if framework := j.tools.framework; framework == "" || !strings.HasPrefix(l.folder, framework+"/") {
		l.inside = fmt.Sprintf("%s/%d", libraryFolder, len(j.libraries))
	}
	total := 0
	err := filepath.WalkDir(l.folder, func(name string, d os.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && name != l.folder && (d.Name() == "examples" || d.Name() == "extras" || d.Name() == "test" ||
			strings.HasPrefix(d.Name(), ".")):
			return filepath.SkipDir
		case !d.Type().IsRegular() || !isKind(d.Name()) || strings.EqualFold(filepath.Ext(d.Name()), loopExt):
			return nil
		}
		relative, err := filepath.Rel(l.folder, name)
		if err != nil {
			return err
		}
		if err := fileName(filepath.ToSlash(relative)); err != nil {
			return err
		}
		data, err := readBounded(name, maxOne+1)
		if err != nil {
			return err
		}
		if total += len(data); len(data) > maxOne || total > maxLibrary {
			return fmt.Errorf("a library has at most %d bytes, a file of it %d", maxLibrary, maxOne)
		}
		l.files = append(l.files, libraryFile{path.Join(l.inside, filepath.ToSlash(relative)), data})
		return nil
	})
	j.libraries = append(j.libraries, *l)
	return err
}

// brought are the files that have to be brought to the sandbox.
func (l library) brought() []libraryFile {
	if !strings.HasPrefix(l.inside, libraryFolder+"/") {
		return nil
	}
	return l.files
}

// archive compiles a library, or finds it in the cache: by the compiler, its flags, its files and those of all that it
// may include. It is nil for headers alone.
func (j *job) archive(ctx context.Context, l library) ([]byte, []sheet.Message, error) {
	key := sha256.New()
	fmt.Fprintln(key, j.tools.version, compileArgs("x.cpp", j.target, true), l.inside)
	s := newScript(j.tools.prefix)
	var includes []string
	for _, other := range j.libraries {
		includes = append(includes, "-I"+other.inside)
		for _, f := range other.files {
			fmt.Fprintf(key, "%s %x\n", f.inside, sha256.Sum256(f.data))
		}
		for _, f := range other.brought() {
			s.put(f.inside, f.data)
		}
	}
	result := sandbox.Folder + "/library.a"
	args := []string{"rcsD", result}
	for _, f := range l.files {
		if !isHeader(f.inside) && l.linked {
			args = append(args,
				s.compile(including(f.inside, f.inside),
					append(append(compileArgs(f.inside, j.target, true), includes...), "-w")))
		}
	}
	if s.units == 0 {
		return nil, nil, nil
	}
	name := filepath.Join(j.builder.cache, l.name+"-"+hex.EncodeToString(key.Sum(nil)[:10])+".a")
	if data, err := os.ReadFile(name); err == nil {
		return data, nil, nil
	}
	o, err := j.tools.box.Run(ctx, s.files, s.finish(result, j.tools.prefix+"ar", args), j.builder.limits)
	if err != nil {
		return nil, nil, err
	}
	if !o.OK {
		return nil, append([]sheet.Message{{Kind: "error", Text: "library " + l.name + " does not compile"}},
			j.messages(o)...), nil
	}
	return o.Output, nil, keep(name, o.Output)
}

// keep puts a file into the cache, whole or not at all. Another build may have put it there meanwhile: the same bytes.
func keep(name string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(name), making+"*")
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err = errors.Join(err, f.Close()); err == nil {
		err = os.Rename(f.Name(), name)
	}
	if err != nil {
		os.Remove(f.Name())
	}
	return err
}

// making is how the names of files begin that are not whole yet.
const making = "making-"
