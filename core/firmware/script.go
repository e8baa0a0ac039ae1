package firmware

import (
	"fmt"

	"hemble/core/script"
)

// readScript reads a script. Its lines are its program: see script.Program.Line.
func readScript(file []byte) (*Image, error) {
	if !script.Is(file) {
		return nil, fmt.Errorf("this is no script as hemble packs it: submit its source (.py, or a zip); the file starts with %q",
			file[:min(len(file), 8)])
	}
	p, err := script.Read(file)
	if err != nil {
		return nil, err
	}
	return &Image{Format: "script", Script: p}, nil
}
