// Package script reads programs that are scripts: their files, the one of them that is started, and their words.
package script

import (
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
)

// Magic begins the file of a script.
const Magic = `{"hemble-script":1,`

// Bounds of a script.
const (
	MaxFiles = 100
	maxBytes = 2 << 20

	maxBinary = 8 << 20
)

// Program is a script with its files.
type Program struct {
	Main  string            // the file that is started
	Files map[string]string // texts by path, with slashes
	Hash  [32]byte

	// Binary is what was built of the files, as WebAssembly; nil for scripts that are interpreted.
	Binary []byte
	names  []string // of the files, in order

	// Numbering of a header's pins, in place of that which the program says: to try whether that is what is wrong.
	Numbering string
}

type file struct {
	Version int               `json:"hemble-script"`
	Main    string            `json:"main"`
	Files   map[string]string `json:"files"`
	Binary  []byte            `json:"binary,omitempty"`
}

// Is tells the file of a script by its first bytes.
func Is(data []byte) bool { return bytes.HasPrefix(data, []byte(Magic)) }

// Write makes the file of a script.
func Write(entry string, files map[string]string) ([]byte, error) {
	return WriteBinary(entry, files, nil)
}

// WriteBinary makes the file of a program that was built.
func WriteBinary(entry string, files map[string]string, binary []byte) ([]byte, error) {
	out, err := json.Marshal(file{1, entry, files, binary})
	if err != nil {
		return nil, err
	}
	return append(out, '\n'), nil
}

// Read reads the file of a script.
func Read(data []byte) (*Program, error) {
	var f file
	if err := json.Unmarshal(data, &f); err != nil {
		return nil, fmt.Errorf("the script is damaged: %w", err)
	}
	if f.Version != 1 {
		return nil, fmt.Errorf("the script is of version %d; version 1 is known here", f.Version)
	}
	if _, ok := f.Files[f.Main]; !ok {
		return nil, fmt.Errorf("the script begins with %.60q, which is none of its files", f.Main)
	}
	if len(f.Files) > MaxFiles {
		return nil, fmt.Errorf("the script has %d files; at most %d are taken", len(f.Files), MaxFiles)
	}
	total := 0
	for name, text := range f.Files {
		if total += len(text); total > maxBytes {
			return nil, fmt.Errorf("the script has more than %d bytes", maxBytes)
		}
		outside := name != path.Clean(name) || path.IsAbs(name) || strings.HasPrefix(name, "..")
		if outside || strings.ContainsAny(name, "\\\x00") || len(name) > 120 {
			return nil, fmt.Errorf("%.60q is no name of a file of a script", name)
		}
	}
	if len(f.Binary) > maxBinary {
		return nil, fmt.Errorf("the program has %d bytes; at most %d are taken", len(f.Binary), maxBinary)
	}
	return &Program{Main: f.Main, Files: f.Files, Binary: f.Binary, Hash: sha256.Sum256(data),
		names: slices.Sorted(maps.Keys(f.Files))}, nil
}

// Size is that of its files in bytes.
func (p *Program) Size() (n int) {
	for _, text := range p.Files {
		n += len(text)
	}
	return n
}

// Names are its files, in order.
func (p *Program) Names() []string { return p.names }

// Rewritten is the program with another text of one of its files.
func (p *Program) Rewritten(name, text string) *Program {
	out := *p
	out.Files = maps.Clone(p.Files)
	out.Files[name] = text
	out.Hash = sha256.Sum256(slices.Concat(p.Hash[:], []byte(name+"\x00"+text)))
	return &out
}

// lineBits are those of a line in a program address; above them is the number of its file in Names.
const lineBits = 20

// Address is the program address of a line of the file with a number in Names.
func Address(file, line int) uint32 { return uint32(file<<lineBits | line) }

// Line is the line of one of its files that a program address is; 0 for none.
func (p *Program) Line(address uint32) (name string, line int) {
	if file := int(address >> lineBits); file < len(p.names) {
		return p.names[file], int(address & (1<<lineBits - 1))
	}
	return "", 0
}
