package sandbox

import (
	"fmt"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
)

var mapped = regexp.MustCompile(`(?m)(/\S+) \(0x`)

// addProgram makes a program readable, by its name, by the names of what it links to, and with its shared libraries.
func (b *Box) addProgram(path string) error {
	list := []string{path}
	if real, err := filepath.EvalSymlinks(path); err == nil && real != path {
		list = append(list, real)
	}
	loaded, err := Libraries(path)
	if err != nil {
		return err
	}
	for _, name := range append(list, loaded...) {
		if !slices.Contains(b.readable, name) {
			b.readable = append(b.readable, name)
		}
	}
	return nil
}

// Libraries are the shared libraries that a program loads.
func Libraries(program string) (list []string, err error) {
	out, err := exec.Command("ldd", program).Output()
	if err != nil {
		return nil, fmt.Errorf("looking for the libraries of %s: %w", program, err)
	}
	for _, m := range mapped.FindAllStringSubmatch(string(out), -1) {
		list = append(list, m[1])
	}
	return list, nil
}
