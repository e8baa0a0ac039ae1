package exercises

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
)

// Unzip unpacks an archive in memory, up to that many bytes and files. Paths that lead out, and names that no system
// takes, are errors; folders, and what archivers leave behind, are left out.
func Unzip(data []byte, mostBytes int64, mostFiles int) (out []File, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("this is no zip archive, or a damaged one: %w", err)
	}
	left := mostBytes
	for _, f := range z.File {
		name := strings.ReplaceAll(f.Name, `\`, "/")
		clean := path.Clean(name)
		switch {
		case strings.HasSuffix(name, "/") || f.FileInfo().IsDir():
			continue
		case !f.Mode().IsRegular():
			return nil, fmt.Errorf("%.60q is not a plain file", f.Name)
		case path.IsAbs(clean) || clean == ".." || strings.HasPrefix(clean, "../") || strings.Contains(clean, ":") ||
			strings.ContainsAny(clean, "\x00\n\r") || len(clean) > 250:
			return nil, fmt.Errorf("the name %.60q leads out of the archive", f.Name)
		case strings.HasPrefix(path.Base(clean), ".") || strings.HasPrefix(clean, "__MACOSX/"):
			continue
		case len(out) == mostFiles:
			return nil, fmt.Errorf("the archive has more than %d files", mostFiles)
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", clean, err)
		}
		content, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", clean, err)
		}
		if left -= int64(len(content)); left < 0 {
			return nil, fmt.Errorf("the archive unpacks to more than %d bytes", mostBytes)
		}
		out = append(out, File{Path: clean, Data: content})
	}
	return out, nil
}
