package source

import "hemble/core/script"

// A file taken apart into the blocks of its functions, as far as that goes by brackets and semicolons alone.

// part is a statement, from its first token to its last one.
type part struct {
	from, to int
	simple   bool // an assignment or a call
	moves    bool // it may stand elsewhere: it declares nothing, and is no label
	other    bool // a condition that says what is to be done else
}

// block is what stands between two brackets of a function, which are the tokens open and close.
type block struct {
	open, close int
	parts       []part
	outer       int // the block around it; -1 for the body of a function
}

// lone is a statement that a condition carries out without brackets.
type lone struct {
	part
	within int // the block around it
}

// mostBlocks is how many of a file are taken apart.
const mostBlocks = 200

// bodies are the functions of a file.
type bodies struct {
	blocks  []block // each behind the one around it
	simples []part  // their assignments and calls, with those that a condition carries out without brackets
	lone    []lone  // the latter
	// mentions are the names that each function mentions, by its body.
	mentions map[int]map[string]bool
}

// function is the body that a block stands in, or is.
func (b *bodies) function(block int) int {
	for b.blocks[block].outer >= 0 {
		block = b.blocks[block].outer
	}
	return block
}

// takeApart gives the functions of the file.
func (l *lister) takeApart() bodies {
	b := blocking{lister: l, within: -1}
	for i := 0; i < len(l.tokens); {
		i = b.outside(i)
	}
	b.out.mentions = map[int]map[string]bool{}
	for n, x := range b.out.blocks {
		if x.outer < 0 {
			b.out.mentions[n] = map[string]bool{}
			for i := x.open; i <= x.close; i++ {
				b.out.mentions[n][l.word(i)] = true
			}
		}
	}
	return b.out
}

// blocking takes a file apart.
type blocking struct {
	*lister
	out    bodies
	within int // the block that is being taken down
	depth  int // of blocks and conditions within each other
}

// mostDepth is how deep that is looked at: a file may be made so that it goes on and on.
const mostDepth = 100

// outside passes over what stands outside of functions, up to and with the next one's body.
func (b *blocking) outside(i int) int {
	switch {
	case b.word(i) == "#":
		return b.directive(i) + 1
	case b.word(i) != "{":
		return i + 1
	case b.word(i-1) == ")":
		return b.block(i)
	default:
		return b.behind(i)
	}
}

// behind is where what an opening bracket opens has ended.
func (l *lister) behind(i int) int {
	for depth := 0; i < len(l.tokens); i++ {
		switch l.word(i) {
		case "(", "[", "{":
			depth++
		case ")", "]", "}":
			if depth--; depth <= 0 {
				return i + 1
			}
		}
	}
	return i
}

// block takes down the block that opens at a place, and gives where it has ended.
func (b *blocking) block(open int) int {
	if len(b.out.blocks) == mostBlocks || b.depth > mostDepth {
		return b.behind(open)
	}
	at, outer := len(b.out.blocks), b.within
	b.out.blocks = append(b.out.blocks, block{open: open, outer: outer})
	b.depth++
	b.within = at
	i := open + 1
	for i < len(b.tokens) && b.word(i) != "}" {
		p, behind := b.statement(i)
		if parts := b.out.blocks[at].parts; b.word(i) == "else" && len(parts) > 0 {
			last := &parts[len(parts)-1]
			last.to, last.other = p.to, true
		} else {
			b.out.blocks[at].parts = append(parts, p)
		}
		i = behind
	}
	b.out.blocks[at].close = min(i, len(b.tokens)-1)
	b.depth--
	b.within = outer
	return i + 1
}

// statement takes down the one that begins at a place, and gives where it has ended.
func (b *blocking) statement(i int) (p part, behind int) {
	p.from = i
	switch w := b.word(i); w {
	case "#":
		behind = b.directive(i) + 1
	case "{":
		behind = b.block(i)
	case "if", "while", "for", "switch":
		p.moves = true
		behind = i + 1
		if b.word(behind) == "(" {
			behind = b.inner(b.behind(behind))
		}
	case "else":
		behind = b.inner(i + 1)
	case "do":
		if behind = b.inner(i + 1); b.word(behind) == "while" && b.word(behind+1) == "(" {
			behind = b.ends(behind) + 1
		}
	case "case", "default":
		for behind = i + 1; behind < len(b.tokens) && b.word(behind-1) != ":" && b.word(behind) != "}"; {
			behind++
		}
	default:
		behind = b.ends(i) + 1
		p.simple = b.simple(i, behind)
		p.moves = p.simple
	}
	behind = max(i+1, min(behind, len(b.tokens)))
	p.to = behind - 1
	if p.simple {
		b.out.simples = append(b.out.simples, p)
	}
	return p, behind
}

// inner passes over what a condition or a loop carries out.
func (b *blocking) inner(i int) int {
	if i >= len(b.tokens) || b.word(i) == "}" || b.depth > mostDepth {
		return i
	}
	b.depth++
	p, behind := b.statement(i)
	if p.simple {
		b.out.lone = append(b.out.lone, lone{p, b.within})
	}
	b.depth--
	return behind
}

// ends is the semicolon of a statement, or what stands before the bracket that closes around it.
func (b *blocking) ends(i int) int {
	for ; i < len(b.tokens); i++ {
		switch b.word(i) {
		case ";":
			return i
		case "(", "[", "{":
			i = b.behind(i) - 1
		case "}":
			return i - 1
		}
	}
	return i
}

// simple reports whether what stands up to a place is an assignment or a call: what declares a variable begins with two
// names, or with a type and a star.
func (b *blocking) simple(from, behind int) bool {
	return behind <= len(b.tokens) && b.word(behind-1) == ";" && behind-from > 2 &&
		(b.tokens[from].Kind == script.Name || b.word(from) == "++" || b.word(from) == "--") &&
		b.tokens[from+1].Kind != script.Name && b.word(from+1) != "*" && b.word(from+1) != "<"
}
