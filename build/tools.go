package build

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"hemble/core/machine"
	"hemble/core/machine/scripted"
	"hemble/sandbox"
)

// tools are a compiler of this machine, in its sandbox.
type tools struct {
	prefix    string // of its commands
	box       *sandbox.Box
	version   string // of the compiler
	framework string // folder of the core with setup() and loop(); empty where it is not installed
}

// family is a compiler with its programs, and where they keep what they need.
type family struct {
	prefix    string
	packages  string // of Debian
	places    []string
	framework string
	endings   []string // of the usual files of a source
	programs  []string // of what is no C compiler; else nil
	needs     []string // patterns of files, of which each has one that is there
	// build is by those.
	build func(*Builder, context.Context, tools, *Source, Target) (*Result, error)
}

// Endings are those of the names of files that source for a chip comes in, the usual ones first.
func Endings(chip *machine.Chip) []string {
	if chip.Toolchain.Compiler == "" {
		return nil
	}
	out := slices.Clone(families[chip.Toolchain.Compiler].endings)
	if chip.Toolchain.Compiler == scripted.Python && chip.Toolchain.Support != nil {
		out = append(out, ".c")
	}
	return append(out, ".zip")
}

// inC are the endings of C and what is like it.
var inC = []string{".c", ".cpp", loopExt}

// families are the compilers that this package works with, by their commands.
var families map[string]family

func init() { // one builder looks for the tools of another
	families = map[string]family{
		"avr-gcc": {"avr-", "gcc-avr, binutils-avr, avr-libc", []string{"/usr/lib/avr", "/usr/avr", "/usr/lib/gcc/avr"},
			"/usr/share/arduino/hardware/arduino/avr", inC, nil, nil, nil}, // where Debian's arduino-core-avr puts its core and libraries
		"arm-none-eabi-gcc": {"arm-none-eabi-", "gcc-arm-none-eabi, libnewlib-arm-none-eabi",
			[]string{"/usr/lib/arm-none-eabi", "/usr/arm-none-eabi", "/usr/lib/gcc/arm-none-eabi",
				"/usr/include/newlib", "/etc/alternatives/gcc-arm-none-eabi-include", "/etc/alternatives/gcc-arm-none-eabi-lib"},
			"", inC, nil, nil, nil},
		"gpasm": {packages: "gputils", places: []string{"/usr/share/gputils"}, programs: []string{"gpasm", "gplink"},
			endings: []string{assemblerExt},
			build:   (*Builder).assemble},
		"yosys": {packages: "yosys, ghdl-mcode, verilator", places: []string{"/usr/share/yosys", "/usr/lib/ghdl",
			"/usr/share/verilator"}, programs: []string{"yosys", "ghdl-mcode", "verilator_bin"},
			endings: []string{".v", ".sv", ".vhd"}, build: (*Builder).synthesise},
		clang: {packages: "clang, lld, wasi-libc, libclang-rt-dev-wasm32", places: append(clangPlaces, "/usr/lib/wasm32-wasi",
			"/usr/include/wasm32-wasi"), programs: []string{clang, "wasm-ld"},
			needs: []string{"/usr/include/wasm32-wasi/stdio.h", "/usr/lib/llvm-*/lib/clang/*/lib/wasi/*.a"}},
		scripted.Python: {packages: "python3, python3-gpiozero", places: pythonPlaces,
			programs: []string{scripted.Python}, endings: []string{".py"}, build: (*Builder).python},
	}
}

// clangPlaces are where clang keeps what it needs, and clangOwn its headers, which it looks for beside itself.
var (
	clangPlaces, _ = filepath.Glob("/usr/lib/llvm-*/lib/clang")
	clangOwn, _    = filepath.Glob("/usr/lib/llvm-*/lib/clang/[0-9]*.*")
)

// pythonPlaces are its libraries.
var pythonPlaces, _ = filepath.Glob("/usr/lib/python3*")

// usual is the compiler without which nothing is built.
const usual = "avr-gcc"

// limits are those of one build, the compiler's every run taken together; and of the build of one library.
var limits = sandbox.Limits{
	Wall: 60 * time.Second, CPU: 40 * time.Second, Memory: 1 << 30, Processes: 24, Disk: 64 << 20, Files: 2000,
	Output: 16 << 20, Messages: 64 << 10,
}

// maxBuild bounds a build with all that it needs built first.
const maxBuild = 2 * time.Minute

var found sync.Map // by the compiler's command: what findTools found

// findTools looks for a compiler and what it needs, once.
func findTools(compiler string) (tools, error) {
	once, _ := found.LoadOrStore(compiler, sync.OnceValues(func() (tools, error) {
		f, ok := families[compiler]
		if !ok {
			return tools{}, fmt.Errorf("%s is not known here", compiler)
		}
		return f.find(compiler)
	}))
	return once.(func() (tools, error))()
}

// Ready is why no source for a chip can be built here, and what to install; nil where it can.
func Ready(chip *machine.Chip) error {
	if chip.Toolchain.Compiler == "" {
		return fmt.Errorf("nothing builds source for this chip: it takes built firmware")
	}
	if _, err := findTools(chip.Toolchain.Compiler); err != nil {
		return err
	}
	if chip.Toolchain.Compiler == scripted.Python && chip.Toolchain.Support != nil {
		if _, err := findTools(clang); err != nil {
			return fmt.Errorf("only Python, no C: %w", err)
		}
	}
	return nil
}

// lookPath finds a program.
var lookPath = exec.LookPath

func (f family) find(compiler string) (t tools, err error) {
	t.prefix = f.prefix
	gcc, err := lookPath(compiler)
	if err != nil {
		return t, fmt.Errorf("%s is not installed (Debian packages %s)", compiler, f.packages)
	}
	for _, program := range f.programs {
		if _, err := lookPath(program); err != nil {
			return t, fmt.Errorf("%s is not installed (Debian packages %s)", program, f.packages)
		}
	}
	for _, pattern := range f.needs {
		if there, _ := filepath.Glob(pattern); there == nil {
			return t, fmt.Errorf("%s is not installed (Debian packages %s)", pattern, f.packages)
		}
	}
	if f.programs != nil {
		var places []string
		for _, dir := range f.places {
			if _, err := os.Stat(dir); err == nil {
				places = append(places, dir)
			}
		}
		if t.box, err = sandbox.New(f.programs, places); err == nil && compiler == "yosys" {
			t.box = t.box.Self(gcc) // it finds its files beside itself
		}
		return t, err
	}
	text := func(args ...string) string {
		out, _ := exec.Command(gcc, args...).Output()
		return strings.TrimSpace(string(out))
	}
	t.version = compiler + " " + text("-dumpversion")
	readable := []string{filepath.Dir(text("-print-libgcc-file-name"))} // cc1 and the compiler's own headers
	for _, name := range []string{"as", "ld"} {
		readable = append(readable, filepath.Dir(text("-print-prog-name="+name)))
	}
	for _, dir := range f.places {
		if _, err := os.Stat(dir); err == nil {
			readable = append(readable, dir)
		}
	}
	if _, err := os.Stat(filepath.Join(f.framework, "cores/arduino/Arduino.h")); f.framework != "" && err == nil {
		t.framework = f.framework
		readable = append(readable, t.framework)
	}
	for _, name := range []string{"cc1", "cc1plus"} {
		loaded, err := sandbox.Libraries(text("-print-prog-name=" + name))
		if err != nil {
			return t, err
		}
		readable = append(readable, loaded...)
	}
	var programs []string
	for _, name := range []string{"gcc", "g++", "as", "ld", "ar"} {
		programs = append(programs, f.prefix+name)
	}
	t.box, err = sandbox.New(programs, readable)
	return t, err
}

// stopped is the message of a run that went over its limits.
func stopped(o *sandbox.Outcome) string {
	return fmt.Sprintf("error: the compiler was stopped: it needed %s\n", o.Stopped)
}
