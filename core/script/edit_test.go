package script

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEdited(t *testing.T) {
	text := "left = 6;"
	six := Tokens("a.c", text)[2]
	assert.Equal(t, "left = 5;", Edited(text, []Edit{six.Replaced("5")}))
	assert.Equal(t, "int left = 16; x", Edited(text, []Edit{{0, 0, "int "}, {7, 7, "1"}, {9, 9, " x"}}))
	assert.Equal(t, text, Edited(text, nil))
}

func TestCut(t *testing.T) {
	assert.Equal(t, "a b", Cut(" a\n\tb "))
	assert.Equal(t, strings.Repeat("ä", mostWords-1)+"…", Cut(strings.Repeat("ä", mostWords+1)))
	assert.Equal(t, strings.Repeat("ä", mostWords), Cut(strings.Repeat("ä", mostWords)))
}
