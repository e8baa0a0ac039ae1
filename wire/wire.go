// Package wire has the types of the API as they are sent: plain data, no behaviour.
package wire

// Problem is the body of every answer that is not a success (RFC 9457, application/problem+json).
type Problem struct {
	Type     string    `json:"type"` // hemble:CODE, the same code for the same kind of problem
	Title    string    `json:"title"`
	Status   int       `json:"status"`
	Detail   string    `json:"detail"`
	Request  string    `json:"request,omitempty"`  // the request's id, as the log has it
	Mistakes []Mistake `json:"mistakes,omitempty"` // places in a file that is wrong
}

// Mistake is one thing wrong in a file.
type Mistake struct {
	File    string `json:"file"`
	Line    int    `json:"line"`
	Column  int    `json:"column"`
	Text    string `json:"text"`
	Warning bool   `json:"warning,omitempty"`
}

// Page is part of a list. Next, given back as after, gives the part behind it; without it this was the last.
type Page[T any] struct {
	Items []T    `json:"items"`
	Next  string `json:"next,omitempty"`
	Total int    `json:"total"`
}

// Place is a caller's place in the line for what is simulated on request.
type Place struct {
	Waiting bool `json:"waiting"` // something of the caller's has not begun
	Ahead   int  `json:"ahead"`   // simulations that come before it, or are under way
}
