// Package durable writes files that are complete after a crash or not there at all, and compresses stored data.
package durable

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"os"
	"path/filepath"
)

// Begun is how names of files begin that were being written: after a crash they may be deleted.
const Begun = ".new-"

// Write writes a file so that after a crash it is there whole or not at all. Its folder is made where there is none.
func Write(path string, data []byte) error {
	dir := filepath.Dir(path)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, Begun+"*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if _, err := f.Write(data); err != nil {
		f.Close()
		return err
	}
	if err := f.Sync(); err != nil {
		f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return err
	}
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}

// maxUnpacked bounds what anything that is kept unpacks to, in bytes.
const maxUnpacked = 512 << 20

// Pack compresses with gzip.
func Pack(data []byte) ([]byte, error) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	if _, err := z.Write(data); err != nil {
		return nil, err
	}
	err := z.Close()
	return b.Bytes(), err
}

// Unpack gives what Pack compressed; what was not, as it is.
func Unpack(data []byte) ([]byte, error) {
	if !bytes.HasPrefix(data, []byte{0x1f, 0x8b}) {
		return data, nil
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	out, err := io.ReadAll(io.LimitReader(z, maxUnpacked+1))
	if err == nil && len(out) > maxUnpacked {
		err = fmt.Errorf("it unpacks to more than %d MB", maxUnpacked>>20)
	}
	return out, err
}
