// Package build makes firmware from source: it takes what a student handed in (C, C++, assembler, or files with
// setup() and loop()), compiles it with avr-gcc inside bubblewrap, and gives an ELF file, or the compiler's
// messages as feedback.
package build

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"hemble/core/sheet"
)

// Builder builds sources, one or many at a time.
type Builder struct {
	tools     tools
	cache     string   // where core archives are kept
	libraries []string // folders of library folders, those of an instructor
}

// Config is what a builder needs.
type Config struct {
	Cache     string   // folder for archives of libraries; made where it is missing
	Libraries []string // folders whose subfolders are libraries
}

// ErrOff is why building is off on this machine.
var ErrOff = errors.New("building from source is off")

// New looks for compiler and sandbox. Its error wraps ErrOff and says what is missing.
func New(c Config) (*Builder, error) {
	t, err := findTools()
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrOff, err)
	}
	if c.Cache == "" {
		if c.Cache, err = os.UserCacheDir(); err != nil {
			return nil, fmt.Errorf("%w: %w", ErrOff, err)
		}
		c.Cache = filepath.Join(c.Cache, "hemble", "build")
	}
	if err := os.MkdirAll(c.Cache, 0o755); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrOff, err)
	}
	b := &Builder{tools: t, cache: c.Cache}
	for _, dir := range c.Libraries {
		abs, err := filepath.Abs(dir)
		if err != nil {
			return nil, err
		}
		b.libraries = append(b.libraries, abs)
	}
	return b, nil
}

// With gives a builder with further folders of library folders, which go before those of b.
func (b *Builder) With(dirs ...string) *Builder {
	out := *b
	out.libraries = slices.Concat(dirs, b.libraries)
	return &out
}

// Target is what to build for.
type Target struct {
	Chip  string // as avr-gcc's -mmcu takes it
	Clock int64  // Hz
}

// Result is what came of a build: an ELF file, or nil and the messages that tell why.
type Result struct {
	ELF      []byte
	Messages []sheet.Message
	Usage    *Usage // nil where nothing was linked
}

// Failed tells that there is no firmware.
func (r *Result) Failed() bool { return r.ELF == nil }

// Why sums a failed build up in one line.
func (r *Result) Why() string {
	why, n := "the source could not be built", 0
	for _, m := range r.Messages {
		if m.Kind == "warning" || m.Kind == "note" {
			continue
		}
		if n++; n == 1 {
			why += ": " + m.String()
		}
	}
	if n > 1 {
		why += fmt.Sprintf(" (and %d more)", n-1)
	}
	return why
}

// Build compiles and links. What is wrong with the source is in the result; an error means that the build
// could not be carried out.
func (b *Builder) Build(ctx context.Context, s *Source, t Target) (*Result, error) {
	dir, err := os.MkdirTemp("", "hemble-build-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	p, problem := plan(s)
	if problem != nil {
		return &Result{Messages: []sheet.Message{*problem}}, nil
	}
	j := &job{builder: b, plan: p, target: t, source: filepath.Join(dir, "source"), out: filepath.Join(dir, "out")}
	if err := os.Mkdir(j.out, 0o755); err != nil {
		return nil, err
	}
	for _, f := range p.files {
		path := filepath.Join(j.source, filepath.FromSlash(f.Path))
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return nil, err
		}
		if err := os.WriteFile(path, f.Data, 0o644); err != nil {
			return nil, err
		}
	}
	return j.run(ctx)
}

// job is one build under way.
type job struct {
	builder *Builder
	plan    *planned
	target  Target
	source  string // folder with the sources, read-only to the compiler
	out     string // folder that the compiler writes to
	output  strings.Builder
}

// run compiles every file, then links.
func (j *job) run(ctx context.Context) (*Result, error) {
	libraries, problem := j.findLibraries()
	if problem != nil {
		return &Result{Messages: []sheet.Message{*problem}}, nil
	}
	var archives, includes []string
	for _, l := range libraries {
		includes = append(includes, "-I"+l.include)
	}
	for _, l := range libraries {
		archive, messages, err := j.builder.archive(ctx, l, includes, j.target)
		if err != nil || messages != nil {
			return &Result{Messages: messages}, err
		}
		if archive != "" {
			archives = append(archives, archive)
		}
	}
	var objects []string
	ok := true
	for i, name := range j.plan.units {
		object := fmt.Sprintf("/out/%d.o", i)
		args := append(compileArgs(name, j.target, j.plan.framework), "-I.", "-Isrc")
		args = append(append(args, includes...), "-c", name, "-o", object)
		done, err := j.compiler(ctx, name, args, nil)
		if err != nil {
			return nil, err
		}
		ok = ok && done
		objects = append(objects, object)
	}
	if ok {
		args := append(linkArgs(j.target), objects...)
		// A library may use another that stands before it.
		args = append(append(append(args, "-Wl,--start-group"), archives...), "-Wl,--end-group", "-lm", "-o", "/out/program.elf")
		var err error
		if ok, err = j.compiler(ctx, "", args, archives); err != nil {
			return nil, err
		}
	}
	r := &Result{Messages: j.messages()}
	if !ok {
		if len(r.Messages) == 0 {
			r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: "the compiler gave up without a message"})
		}
		return r, nil
	}
	elf, err := os.ReadFile(filepath.Join(j.out, "program.elf"))
	if err != nil {
		return nil, err
	}
	r.ELF = elf
	r.Usage = usage(elf)
	return r, nil
}

// compiler runs avr-gcc or avr-g++ for a file, or to link. What it says is kept.
func (j *job) compiler(ctx context.Context, name string, args, readable []string) (bool, error) {
	tool := "avr-gcc"
	if isCPlusPlus(name) || name == "" && j.plan.cPlusPlus {
		tool = "avr-g++"
	}
	r, err := j.builder.tools.run(ctx, sandbox{source: j.source, out: j.out, readable: slices.Concat(j.builder.libraries, readable)}, tool, args...)
	if err != nil {
		return false, err
	}
	j.output.WriteString(r.output)
	return r.ok, nil
}
