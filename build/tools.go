package build

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"hemble/sandbox"
)

// tools are the compiler of this machine, in its sandbox.
type tools struct {
	box       *sandbox.Box
	version   string // of the compiler
	framework string // folder of the core with setup() and loop(); empty where it is not installed
}

// programs are what a build runs.
var programs = []string{"avr-gcc", "avr-g++", "avr-as", "avr-ld", "avr-ar"}

// Where Debian's arduino-core-avr puts its core and libraries.
const frameworkFolder = "/usr/share/arduino/hardware/arduino/avr"

// limits are those of one build, the compiler's every run taken together; and of the build of one library.
var limits = sandbox.Limits{
	Wall: 60 * time.Second, CPU: 40 * time.Second, Memory: 1 << 30, Processes: 24, Disk: 64 << 20, Files: 2000,
	Output: 16 << 20, Messages: 64 << 10,
}

// maxBuild bounds a build with all that it needs built first.
const maxBuild = 2 * time.Minute

var findTools = sync.OnceValues(func() (t tools, err error) {
	gcc, err := exec.LookPath("avr-gcc")
	if err != nil {
		return t, errors.New("avr-gcc is not installed (Debian packages gcc-avr, binutils-avr, avr-libc)")
	}
	text := func(args ...string) string {
		out, _ := exec.Command(gcc, args...).Output()
		return strings.TrimSpace(string(out))
	}
	t.version = text("-dumpversion")
	readable := []string{filepath.Dir(text("-print-libgcc-file-name"))} // cc1 and the compiler's own headers
	for _, name := range []string{"as", "ld"} {
		readable = append(readable, filepath.Dir(text("-print-prog-name="+name)))
	}
	for _, dir := range []string{"/usr/lib/avr", "/usr/avr", "/usr/lib/gcc/avr"} {
		if _, err := os.Stat(dir); err == nil {
			readable = append(readable, dir)
		}
	}
	if _, err := os.Stat(filepath.Join(frameworkFolder, "cores/arduino/Arduino.h")); err == nil {
		t.framework = frameworkFolder
		readable = append(readable, t.framework)
	}
	for _, name := range []string{"cc1", "cc1plus"} {
		loaded, err := sandbox.Libraries(text("-print-prog-name=" + name))
		if err != nil {
			return t, err
		}
		readable = append(readable, loaded...)
	}
	t.box, err = sandbox.New(programs, readable)
	return t, err
})

// stopped is the message of a run that went over its limits.
func stopped(o *sandbox.Outcome) string {
	return fmt.Sprintf("error: the compiler was stopped: it needed %s\n", o.Stopped)
}
