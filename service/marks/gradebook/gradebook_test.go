package gradebook

import (
	"encoding/csv"
	"encoding/json"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/wire"
)

func book() *wire.Gradebook {
	cell := func(marks string) wire.GradebookCell {
		if marks == "" {
			return wire.GradebookCell{}
		}
		return wire.GradebookCell{Submission: "x", Marks: json.Number(marks), Percent: 100, Attempts: 1}
	}
	return &wire.Gradebook{Class: "lock", Exercises: []wire.GradebookHead{{Exercise: "lamps", Of: "10"},
		{Exercise: "gauge", Of: "10"}}, Rows: []wire.GradebookRow{
		{Login: "oke", Name: "R. Oke", Number: "4001", Group: "morning",
			Cells: []wire.GradebookCell{cell("7.5"), cell("")}, Total: "7.5"},
		{Login: "haq", Name: "S. Haq", Number: "4002", Cells: []wire.GradebookCell{cell("10"), cell("3")}, Total: "13"},
		{Login: "twin1", Name: "A. Twin", Cells: []wire.GradebookCell{cell("1"), cell("")}, Total: "1"},
		{Login: "twin2", Name: "A. Twin", Cells: []wire.GradebookCell{cell("2"), cell("")}, Total: "2"},
	}}
}

func TestWrite(t *testing.T) {
	var b strings.Builder
	require.NoError(t, Write(&b, book()))
	assert.Equal(t,
		"login,name,number,group,lamps,gauge,total\noke,R. Oke,4001,morning,7.5,,7.5\nhaq,S. Haq,4002,,10,3,13\ntwin1,A. Twin,,,1,,1\ntwin2,A. Twin,,,2,,2\n", b.String())
}

func TestExpectations(t *testing.T) {
	verdict := func(text string, marks int64) sheet.Verdict {
		return sheet.Verdict{Expectation: text, Marks: sheet.NewMarks(big.NewRat(marks, 1)),
			Verdict: judge.Verdict{Outcome: judge.Met}}
	}
	sheets := map[string]*sheet.Sheet{
		"oke": {Trials: []sheet.Trial{{Name: "one",
			Verdicts: []sheet.Verdict{verdict("red shows", 4), verdict("red shows", 3)}}}},
		"haq": {Failed: "no firmware",
			ByHand: []sheet.ByHand{{What: "soldering", Given: &sheet.Given{Marks: sheet.NewMarks(big.NewRat(2, 1))}}}},
	}
	var b strings.Builder
	require.NoError(t, WriteExpectations(&b, book(), "lamps", sheets))
	rows, err := csv.NewReader(strings.NewReader(b.String())).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"login", "name", "number", "group", "one: red shows", "one: red shows (2)", "soldering",
		"percent for lateness", "marks"}, rows[0])
	assert.Equal(t, []string{"oke", "R. Oke", "4001", "morning", "4", "3", "", "100", "7.5"}, rows[1])
	assert.Equal(t, []string{"haq", "S. Haq", "4002", "", "", "", "2", "100", "10"}, rows[2])
	assert.Error(t, WriteExpectations(&b, book(), "none", sheets))
}

func TestFill(t *testing.T) {
	for name, c := range map[string]struct{ in, column, exercise, want string }{
		"by number":             {"Nr,Lab\n4002,\n4001,old\n", "Lab", "lamps", "Nr,Lab\n4002,10\n4001,7.5\n"},
		"by login, totals":      {"user,sum\nHAQ,\noke,\n", "SUM", "", "user,sum\nHAQ,13\noke,7.5\n"},
		"by name, semicolons":   {"Name;Lab\r\nR.  Oke;\r\n", "Lab", "lamps", "Name;Lab\r\nR.  Oke;7,5\r\n"},
		"no mark, nothing done": {"Nr,Lab\n4001,keep\n4002,\n", "Lab", "gauge", "Nr,Lab\n4001,keep\n4002,3\n"},
		"two of a name":         {"Name,Lab\nA. Twin,\nS. Haq,\n", "Lab", "lamps", "Name,Lab\nA. Twin,\nS. Haq,10\n"},
		"short rows":            {"Nr,Lab\n4001\n\n4002,\n", "Lab", "lamps", "Nr,Lab\n4001,7.5\n\n4002,10\n"},
		"commas in the file":    {"Nr,Lab,Old\n4001,,\"3,5\"\n", "Lab", "lamps", "Nr,Lab,Old\n4001,\"7,5\",\"3,5\"\n"},
		"points in the file":    {"Nr;Lab;Old\n4001;;3.5\n", "Lab", "lamps", "Nr;Lab;Old\n4001;7.5;3.5\n"},
		"Windows-1252, quotes": {"\"Stra\xdfe\";Nr;Lab\r\n\"H\xf6he 3\";4001;\"\"\r\n", "Lab", "lamps",
			"\"Stra\xdfe\";Nr;Lab\r\n\"H\xf6he 3\";4001;\"7,5\"\r\n"},
	} {
		f, err := Fill([]byte(c.in), book(), Column{Name: c.column, Exercise: c.exercise})
		require.NoError(t, err, name)
		assert.Equal(t, c.want, string(f.Data), name)
	}
	_, err := Fill([]byte("a,b\nx,y\n"), book(), Column{Name: "b"})
	assert.ErrorContains(t, err, "no column of the file has logins")
	_, err = Fill([]byte("Nr,Labb\n4001,\n"), book(), Column{Name: "Lab"})
	assert.ErrorContains(t, err, "Labb", "the nearest is named")
	_, err = Fill([]byte("Nr,Lab\n4001,\n"), book(), Column{Name: "Nr"})
	assert.ErrorContains(t, err, "identifies the students")

	c, err := Columns([]byte("\xef\xbb\xbfNr;Lab;Straße\n4001;;x\n4009;;y\n"), book())
	require.NoError(t, err)
	assert.Equal(t, &wire.Columns{Encoding: "UTF-8", Columns: []string{"Nr", "Lab", "Straße"}, Students: "Nr", Rows: 2,
		Known: 1}, c)
	_, err = Columns([]byte("a,b\nx,y\n"), book())
	assert.ErrorContains(t, err, "no column of the file")
}

func FuzzFill(f *testing.F) {
	f.Add([]byte("Nr,Lab\n4001,\n"), "Lab")
	f.Fuzz(func(t *testing.T, text []byte, column string) {
		out, err := Fill(text, book(), Column{Name: column, Exercise: "lamps"})
		if err != nil {
			return
		}
		again, err := Fill(out.Data, book(), Column{Name: column, Exercise: "lamps"})
		if err == nil {
			assert.Equal(t, out.Data, again.Data, "filled again, it is the same")
		}
	})
}
