package api_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/api"
	"hemble/service/web"
)

// Each call of the client is one of the API's, and sends what that takes.
func TestClientCallsTheAPI(t *testing.T) {
	var asked *http.Request
	var sent []byte
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked = r
		sent, _ = io.ReadAll(r.Body)
		w.WriteHeader(http.StatusNoContent)
	}))
	t.Cleanup(s.Close)
	c := &client.Client{Server: s.URL, Token: "t", HTTP: s.Client()}
	parameter := regexp.MustCompile(`:[a-z]+`)
	calls := 0
	for m, call := range reflect.ValueOf(c).Methods() {
		if m.Name == "Wait" { // listens; it has tests with a service
			continue
		}
		t.Run(m.Name, func(t *testing.T) {
			asked = nil
			call.Call(arguments(t, call.Type()))
			if asked == nil {
				return // it needs no answer
			}
			calls++
			var fits []web.Route
			for _, r := range api.Routes() {
				if asked.Method == r.Method &&
					regexp.MustCompile("^/api/v1"+parameter.ReplaceAllString(regexp.QuoteMeta(r.Path),
						"[^/]+")+"$").MatchString(asked.URL.EscapedPath()) {
					fits = append(fits, r)
				}
			}
			require.NotEmpty(t, fits, "%s %s", asked.Method, asked.URL)
			if fits[0].Body != nil {
				body := reflect.New(reflect.TypeOf(fits[0].Body)).Interface()
				d := json.NewDecoder(strings.NewReader(string(sent)))
				d.DisallowUnknownFields()
				assert.NoError(t, d.Decode(body), "%s", sent)
			}
			for name := range asked.URL.Query() {
				known := false
				for _, q := range fits[0].Query {
					known = known || q.Name == name
				}
				assert.True(t, known, "?%s", name)
			}
		})
	}
	assert.Greater(t, calls, 50)
}

// arguments are some of the types that a call takes.
func arguments(t *testing.T, call reflect.Type) (out []reflect.Value) {
	for i := range call.NumIn() {
		v := reflect.New(call.In(i)).Elem()
		switch v.Interface().(type) {
		case string:
			v.SetString("a b/c")
		case []byte:
			v.SetBytes([]byte("text"))
		case int, int64:
			v.SetInt(1)
		}
		switch call.In(i) {
		case reflect.TypeFor[context.Context]():
			v.Set(reflect.ValueOf(t.Context()))
		case reflect.TypeFor[io.Writer]():
			v.Set(reflect.ValueOf(io.Discard))
		case reflect.TypeFor[io.Reader]():
			v.Set(reflect.ValueOf(strings.NewReader("text")))
		}
		out = append(out, v)
	}
	return out
}
