package console_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The console's types are those of the API's document.
func TestTypesAreCurrent(t *testing.T) {
	tool := "node_modules/.bin/openapi-typescript"
	if _, err := os.Stat(tool); err != nil {
		t.Skip("openapi-typescript is not installed; `make console` installs it")
	}
	made := filepath.Join(t.TempDir(), "api-types.ts")
	out, err := exec.Command(tool, "../docs/openapi.json", "-o", made, "--alphabetize").CombinedOutput()
	require.NoError(t, err, "%s", out)
	want, err := os.ReadFile(made)
	require.NoError(t, err)
	got, err := os.ReadFile("src/api-types.ts")
	require.NoError(t, err)
	assert.Equal(t, string(want), string(got), "console/src/api-types.ts is not current: make docs")
}
