package firmware

import (
	"fmt"
	"strings"

	"hemble/core/script"
)

// readScript reads a script. Its lines are its program: see script.Program.Address.
func readScript(file []byte) (*Image, error) {
	if !script.Is(file) {
		return nil, fmt.Errorf("this is no script as hemble packs it: submit its source (.py, or a zip); the file starts with %q",
			file[:min(len(file), 8)])
	}
	p, err := script.Read(file)
	if err != nil {
		return nil, err
	}
	im := &Image{Format: "script", Script: p}
	for _, name := range p.Names() {
		n := strings.Count(p.Files[name], "\n") + 1
		for line := 1; line <= n; line++ {
			at, _ := p.Address(name, line)
			im.lines.entries = append(im.lines.entries, lineEntry{address: at, line: Line{File: name, Line: line}})
		}
		end, _ := p.Address(name, n+1)
		im.lines.entries = append(im.lines.entries, lineEntry{address: end, end: true})
	}
	im.lines.once.Do(im.lines.sort)
	return im, nil
}
