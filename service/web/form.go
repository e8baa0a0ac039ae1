package web

import (
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"path"
	"strings"
	"unicode/utf8"
)

// Upload is a form with files.
type Upload struct {
	values map[string]string
	files  []FormFile
}

// FormFile is a file of a form.
type FormFile struct {
	Name string // without folders
	Data []byte
	key  string
}

// Bounds of a form.
const (
	maxValues = 32
	maxValue  = MaxBody
)

// ReadForm reads a form part by part: of that many bytes, and that many files, at most.
func ReadForm(r *Request, most int64, files int) (*Upload, error) {
	if ct := r.ContentType(); ct != MediaForm {
		return nil, &Problem{http.StatusUnsupportedMediaType, "media-type",
			fmt.Sprintf("expected content type %s, got %.60q", MediaForm, ct)}
	}
	r.Request.Body = http.MaxBytesReader(r.Writer, r.Request.Body, most)
	parts, err := r.Request.MultipartReader()
	if err != nil {
		return nil, Bad("not a valid form: %s", err)
	}
	u := &Upload{values: map[string]string{}}
	for {
		p, err := parts.NextPart()
		if err == io.EOF {
			return u, nil
		}
		if err != nil {
			return nil, formError(err)
		}
		data, err := io.ReadAll(p)
		if err != nil {
			return nil, formError(err)
		}
		name := p.FileName()
		switch {
		case name != "" && len(u.files) == files:
			return nil, Unfit("form", "more than %d files at once are not accepted", files)
		case name != "":
			u.files = append(u.files, FormFile{FileName(name), data, p.FormName()})
		case len(u.values) == maxValues || len(data) > maxValue:
			return nil, Unfit("form", "a form has at most %d values of %d bytes", maxValues, maxValue)
		default:
			if _, again := u.values[p.FormName()]; !again {
				u.values[p.FormName()] = string(data)
			}
		}
	}
}

func formError(err error) error {
	var large *http.MaxBytesError
	var late net.Error
	switch {
	case errors.As(err, &large):
		return err
	case errors.As(err, &late) && late.Timeout():
		return &Problem{http.StatusRequestTimeout, "slow",
			fmt.Sprintf("the request did not arrive within %s", UploadTime)}
	}
	return Bad("not a valid form: %s", err)
}

// File gives the content of one file of a form and its name without folders; "" where there is none.
func (u *Upload) File(key string) (name string, data []byte) {
	for _, f := range u.files {
		if f.key == key {
			return f.Name, f.Data
		}
	}
	return "", nil
}

// All gives the files of a form under one name.
func (u *Upload) All(key string) (out []FormFile) {
	for _, f := range u.files {
		if f.key == key {
			out = append(out, f)
		}
	}
	return out
}

// Value gives one value of a form, "" where there is none.
func (u *Upload) Value(key string) string { return u.values[key] }

// FileName keeps of a path its last part, without what no name needs.
func FileName(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == utf8.RuneError {
			return -1
		}
		return r
	}, path.Base(strings.ReplaceAll(s, `\`, "/")))
	if r := []rune(s); len(r) > 120 {
		s = string(r[len(r)-120:])
	}
	if s == "" || s == "." || s == "/" {
		return "firmware"
	}
	return s
}
