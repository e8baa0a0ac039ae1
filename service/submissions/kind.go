package submissions

import (
	"bytes"
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/core/firmware"
)

// Kind returns what kind of work a file is, by its name and its first bytes; an error says why it is none.
func Kind(name string, data []byte) (kind string, err error) {
	switch ext := strings.ToLower(path.Ext(name)); {
	case len(data) == 0:
		return "", fmt.Errorf("the file is empty")
	case IsCapture(name):
		return exercise.Capture, nil
	case len(data) > firmware.MaxFile:
		return "", fmt.Errorf("the file has %d bytes; no firmware needs more than %d", len(data), firmware.MaxFile)
	case build.IsSource(name, data):
		return exercise.Source, nil
	case bytes.HasPrefix(data, []byte("\x7fELF")) || slices.Contains(firmware.Endings, ext):
		return exercise.Firmware, nil
	}
	return "", fmt.Errorf("this is neither firmware (%s) nor source (.c, .cpp, .ino, .asm, .v, .sv, .vhd, .zip) nor a "+
		"capture (.vcd)", strings.Join(firmware.Endings, ", "))
}

// Takes reports whether work of a kind is among those that are taken; its error names them.
func Takes(taken []string, kind string) error {
	if slices.Contains(taken, kind) {
		return nil
	}
	return fmt.Errorf("this is %s; what is taken here is %s", described[kind], strings.Join(taken, " or "))
}

var described = map[string]string{exercise.Firmware: "firmware", exercise.Source: "source",
	exercise.Capture: "a capture"}

// IsCapture reports whether a file is the capture of a logic analyser or a simulation.
func IsCapture(name string) bool { return strings.EqualFold(filepath.Ext(name), ".vcd") }
