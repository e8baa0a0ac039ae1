package build

import (
	"io/fs"
	"path"
)

// Where a chip's own start-up code, headers and linker's script are in the sandbox.
const (
	supportFolder = "/support"
	linkScript    = supportFolder + "/link.ld"
)

// support puts a chip's own files into the sandbox, and gives those that are compiled with each program.
func (j *job) support() (units []unit) {
	files := j.target.Chip.Toolchain.Support
	if files == nil {
		return nil
	}
	names, _ := fs.Glob(files, "*")
	for _, name := range names {
		data, err := fs.ReadFile(files, name)
		if err != nil {
			continue // a folder
		}
		at := path.Join(supportFolder, name)
		j.script.put(at, data)
		if !isHeader(name) && at != linkScript {
			units = append(units, including(name, at))
		}
	}
	return units
}
