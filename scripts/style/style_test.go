package style

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLong(t *testing.T) {
	wide := strings.Repeat("x", 130)
	assert.Equal(t, []int{2, 4}, long("short\n// "+wide+"\ns := \""+wide+"\"\n\t"+wide[:117]+"\ns := `\n"+wide+"\n`\n"))
}

// Lines are so wide that two files are beside each other on a screen.
func TestLines(t *testing.T) {
	names, err := exec.Command("git", "ls-files", "-z", "--full-name", "../../*.go").Output()
	if err != nil {
		t.Skip("this is no checkout")
	}
	for name := range strings.SplitSeq(strings.Trim(string(names), "\x00"), "\x00") {
		text, err := os.ReadFile(filepath.Join("..", "..", name))
		if os.IsNotExist(err) {
			continue // taken away, and not committed yet
		}
		require.NoError(t, err)
		assert.Empty(t, long(string(text)), "%s: lines are at most %d columns wide", name, widest)
	}
}
