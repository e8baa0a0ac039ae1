package similarity

import (
	"hash/fnv"
	"path"

	"hemble/core/firmware"
	"hemble/core/script"
)

// words gives the words of a script in the order of its files. What is equal of two of them does not depend on what
// variables are called, on numbers, texts, comments or layout: keywords and signs stay what they are, and so do names
// after a point, which are mostly those of modules.
func words(im *firmware.Image) (out []instruction) {
	for number, name := range im.Script.Names() {
		c := path.Ext(name) != ".py"
		tokens := script.Tokens(name, im.Script.Files[name])
		for i, t := range tokens {
			h := fnv.New32a()
			h.Write([]byte(general(tokens, i, c)))
			out = append(out, instruction{script.Address(number, t.Line), h.Sum32(), false})
		}
	}
	return out
}

// general is a token in its general form.
func general(tokens []script.Token, i int, c bool) string {
	switch t := tokens[i]; {
	case t.Kind == script.Text:
		return "text"
	case t.Kind == script.Number:
		return "number"
	case t.Kind != script.Name, i > 0 && tokens[i-1].Word == ".",
		c && i+1 < len(tokens) && tokens[i+1].Word == "(": // functions are the modules of C
		return t.Word
	}
	return "name"
}
