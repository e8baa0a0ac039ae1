package build

import (
	"bytes"
	"regexp"
	"strings"
)

// stripped blanks out comments, strings and preprocessor lines, so that what is left has the same places and
// only code in it.
func stripped(data []byte) []byte {
	out := append([]byte(nil), data...)
	blank := func(from, to int) {
		for i := from; i < to && i < len(out); i++ {
			if out[i] != '\n' {
				out[i] = ' '
			}
		}
	}
	lineStart := true
	for i := 0; i < len(data); {
		end := i + 1
		switch c := data[i]; {
		case c == '/' && i+1 < len(data) && data[i+1] == '/':
			end = until(data, i, "\n")
			blank(i, end)
		case c == '/' && i+1 < len(data) && data[i+1] == '*':
			end = min(len(data), until(data, i+2, "*/")+2)
			blank(i, end)
		case c == '"' || c == '\'':
			for end < len(data) && data[end] != c && data[end] != '\n' {
				if data[end] == '\\' {
					end++
				}
				end++
			}
			end = min(len(data), end+1)
			blank(i, end)
		case c == '#' && lineStart:
			for end = until(data, i, "\n"); end < len(data) && end > 0 && data[end-1] == '\\'; {
				end = until(data, end+1, "\n")
			}
			blank(i, end)
		}
		lineStart = data[i] == '\n' || lineStart && (data[i] == ' ' || data[i] == '\t')
		i = end
	}
	return out
}

func until(data []byte, from int, mark string) int {
	if from >= len(data) {
		return len(data)
	}
	if i := bytes.Index(data[from:], []byte(mark)); i >= 0 {
		return from + i
	}
	return len(data)
}

// definition is the head of a function: its type, name and parameters, up to its opening brace.
var definition = regexp.MustCompile(`(?m)^[ \t]*((?:[A-Za-z_][\w:<>]*[\s*&]+)+)([A-Za-z_]\w*)[ \t]*(\([^(){};=]*\))[ \t\r\n]*\{`)

// notTypes cannot begin the head of a function that wants a prototype.
var notTypes = map[string]bool{"else": true, "return": true, "struct": true, "class": true, "union": true, "enum": true,
	"template": true, "typedef": true,
	"namespace": true, "extern": true, "operator": true, "new": true, "if": true, "while": true, "for": true,
	"switch": true, "do": true, "case": true}

// functions finds the functions that are defined outside of any braces: the places of their heads in the code, which is
// data stripped.
func functions(data []byte) (code []byte, heads [][]int) {
	code = stripped(data)
	depth, counted := 0, 0
	for _, m := range definition.FindAllSubmatchIndex(code, -1) {
		for ; counted < m[2]; counted++ {
			switch code[counted] {
			case '{':
				depth++
			case '}':
				depth--
			}
		}
		words := strings.Fields(string(code[m[2]:m[3]]))
		if depth == 0 && len(words) > 0 && !notTypes[words[0]] {
			heads = append(heads, m)
		}
	}
	return code, heads
}

// prototypes declares the functions of a file ahead, and returns where the first of them begins: the end of the file
// where there is none. One with default arguments is left alone: they may stand only once.
func prototypes(data []byte) (out []string, first int) {
	code, heads := functions(data)
	for _, m := range heads {
		head := string(code[m[2]:m[3]]) + string(code[m[4]:m[5]]) + string(code[m[6]:m[7]])
		out = append(out, strings.Join(strings.Fields(head), " ")+";")
	}
	if len(heads) == 0 {
		return nil, len(data)
	}
	return out, heads[0][2]
}
