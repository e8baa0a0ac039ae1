package wire

import (
	"encoding/json"
	"time"
)

// Exercise is an exercise at its latest revision.
type Exercise struct {
	Name     string      `json:"name"`
	Title    string      `json:"title"`
	Brief    string      `json:"brief"`
	Revision int         `json:"revision"`
	Marks    json.Number `json:"marks"`
	Classes  int         `json:"classes"` // it is opened to
	Created  time.Time   `json:"created"`
	Text     string      `json:"text,omitempty"`  // the file, where one exercise is asked for
	Files    []string    `json:"files,omitempty"` // of its folder
}

// Revision is one revision of an exercise: it never changes.
type Revision struct {
	Number  int         `json:"number"`
	Title   string      `json:"title"`
	Marks   json.Number `json:"marks"`
	By      string      `json:"by"`
	Created time.Time   `json:"created"`
	Text    string      `json:"text,omitempty"` // where one is asked for
}

// Checked is what is to be said of an exercise file.
type Checked struct {
	Valid    bool      `json:"valid"`
	Title    string    `json:"title,omitempty"`
	Mistakes []Mistake `json:"mistakes"`
}
