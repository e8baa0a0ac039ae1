package elsewhere_test

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"math/big"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/core/sheet"
	"hemble/demo/checks"
	"hemble/demo/mutants"
)

// slip is a right program of the course with one change that nobody chose.
type slip struct {
	mutants.Mutant
	exercise *exercise.Exercise
	file     string
	sheet    *sheet.Sheet // nil where it cannot be built
}

// drawn gives n changes of each program in C or C++, by a seed.
func drawn(t *testing.T, seed, n int) (out []*slip) {
	files, err := filepath.Glob("course/*/source/*.c*")
	require.NoError(t, err)
	for _, path := range files {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		all := mutants.Of(string(text))
		key := func(m mutants.Mutant) uint64 {
			h := fnv.New64a()
			fmt.Fprint(h, seed, path, m)
			v := h.Sum64()
			v ^= v >> 33 // the last bytes hardly reach the highest bits
			v *= 0xff51afd7ed558ccd
			return v ^ v>>33
		}
		slices.SortFunc(all, func(a, b mutants.Mutant) int { return cmp.Compare(key(a), key(b)) })
		for _, m := range all[:min(n, len(all))] {
			x := read(t, filepath.Base(filepath.Dir(filepath.Dir(path))))
			out = append(out, &slip{m, x, filepath.Base(path), nil})
		}
	}
	return out
}

// mark builds and marks it.
func (s *slip) mark(t *testing.T, b *build.Builder) {
	source := &build.Source{}
	if source.Add(s.file, s.Text) != nil {
		return
	}
	r, err := b.Build(context.Background(), source, build.Target{Chip: s.exercise.Chip, Clock: int64(s.exercise.Clock)})
	if err == nil && !r.Failed() {
		s.sheet = mark(t, s.exercise, s.file, r)
	}
}

func (s *slip) String() string { return fmt.Sprintf("%s/%s:%s", s.exercise.Name, s.file, s.Mutant) }

// told counts what became of some changes.
type told struct{ built, lost, repaired, signs, none int }

func (n *told) add(s *sheet.Sheet) {
	n.built++
	if s.Marks.Cmp(s.Of.Rat) == 0 {
		return
	}
	n.lost++
	switch last := len(s.Findings) - 1; {
	case last < 0:
		n.none++
	case s.Findings[last].Repaired != nil && s.Findings[last].Repaired.Cmp(s.Of.Rat) == 0:
		n.repaired++
	default:
		n.signs++
	}
}

// TestMutants marks programs with a change that nobody chose: one of each, or where HEMBLE_MUTANTS names the file that
// takes the table, six, with the seed HEMBLE_SEED. What is told of a program holds together, whatever was changed.
func TestMutants(t *testing.T) {
	b := checks.Builder(t)
	out, n := os.Getenv("HEMBLE_MUTANTS"), 1
	if out != "" {
		n = 6
	}
	seed, err := strconv.Atoi(cmp.Or(os.Getenv("HEMBLE_SEED"), "1"))
	require.NoError(t, err)
	all := drawn(t, seed, n)
	var wait sync.WaitGroup
	next := make(chan *slip)
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for s := range next {
				s.mark(t, b)
			}
		})
	}
	for _, s := range all {
		next <- s
	}
	close(next)
	wait.Wait()
	kinds, whole := map[string]*told{}, &told{}
	var rows strings.Builder
	for _, s := range all {
		if s.sheet == nil {
			continue
		}
		holds(t, s)
		if kinds[s.Kind] == nil {
			kinds[s.Kind] = &told{}
		}
		kinds[s.Kind].add(s.sheet)
		whole.add(s.sheet)
		if s.sheet.Marks.Cmp(s.sheet.Of.Rat) < 0 {
			fmt.Fprintf(&rows, "| `%s` | %s | %s |\n", strings.NewReplacer("\t", "", "|", `\|`, "\n", " ").Replace(s.String()),
				s.sheet.Marks, codes(s.sheet))
		}
	}
	assert.Greater(t, whole.lost*3, whole.built, "many changes cost marks")
	if out == "" {
		return
	}
	text := fmt.Sprintf("# Findings on changes that nobody chose\n\nRight programs of the second course (`demo/elsewhere`), "+
		"each with six changes of one token, one line or two: drawn\nby a number (%d here) from all that `demo/mutants` can "+
		"make. What is wrong with each is its change, so that no list of what is\ntrue is needed; what a person would say "+
		"stands in the last table to be read. The search was developed with the numbers\n1 to 5, and with 9 after that had "+
		"been drawn; any other draws programs that it has not seen: `make findings-mutants\nSEED=…`.\n\nRepaired: with the causes told, tested by repairing them, "+
		"the program would have full marks. Told: something else\nis said, which nobody has checked. On the first draw of all, "+
		"before this was worked on, nothing was said of 33\nof 123 (27 %%), and 40 were repaired (33 %%).\n\n"+
		"| change | built | marks lost | repaired | told | nothing |\n|---|---|---|---|---|---|\n", seed)
	line := func(name string, n *told) {
		text += fmt.Sprintf("| %s | %d | %d | %d (%d %%) | %d | %d (%d %%) |\n", name, n.built, n.lost, n.repaired,
			percent(n.repaired, n.lost), n.signs, n.none, percent(n.none, n.lost))
	}
	for _, kind := range []string{"number", "operator", "level", "text", "left out", "exchanged"} {
		if kinds[kind] != nil {
			line(kind, kinds[kind])
		}
	}
	line("all", whole)
	text += "\n| program and change | marks | findings, with this repaired |\n|---|---|---|\n" + rows.String()
	t.Log("\n" + text[strings.Index(text, "| change"):strings.Index(text, "\n| program")])
	require.NoError(t, os.WriteFile(out, []byte(text), 0o644))
}

// codes are the findings of a sheet, each with the marks that its repair would bring.
func codes(s *sheet.Sheet) string {
	var out []string
	for _, f := range s.Findings {
		word := string(f.Code)
		if f.Repaired != nil {
			word += " (" + f.Repaired.String() + ")"
		}
		out = append(out, word)
	}
	return strings.Join(out, ", ")
}

// holds checks what is true of every sheet: marks within their range, no finding twice, none without words, and no
// repairs that make it worse.
func holds(t *testing.T, s *slip) {
	assert.LessOrEqual(t, s.sheet.Marks.Cmp(s.sheet.Of.Rat), 0, s.String())
	assert.GreaterOrEqual(t, s.sheet.Marks.Cmp(new(big.Rat)), 0, s.String())
	said := map[string]bool{}
	for _, f := range s.sheet.Findings {
		assert.False(t, said[f.Text], "%s: %q is told twice", s, f.Text)
		said[f.Text] = true
		assert.NotContains(t, f.Text, "%!", s.String())
		assert.NotEmpty(t, f.Text, s.String())
	}
	if n := len(s.sheet.Findings); n > 0 && s.sheet.Findings[n-1].Repaired != nil {
		assert.GreaterOrEqual(t, s.sheet.Findings[n-1].Repaired.Cmp(s.sheet.Marks.Rat), 0, s.String())
	}
}
