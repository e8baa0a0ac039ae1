package build

import (
	"fmt"
	"path"
	"slices"
	"strings"
)

// common are the flags of every compilation: small code, as firmware is usually built, with the debug
// information that findings need.
func common(t Target) []string {
	args := slices.Clone(t.Chip.Toolchain.Device)
	if t.Chip.Toolchain.Support == nil { // the packages' own headers want to know
		args = append(args, fmt.Sprintf("-DF_CPU=%dUL", t.Clock))
	}
	return append(args, "-Os", "-g", "-gdwarf-4", "-ffunction-sections", "-fdata-sections",
		"-fno-diagnostics-show-caret", "-fdiagnostics-color=never", "-fmax-errors=20", "-ftemplate-depth=256",
		"-fmessage-length=0", "-pipe")
}

// compileArgs are the flags for a file by its language.
func compileArgs(name string, t Target, framework bool) []string {
	args := common(t)
	if framework {
		// avr-gcc 5.4 does not know DECIMAL_DIG in C++, which the core uses.
		args = append(args, "-DARDUINO=10813", "-DARDUINO_ARCH_AVR", "-DDECIMAL_DIG=__DECIMAL_DIG__")
	}
	switch {
	case isAssembler(name):
		return append(args, "-x", "assembler-with-cpp")
	case isCPlusPlus(name):
		return append(args, "-std=gnu++11", "-fpermissive", "-fno-exceptions", "-fno-threadsafe-statics", "-Wall",
			"-Wno-error=narrowing")
	}
	return append(args, "-std=gnu11", "-Wall")
}

func linkArgs(t Target) []string {
	// No plug-ins of the linker, nor what they would read: bytes that an object says are of the compiler itself.
	args := append(common(t), "-fno-lto", "-fno-use-linker-plugin", "-Wl,--gc-sections", "-Wl,--no-warn-mismatch")
	if t.Chip.Toolchain.Support != nil {
		args = append(args, "-nostartfiles", "-specs=nano.specs", "-T", linkScript)
	}
	return args
}

func isAssembler(name string) bool {
	ext := path.Ext(name)
	return strings.EqualFold(ext, ".s") || strings.EqualFold(ext, assemblerExt)
}

func isCPlusPlus(name string) bool {
	switch path.Ext(name) {
	case ".cpp", ".cc", ".cxx":
		return true
	}
	return false
}
