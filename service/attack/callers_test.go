package attack

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/servicetest"
	"hemble/wire"
)

// Callers that announce a body and send none hold nobody up.
func TestSlowCallers(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	r := w.marked(t, "oke", "lamp", "lamp.c", []byte(blinks))
	host := strings.TrimPrefix(w.url, "http://")
	open, _, err := w.get(t, "/api/v1/classes/"+class)
	require.NoError(t, err)
	tag := open.Get("ETag")
	require.NotEmpty(t, tag)
	for _, head := range []string{
		"PATCH /api/v1/classes/" + class + " HTTP/1.1\r\nIf-Match: " + tag,
		"POST /api/v1/submissions/" + r.ID + "/overrides HTTP/1.1",
		"POST /api/v1/session HTTP/1.1",
		"POST /api/v1/classes/" + class + "/assignments/lamp/bulk HTTP/1.1",
	} {
		c, err := net.Dial("tcp", host)
		require.NoError(t, err)
		defer c.Close()
		_, err = fmt.Fprintf(c,
			"%s\r\nHost: %s\r\nAuthorization: Bearer %s\r\nContent-Type: application/json\r\nContent-Length: 10000\r\n\r\n",
			head, host, w.admin.Token)
		require.NoError(t, err)
	}
	time.Sleep(200 * time.Millisecond)
	began := time.Now()
	_, err = w.admin.Override(t.Context(), r.ID, wire.SetOverride{Marks: "0.5", Reason: "for this test"})
	require.NoError(t, err)
	q, err := http.NewRequestWithContext(t.Context(), http.MethodPatch, w.url+"/api/v1/classes/"+class,
		strings.NewReader(`{"title": "The wharf"}`))
	require.NoError(t, err)
	q.Header = http.Header{"Authorization": {"Bearer " + w.admin.Token}, "Content-Type": {"application/json"},
		"If-Match": {tag}}
	answer, err := http.DefaultClient.Do(q)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Less(t, answer.StatusCode, 300)
	assert.Less(t, time.Since(began), 2*time.Second)
}

// get asks the service as its admin.
func (w *wharf) get(t *testing.T, path string) (http.Header, []byte, error) {
	q, err := http.NewRequestWithContext(t.Context(), http.MethodGet, w.url+path, nil)
	require.NoError(t, err)
	q.Header.Set("Authorization", "Bearer "+w.admin.Token)
	r, err := http.DefaultClient.Do(q)
	if err != nil {
		return nil, nil, err
	}
	defer r.Body.Close()
	data, err := io.ReadAll(r.Body)
	return r.Header, data, err
}

// Many conditional changes and overrides at once: each is made of what is there, none is lost.
func TestChangesAtOnce(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	r := w.marked(t, "oke", "lamp", "lamp.c", []byte(blinks))
	head, _, err := w.get(t, "/api/v1/classes/"+class)
	require.NoError(t, err)
	var won atomic.Int64
	var wait sync.WaitGroup
	for i := range 20 {
		wait.Go(func() {
			q, err := http.NewRequestWithContext(t.Context(), http.MethodPatch, w.url+"/api/v1/classes/"+class,
				strings.NewReader(fmt.Sprintf(`{"title": "Wharf %d"}`, i)))
			if !assert.NoError(t, err) {
				return
			}
			q.Header = http.Header{"Authorization": {"Bearer " + w.admin.Token}, "Content-Type": {"application/json"},
				"If-Match": {head.Get("ETag")}}
			a, err := http.DefaultClient.Do(q)
			if !assert.NoError(t, err) {
				return
			}
			a.Body.Close()
			if a.StatusCode < 300 {
				won.Add(1)
			} else {
				assert.Equal(t, http.StatusPreconditionFailed, a.StatusCode)
			}
		})
		wait.Go(func() {
			_, err := w.admin.Override(t.Context(), r.ID,
				wire.SetOverride{Marks: json.Number(fmt.Sprintf("0.%d", i%10)), Reason: fmt.Sprint(i)})
			if err != nil {
				assert.Equal(t, "changed", client.Code(err), "%v", err)
			}
		})
	}
	wait.Wait()
	assert.Equal(t, int64(1), won.Load(), "one of those who read the same makes the change")
	now, err := w.admin.Result(t.Context(), r.ID)
	require.NoError(t, err)
	assert.Len(t, now.Overrides, 1)
	given, err := now.Overrides[0].Marks.Float64()
	require.NoError(t, err)
	got, err := now.Marks.Float64()
	require.NoError(t, err)
	assert.Equal(t, given, got)
}

// Wrong passwords in parallel: that many are looked at, and no more, whoever asks, also after a restart.
func TestGuessing(t *testing.T) {
	w := newWharf(t)
	guess := func(n int) (wrong, refused int64) {
		var w1, r1 atomic.Int64
		var wait sync.WaitGroup
		for i := range n {
			wait.Go(func() {
				_, err := client.New(w.url, "").SignIn(t.Context(), "instructor", fmt.Sprintf("guess-%d", i))
				switch client.Code(err) {
				case "wrong":
					w1.Add(1)
				case "locked", "too-often":
					r1.Add(1)
				default:
					assert.Fail(t, "a guess came through", "%v", err)
				}
			})
		}
		wait.Wait()
		return w1.Load(), r1.Load()
	}
	wrong, refused := guess(290)
	assert.LessOrEqual(t, wrong, int64(10))
	assert.Equal(t, int64(290), wrong+refused)
	require.NoError(t, w.process.Process.Signal(syscall.SIGKILL))
	_ = w.process.Wait()
	w.process, w.url = servicetest.Serve(t, w.binary, w.dir, "127.0.0.1:0")
	_, err := client.New(w.url, "").SignIn(t.Context(), "instructor", "wherry-lock")
	assert.Equal(t, "locked", client.Code(err), "a restart forgets nothing")
}

// Six windows of one student leave an instructor's look where it is.
func TestManyWindows(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke")
	w.opens(t, "long", exercise("long", 1, "2min"), wire.Policy{})
	id := w.marked(t, "oke", "long", "long.c", []byte(bangs)).ID
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	var wait sync.WaitGroup
	var busy atomic.Int64
	for range 6 {
		wait.Go(func() {
			if _, err := w.people["oke"].Window(ctx, id, 0, 100_000_000, 100_020_000); client.Code(err) == "busy" {
				busy.Add(1)
			}
		})
	}
	time.Sleep(500 * time.Millisecond)
	place, err := w.people["oke"].Place(t.Context())
	require.NoError(t, err)
	assert.True(t, place.Waiting)
	assert.GreaterOrEqual(t, place.Ahead, 1)
	_, err = w.admin.Window(t.Context(), id, 0, 1_000_000, 1_020_000)
	require.NoError(t, err)
	place, err = w.people["oke"].Place(t.Context())
	require.NoError(t, err)
	assert.True(t, place.Waiting, "the admin was served before the student's many")
	cancel()
	wait.Wait()
	assert.GreaterOrEqual(t, busy.Load(), int64(1), "what one person may have waiting is bounded")
	require.Eventually(t, func() bool { return w.idle(t) }, 5*time.Second, 20*time.Millisecond,
		"what nobody waits for any more ends")
}

// 2,000 files at once by a form, and not one more.
func TestBulkForm(t *testing.T) {
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	form := func(n int) *http.Response {
		var b bytes.Buffer
		m := multipart.NewWriter(&b)
		for i := range n {
			f, err := m.CreateFormFile("file", fmt.Sprintf("student-%04d.hex", i))
			require.NoError(t, err)
			_, err = fmt.Fprintf(f, ":00000001FF\n%d", i)
			require.NoError(t, err)
		}
		require.NoError(t, m.Close())
		q, err := http.NewRequestWithContext(t.Context(), http.MethodPost,
			w.url+"/api/v1/classes/"+class+"/assignments/lamp/bulk", &b)
		require.NoError(t, err)
		q.Header = http.Header{"Authorization": {"Bearer " + w.admin.Token}, "Content-Type": {m.FormDataContentType()}}
		r, err := http.DefaultClient.Do(q)
		require.NoError(t, err)
		return r
	}
	r := form(2000)
	var bulk wire.Bulk
	require.NoError(t, json.NewDecoder(r.Body).Decode(&bulk))
	r.Body.Close()
	assert.Equal(t, http.StatusCreated, r.StatusCode)
	assert.Len(t, bulk.Files, 2000)
	r = form(2001)
	r.Body.Close()
	assert.Equal(t, http.StatusUnprocessableEntity, r.StatusCode)
}

// A token does what its scope says, on every address: a read token joins no class either.
func TestTokens(t *testing.T) {
	w := newWharf(t, "oke")
	c, err := w.admin.AddClass(t.Context(), "weir", "Weir")
	require.NoError(t, err)
	c, err = w.admin.NewJoinCode(t.Context(), "weir")
	require.NoError(t, err)
	for _, scope := range []wire.Scope{wire.ScopeRead, wire.ScopeSubmit} {
		made, err := w.people["oke"].NewToken(t.Context(), wire.NewToken{Name: "t", Scope: scope, Days: 1})
		require.NoError(t, err)
		_, err = client.New(w.url, made.Token).Join(t.Context(), wire.Join{Code: c.JoinCode})
		assert.Equal(t, "scope", client.Code(err), scope)
	}
	_, err = w.people["oke"].Join(t.Context(), wire.Join{Code: c.JoinCode})
	require.NoError(t, err)
}

// A link ends with a new password, and that of a disabled account says why it does not work.
func TestLinks(t *testing.T) {
	w := newWharf(t, "oke")
	link, err := w.admin.MemberLink(t.Context(), class, "oke")
	require.NoError(t, err)
	require.NoError(t, w.people["oke"].SetPassword(t.Context(), "", "a new password"))
	_, err = client.New(w.url, "").UseLink(t.Context(), link.Token, "")
	assert.Equal(t, "link", client.Code(err))
	link, err = w.admin.MemberLink(t.Context(), class, "oke")
	require.NoError(t, err)
	require.NoError(t,
		w.admin.SetAccount(t.Context(), "oke", wire.SetAccount{Name: "R. Oke", Role: wire.Person, Disabled: true}))
	_, err = client.New(w.url, "").UseLink(t.Context(), link.Token, "")
	assert.Equal(t, "disabled", client.Code(err))
	require.NoError(t, w.admin.SetAccount(t.Context(), "oke", wire.SetAccount{Name: "R. Oke", Role: wire.Person}))
	_, err = client.New(w.url, "").UseLink(t.Context(), link.Token, "")
	assert.NoError(t, err, "the try used nothing up")

	// Another class that takes a student in takes nothing from those who made the account.
	_, err = w.people["colleague"].AddClass(t.Context(), "weir", "Weir")
	require.NoError(t, err)
	require.NoError(t,
		w.people["colleague"].PutMember(t.Context(), "weir", "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	require.NoError(t,
		w.admin.SetAccount(t.Context(), "other", wire.SetAccount{Name: "O. Other", Role: wire.Instructor}))
	require.NoError(t,
		w.admin.PutMember(t.Context(), class, "other", wire.SetMember{Name: "O. Other", Role: wire.Instructor}))
	made, err := w.admin.AccountLink(t.Context(), "other")
	require.NoError(t, err)
	other := client.New(w.url, "")
	_, err = other.UseLink(t.Context(), made.Token, "")
	require.NoError(t, err)
	_, err = other.MemberLink(t.Context(), class, "oke")
	assert.NoError(t, err, "those of the class that made the account")
	require.NoError(t,
		w.people["colleague"].PutMember(t.Context(), "weir", "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
}

// /readyz is asked by anybody and anything: many at once cost one write.
func TestReadyIsCheap(t *testing.T) {
	w := newWharf(t)
	before := w.processor(t)
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			for range 50 {
				r, err := http.Get(w.url + "/readyz")
				if assert.NoError(t, err) {
					r.Body.Close()
					assert.Equal(t, http.StatusOK, r.StatusCode)
				}
			}
		})
	}
	wait.Wait()
	assert.Less(t, w.processor(t)-before, 2*time.Second)
}

// What a command is given beside what it takes, or below zero, or that is not there, is refused with 2 or said plainly.
func TestSlipsOfThePen(t *testing.T) {
	hemble := command(t)
	for line, want := range map[string]string{
		"serve --reels -1":                               "-1 is negative",
		"serve --data /nowhere/at/all --reels 0":         "--reels",
		"serve stray":                                    "serve expects no argument",
		"status stray":                                   "status expects no argument",
		"chips stray":                                    `no chip is called "stray"`,
		"serve --base-path hemble":                       "a base path is like /hemble",
		"verify /nowhere":                                "no such file",
		"verify " + t.TempDir():                          "is no data folder",
		"exercise assign --attempts -3 x":                "-3 is negative",
		"serve --library /nowhere --data " + t.TempDir(): "/nowhere is no folder of libraries",
	} {
		t.Run(line, func(t *testing.T) {
			ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
			defer cancel()
			c := exec.CommandContext(ctx, hemble, strings.Fields(line)...)
			c.Env = append(os.Environ(), "HEMBLE_CONFIG="+filepath.Join(t.TempDir(), "config.yaml"))
			out, err := c.CombinedOutput()
			assert.Error(t, err)
			assert.Contains(t, string(out), want)
		})
	}
}

// A path that only begins like the service's is not the service's.
func TestBasePath(t *testing.T) {
	hemble := command(t)
	wrapped := filepath.Join(t.TempDir(), "hemble")
	require.NoError(t,
		os.WriteFile(wrapped, fmt.Appendf(nil, "#!/bin/sh\nexec %s \"$@\" --base-path /hemble\n", hemble), 0o755))
	_, url := servicetest.Serve(t, wrapped, t.TempDir(), "127.0.0.1:0")
	for path, want := range map[string]int{"": 200, "/": 200, "/healthz": 200, "x": 404, "x/healthz": 404} {
		r, err := http.Get(url + path)
		require.NoError(t, err)
		r.Body.Close()
		assert.Equal(t, want, r.StatusCode, "%s%s", url, path)
	}
}
