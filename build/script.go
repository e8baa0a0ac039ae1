package build

import (
	"fmt"
	"path"
	"strings"

	"hemble/core/firmware"
	"hemble/sandbox"
)

// Where things are in the sandbox. What a student or an instructor called a file is in no command line: the
// compiler is given files of our own names in unitFolder, each of which includes one of theirs by its whole path.
const (
	sourceFolder  = firmware.SourceFolder
	unitFolder    = "/unit"
	libraryFolder = firmware.LibraryFolder
)

// script is a run of the compiler in the making: its files, its commands, how its messages are read.
type script struct {
	prefix string // of the compiler's commands
	files  []sandbox.File
	lines  []string
	units  int
}

func newScript(prefix string) *script {
	return &script{prefix: prefix, lines: []string{"bad=0"}}
}

// put makes a file readable at a path of the sandbox.
func (s *script) put(name string, data []byte) {
	s.files = append(s.files, sandbox.File{Path: name, Data: data})
}

// compile adds a unit: code in a file of its own. It gives the object.
func (s *script) compile(u unit, args []string) string {
	tool, ext := s.prefix+"gcc", ".c"
	switch {
	case isAssembler(u.name):
		ext = ".S"
	case isCPlusPlus(u.name):
		tool, ext = s.prefix+"g++", ".cpp"
	}
	name := fmt.Sprintf("%s/%d%s", unitFolder, s.units, ext)
	object := fmt.Sprintf("%s/%d.o", sandbox.Folder, s.units)
	s.units++
	s.put(name, u.code)
	s.lines = append(s.lines, command(tool, append(args, "-c", name, "-o", object))+" || bad=1")
	return object
}

// finish adds the last command, whose result is what comes out of the run.
func (s *script) finish(result, tool string, args []string) string {
	s.lines = append(s.lines, "[ $bad = 0 ] || exit 1", command(tool, args)+" || exit 1", "cat "+result)
	return strings.Join(s.lines, "\n") + "\n"
}

// command is a line of a shell script. All that a tool says goes to standard error.
func command(tool string, args []string) string {
	line := tool
	for _, a := range args {
		line += " '" + strings.ReplaceAll(a, "'", `'\''`) + "'"
	}
	return line + " >&2"
}

// unit is one file to be compiled: what its author calls it, which tells its language, and the code that the compiler
// gets.
type unit struct {
	name string
	code []byte
}

// including is a unit of the file at a path of the sandbox.
func including(name, at string) unit {
	return unit{name, []byte("#include \"" + at + "\"\n")}
}

// inSource is where a file of the source is in the sandbox.
func inSource(name string) string { return path.Join(sourceFolder, name) }
