package api_test

import (
	"io"
	"net/http"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/wire"
)

// The alert rules and the dashboard name metrics that there are.
func TestMetricsAreThere(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	r, err := http.Get(w.people["admin"].Server + "/metrics")
	require.NoError(t, err)
	defer r.Body.Close()
	text, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	for _, file := range []string{"alerts.yaml", "dashboard.json"} {
		rules, err := os.ReadFile("../../packaging/" + file)
		require.NoError(t, err)
		names := regexp.MustCompile(`\b(hemble|process)_[a-z_]+\b`).FindAllString(string(rules), -1)
		require.NotEmpty(t, names)
		for _, name := range names {
			assert.Contains(t, string(text), "\n"+name, "%s, of %s", name, file)
		}
	}
	for _, want := range []string{`hemble_submissions_total{outcome="marked"} 3`,
		`hemble_queue_jobs{kind="first",state="queued"} 0`, `hemble_queue_oldest_seconds{kind="again"} 0`,
		"hemble_run_seconds_count 3"} {
		assert.Contains(t, string(text), want)
	}
	assert.False(t, strings.Contains(string(text), "anna"), "nobody is named")
}
