package build

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"sort"
	"strings"

	"hemble/core/sheet"
)

// library is a folder of code that a program may include by one of its headers.
type library struct {
	name    string
	root    string // empty for headers alone
	include string // the folder of its headers
}

var include = regexp.MustCompile(`(?m)^[ \t]*#[ \t]*include[ \t]*[<"]([^>"\n]+)[>"]`)

// known lists the libraries there are: an instructor's go before those of the framework.
func (b *Builder) known(framework bool) (all []library) {
	dirs := append([]string(nil), b.libraries...)
	if framework && b.tools.framework != "" {
		dirs = append(dirs, filepath.Join(b.tools.framework, "libraries"))
	}
	for _, dir := range dirs {
		entries, _ := os.ReadDir(dir)
		for _, e := range entries {
			if !e.IsDir() || strings.HasPrefix(e.Name(), ".") {
				continue
			}
			l := library{name: e.Name(), root: filepath.Join(dir, e.Name())}
			l.include = l.root
			if info, err := os.Stat(filepath.Join(l.root, "src")); err == nil && info.IsDir() {
				l.include = filepath.Join(l.root, "src")
			}
			all = append(all, l)
		}
	}
	return all
}

// findLibraries follows the includes of a source, and of the libraries that it finds, to the libraries that have
// them. The core with setup() and loop() comes last.
func (j *job) findLibraries() (found []library, problem *sheet.Message) {
	known := j.builder.known(j.plan.framework)
	own := map[string]bool{}
	var queue [][]byte
	for _, f := range j.plan.files {
		own[f.Path] = true
		own[strings.TrimPrefix(f.Path, "src/")] = true
		queue = append(queue, f.Data)
	}
	taken := map[string]bool{}
	for len(queue) > 0 {
		text := queue[0]
		queue = queue[1:]
		for _, m := range include.FindAllSubmatch(text, -1) {
			header := string(m[1])
			if own[header] || strings.Contains(header, "..") {
				continue
			}
			for _, l := range known {
				if _, err := os.Stat(filepath.Join(l.include, header)); err != nil || taken[l.root] {
					continue
				}
				taken[l.root] = true
				found = append(found, l)
				for _, file := range l.files() {
					data, _ := readBounded(file, maxOne)
					queue = append(queue, data)
				}
				break
			}
		}
	}
	if j.plan.framework {
		root := j.builder.tools.framework
		if root == "" {
			return nil, &sheet.Message{Kind: "error", Text: "programs with setup() and loop() need the Debian package arduino-core-avr, which is not installed here"}
		}
		core := filepath.Join(root, "cores/arduino")
		found = append(found, library{name: "core", root: core, include: core}, library{name: "core", include: filepath.Join(root, "variants/standard")})
	}
	return found, nil
}

// files lists the source files of a library, without its examples and tests.
func (l library) files() (out []string) {
	if l.root == "" {
		return nil
	}
	_ = filepath.WalkDir(l.include, func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return nil
		}
		if d.IsDir() && path != l.include && (d.Name() == "examples" || d.Name() == "extras" || d.Name() == "test" || strings.HasPrefix(d.Name(), ".")) {
			return filepath.SkipDir
		}
		if d.Type().IsRegular() && isKind(d.Name()) && !strings.EqualFold(filepath.Ext(d.Name()), loopExt) {
			out = append(out, path)
		}
		return nil
	})
	sort.Strings(out)
	return out
}

// archive compiles a library, or finds it in the cache: by its files, the compiler and the flags.
func (b *Builder) archive(ctx context.Context, l library, includes []string, t Target) (string, []sheet.Message, error) {
	var units []string
	key := sha256.New()
	fmt.Fprintln(key, b.tools.version, compileArgs("x.cpp", t, true), includes)
	for _, file := range l.files() {
		data, err := os.ReadFile(file)
		if err != nil {
			return "", nil, err
		}
		fmt.Fprintf(key, "%s %x\n", file, sha256.Sum256(data))
		if !isHeader(file) {
			units = append(units, file)
		}
	}
	if len(units) == 0 {
		return "", nil, nil
	}
	path := filepath.Join(b.cache, l.name+"-"+hex.EncodeToString(key.Sum(nil)[:10])+".a")
	if _, err := os.Stat(path); err == nil {
		return path, nil, nil
	}
	dir, err := os.MkdirTemp(b.cache, "making-")
	if err != nil {
		return "", nil, err
	}
	defer os.RemoveAll(dir)
	box := sandbox{source: l.root, out: dir, readable: b.libraries}
	args := []string{"rcsD", "/out/library.a"}
	for i, unit := range units {
		object := fmt.Sprintf("/out/%d.o", i)
		tool := "avr-gcc"
		if isCPlusPlus(unit) {
			tool = "avr-g++"
		}
		compile := append(append(compileArgs(unit, t, true), includes...), "-w", "-c", unit, "-o", object)
		r, err := b.tools.run(ctx, box, tool, compile...)
		if err != nil {
			return "", nil, err
		}
		if !r.ok {
			return "", append([]sheet.Message{{Kind: "error", Text: "library " + l.name + " does not compile"}}, parse(r.output, nil)...), nil
		}
		args = append(args, object)
	}
	r, err := b.tools.run(ctx, box, "avr-ar", args...)
	if err != nil {
		return "", nil, err
	}
	if !r.ok {
		return "", nil, fmt.Errorf("archiving library %s: %s", l.name, strings.TrimSpace(r.output))
	}
	// Another build may have made it meanwhile: the same bytes.
	return path, nil, os.Rename(filepath.Join(dir, "library.a"), path)
}
