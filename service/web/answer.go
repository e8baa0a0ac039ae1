package web

import (
	"io"
	"net/http"
	"strings"
	"time"
)

// Raw is an answer that is not JSON.
type Raw struct {
	Data []byte
	Name string // for saving; "" for none
}

// Streamed is an answer that its function writes.
type Streamed struct {
	Name  string
	Write func(io.Writer) error
}

// Handled is an answer that was written already.
type Handled struct{}

// Unbounded lets an answer take as long as its reader keeps reading.
type Unbounded struct {
	io.Writer
	R *Request
}

func (u Unbounded) Write(p []byte) (int, error) {
	_ = http.NewResponseController(u.R.Writer).SetWriteDeadline(time.Now().Add(Slowest))
	return u.Writer.Write(p)
}

// PlainName keeps of a file's name what every system takes.
func PlainName(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' || strings.ContainsRune(`"\/:*?<>|%`, r) {
			return '_'
		}
		return r
	}, s)
}
