package scripted

import (
	"strings"

	"hemble/core/script"
)

// line is a logical line of Python: within brackets, and behind a backslash, it goes on in the next one.
type line struct {
	from, to int    // its tokens
	indent   string // before it
}

// logical takes the tokens of a file together to its lines.
func logical(text string, tokens []script.Token) (out []line) {
	depth := 0
	for i, t := range tokens {
		if i == 0 || depth == 0 && strings.Contains(text[tokens[i-1].Behind():t.At], "\n") && tokens[i-1].Word != `\` {
			begin := strings.LastIndexByte(text[:t.At], '\n') + 1
			out = append(out, line{from: i, indent: text[begin:t.At]})
		}
		switch t.Word {
		case "(", "[", "{":
			depth++
		case ")", "]", "}":
			depth = max(0, depth-1)
		}
		out[len(out)-1].to = i + 1
	}
	return out
}

// deeper reports whether a line is indented further than another.
func deeper(a, b string) bool { return len(a) > len(b) && strings.HasPrefix(a, b) }
