package build

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"sort"
	"strings"
	"unicode"
	"unicode/utf8"

	"hemble/core/exercise"
)

// Bounds of a source.
const (
	maxFiles = 300
	maxOne   = 1 << 20
	maxTotal = 8 << 20
	maxPath  = 120
)

// File is one file of a source; its path has slashes and stays inside.
type File struct {
	Path string
	Data []byte
}

// Source is what was submitted.
type Source struct {
	Files []File
	total int
}

// kinds of files that belong to a source; others in a folder or archive are left aside.
var kinds = map[string]bool{".c": true, ".cpp": true, ".cc": true, ".cxx": true, ".h": true, ".hpp": true, ".hh": true,
	".inc": true, ".s": true, assemblerExt: true, loopExt: true,
	".v": true, ".sv": true, ".vh": true, ".vhd": true, ".vhdl": true, ".xdc": true, ".pcf": true, ".py": true}

// assemblerExt is the extension of assembler for chips whose assembler is no C compiler's.
const assemblerExt = ".asm"

// loopExt is the extension that students' editors give to files with setup() and loop().
const loopExt = ".ino"

func isKind(name string) bool { return kinds[strings.ToLower(path.Ext(name))] }

var zipMagic = []byte("PK\x03\x04")

// IsSource reports whether a file is source to be built: by its name, or a zip archive by its first bytes.
func IsSource(name string, data []byte) bool {
	return isKind(name) || bytes.HasPrefix(data, zipMagic)
}

// Add puts a file in. A path that leads out, a name that tools take for something else, and a source that grows too
// large, are errors.
func (s *Source) Add(name string, data []byte) error {
	clean := path.Clean(strings.ReplaceAll(name, `\`, "/"))
	if err := fileName(clean); err != nil {
		return err
	}
	switch {
	case len(data) > maxOne:
		return fmt.Errorf("%s has %d bytes; a source file has at most %d", clean, len(data), maxOne)
	case len(s.Files) == maxFiles:
		return fmt.Errorf("there are more than %d source files", maxFiles)
	case s.total+len(data) > maxTotal:
		return fmt.Errorf("the source has more than %d bytes", maxTotal)
	}
	for _, f := range s.Files {
		if f.Path == clean {
			return fmt.Errorf("two files are called %q", clean)
		}
	}
	s.total += len(data)
	s.Files = append(s.Files, File{clean, data})
	return nil
}

// fileName reports whether a path (with slashes, cleaned) can be that of a source file: it stays inside, and no part of
// it is one that a compiler or a shell takes for an option, a list of options, or the end of a name.
func fileName(clean string) error {
	switch {
	case path.IsAbs(clean) || clean == ".." || strings.HasPrefix(clean, "../") || strings.Contains(clean, ":") ||
		clean == ".":
		return fmt.Errorf("the file name %.60q leads out of the source", clean)
	case len(clean) > maxPath || !utf8.ValidString(clean) || strings.ContainsFunc(clean, unnamable):
		return fmt.Errorf("%.60q is no file name that a compiler takes: at most %d bytes, no quotation marks, no control characters", clean, maxPath)
	}
	for _, part := range strings.Split(clean, "/") {
		if strings.HasPrefix(part, "-") || strings.HasPrefix(part, "@") {
			return fmt.Errorf("%.60q is no file name that a compiler takes: a name begins neither with - nor with @",
				clean)
		}
	}
	return nil
}

// unnamable tells the characters that no name of a source file has: those that end a name in the source, and those that
// nobody sees.
func unnamable(r rune) bool {
	return r == '"' || r == '\\' || unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == '\u2028' || r == '\u2029'
}

// FromFile takes one handed-in file: a source file, or a zip archive of some.
func FromFile(name string, data []byte) (*Source, error) {
	s := &Source{}
	if !bytes.HasPrefix(data, zipMagic) {
		return s, s.Add(path.Base(filepath.ToSlash(name)), data)
	}
	r, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("%s is a damaged zip archive: %w", name, err)
	}
	for _, f := range r.File {
		if f.FileInfo().IsDir() || !wanted(f.Name) {
			continue
		}
		content, err := unpack(f)
		if err != nil {
			return nil, fmt.Errorf("%s, %s: %w", name, f.Name, err)
		}
		if err := s.Add(f.Name, content); err != nil {
			return nil, err
		}
	}
	s.strip()
	if len(s.Files) == 0 {
		return nil, fmt.Errorf("%s has no source files (.c, .cpp, .h, .S, %s or %s)", name, assemblerExt, loopExt)
	}
	return s, nil
}

func unpack(f *zip.File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return io.ReadAll(io.LimitReader(r, maxOne+1))
}

// wanted leaves out what is no source, and what archivers and editors leave behind.
func wanted(name string) bool {
	for _, part := range strings.Split(strings.ReplaceAll(name, `\`, "/"), "/") {
		if strings.HasPrefix(part, ".") && part != ".." || part == "__MACOSX" {
			return false
		}
	}
	return isKind(name)
}

// strip takes away a folder that all files are in.
func (s *Source) strip() {
	for len(s.Files) > 0 {
		first, _, nested := strings.Cut(s.Files[0].Path, "/")
		for _, f := range s.Files {
			nested = nested && strings.HasPrefix(f.Path, first+"/")
		}
		if !nested {
			return
		}
		for i := range s.Files {
			s.Files[i].Path = strings.TrimPrefix(s.Files[i].Path, first+"/")
		}
	}
}

// FromPath reads a source file with the headers beside it, a zip archive, or a folder.
func FromPath(name string) (*Source, error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return fromFolder(name)
	}
	data, err := readBounded(name, 16<<20)
	if err != nil {
		return nil, err
	}
	s, err := FromFile(name, data)
	if err != nil || bytes.HasPrefix(data, zipMagic) {
		return s, err
	}
	beside, err := os.ReadDir(filepath.Dir(name))
	if err != nil {
		return nil, err
	}
	for _, e := range beside {
		if e.Type().IsRegular() && goesWith(name, e.Name()) {
			header, err := readBounded(filepath.Join(filepath.Dir(name), e.Name()), maxOne+1)
			if err != nil {
				return nil, err
			}
			if err := s.Add(e.Name(), header); err != nil {
				return nil, err
			}
		}
	}
	return s, nil
}

// goesWith tells whether a file belongs to a single one that it stands beside: headers, and for a design constraints.
func goesWith(name, other string) bool {
	switch strings.ToLower(path.Ext(other)) {
	case ".h", ".hpp":
		return !isDesign(name)
	case ".xdc", ".pcf", ".vh":
		return isDesign(name)
	}
	return false
}

func isDesign(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".v", ".sv", ".vhd", ".vhdl":
		return true
	}
	return false
}

func fromFolder(name string) (*Source, error) {
	s := &Source{}
	err := filepath.WalkDir(name, func(file string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		inside, err := filepath.Rel(name, file)
		if err != nil {
			return err
		}
		if !d.Type().IsRegular() || !wanted(filepath.ToSlash(inside)) {
			return nil
		}
		data, err := readBounded(file, maxOne+1)
		if err != nil {
			return err
		}
		return s.Add(filepath.ToSlash(inside), data)
	})
	if err == nil && len(s.Files) == 0 {
		err = fmt.Errorf("%s has no source files (.c, .cpp, .h, .S, %s or %s)", name, assemblerExt, loopExt)
	}
	sort.Slice(s.Files, func(i, j int) bool { return s.Files[i].Path < s.Files[j].Path })
	return s, err
}

func readBounded(name string, most int64) ([]byte, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, most))
}

// For gives an exercise for the chip that submitted work is for: a firmware's file says it, and source by its headers.
func For(x *exercise.Exercise, name string, data []byte) *exercise.Exercise {
	if len(x.Others) == 0 {
		return x
	}
	if !IsSource(name, data) {
		return x.For(data)
	}
	s, err := FromFile(name, data)
	if err != nil { // it is told where that is built
		return x
	}
	return s.For(x)
}

// For gives an exercise for the chip that the source is for.
func (s *Source) For(x *exercise.Exercise) *exercise.Exercise {
	var texts [][]byte
	for _, f := range s.Files {
		texts = append(texts, f.Data)
	}
	return x.ForSource(texts...)
}
