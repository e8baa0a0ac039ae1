package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/wire"
)

// A table that is too large, damaged or of nobody's class is refused with what is wrong with it; what it says of itself
// is told.
func TestTables(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	for _, call := range []string{"columns", "fill?column=Lab"} {
		path := "/api/v1/classes/" + ownClass + "/gradebook/" + call
		for text, want := range map[string]string{
			"":                                    "the file is empty",
			"a,b\n\"x":                            "line 2: a quote is opened and not closed",
			"a,b\n1,2\n":                          "no column",
			strings.Repeat("a,b\n", (2<<20)/4+10): "larger than",
		} {
			status, _, answer := ask(t, w.people["keeper"], http.MethodPost, path, text, "Content-Type", "text/csv")
			assert.GreaterOrEqual(t, status, 400, "%s %.20q", call, text)
			assert.Less(t, status, 500, "%s %.20q: %s", call, text, answer)
			assert.Contains(t, answer, want, "%s %.20q", call, text)
		}
	}
}
