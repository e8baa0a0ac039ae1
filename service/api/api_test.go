package api_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/firmware"
	"hemble/demo/class"
	"hemble/service/api"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestProbesAndHeaders(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	anyone := client.New(c.Server, "")
	for _, path := range []string{"/healthz", "/readyz"} {
		status, _, text := ask(t, anyone, http.MethodGet, path, "")
		assert.Equal(t, http.StatusOK, status)
		assert.Equal(t, "ok\n", text)
	}
	_, h, _ := ask(t, c, http.MethodGet, "/api/v1/exercises", "")
	assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"))
	assert.Contains(t, h.Get("Content-Security-Policy"), "frame-ancestors 'none'")
	assert.Regexp(t, `^[0-9a-f]{16}$`, h.Get("X-Request-Id"))
	assert.Empty(t, h.Get("Access-Control-Allow-Origin"), "no other site's page reads anything")
	status, h, text := ask(t, c, http.MethodPatch, "/api/v1/exercises", "")
	assert.Equal(t, http.StatusMethodNotAllowed, status)
	assert.Equal(t, "application/problem+json", h.Get("Content-Type"))
	assert.Contains(t, text, `"type":"hemble:method"`)
	status, _, text = ask(t, anyone, http.MethodGet, "/metrics", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, text, "hemble_requests_total")
}

// The document describes the calls that there are, and what they give is as it says.
func TestOpenAPI(t *testing.T) {
	var doc struct {
		OpenAPI    string
		Paths      map[string]map[string]json.RawMessage
		Components struct {
			Schemas map[string]struct {
				Properties map[string]json.RawMessage
				Required   []string
			}
		}
	}
	_, c := servicetest.Start(t, t.TempDir())
	_, _, text := ask(t, c, http.MethodGet, "/api/v1/openapi.json", "")
	require.NoError(t, json.Unmarshal([]byte(text), &doc))
	assert.Equal(t, "3.1.0", doc.OpenAPI)
	committed, err := os.ReadFile("../../docs/openapi.json")
	require.NoError(t, err)
	assert.JSONEq(t, text, string(committed), "docs/openapi.json is not current: make docs")
	n := 0
	for _, route := range api.Routes() {
		path := "/api/v1" + regexp.MustCompile(`:([a-z]+)`).ReplaceAllString(route.Path, "{$1}")
		require.Contains(t, doc.Paths, path)
		require.Contains(t, doc.Paths[path], strings.ToLower(route.Method), path)
		n++
	}
	for _, methods := range doc.Paths {
		n -= len(methods)
	}
	assert.Zero(t, n, "as many described as there are")
	for _, ref := range regexp.MustCompile(`"#/components/schemas/(\w+)"`).FindAllStringSubmatch(text, -1) {
		assert.Contains(t, doc.Components.Schemas, ref[1], "every reference leads somewhere")
	}
	// Real answers have what their schemas require, and nothing that these do not know.
	servicetest.Course(t.Context(), t, c, func(_, file string) bool { return file == "quill-bounce.elf" })
	fits := func(schema string, value any) {
		s := doc.Components.Schemas[schema]
		have, ok := value.(map[string]any)
		require.True(t, ok, schema)
		for _, name := range s.Required {
			assert.Contains(t, have, name, schema)
		}
		for name := range have {
			assert.Contains(t, s.Properties, name, schema)
		}
	}
	for path, schema := range map[string]string{"/session": "Session", "/exercises": "Exercise", "/classes": "Class",
		"/classes/lock-house": "Class", "/classes/lock-house/assignments": "Assignment",
		"/classes/lock-house/members": "Member", "/classes/lock-house/gradebook": "Gradebook",
		"/classes/lock-house/assignments/chamber-gauge/submissions": "SubmissionPage",
		"/classes/lock-house/assignments/chamber-gauge/statistics":  "Statistics", "/audit": "AuditEntryPage",
		"/queue": "QueueState", "/accounts": "Account"} {
		status, _, text := ask(t, c, http.MethodGet, "/api/v1"+path, "")
		require.Equal(t, http.StatusOK, status, path)
		var value any
		require.NoError(t, json.Unmarshal([]byte(text), &value))
		if all, ok := value.([]any); ok {
			require.NotEmpty(t, all, path)
			value = all[0]
		}
		fits(schema, value)
	}
}

func TestPeople(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	for _, body := range []string{"{", `[]`, `{"login": 1}`, `{"login": "x", "more": 1}`, `{} {}`} {
		status, _, _ := ask(t, c, http.MethodPost, "/api/v1/session", body)
		assert.Equal(t, http.StatusBadRequest, status, "%q", body)
	}
	status, _, _ := ask(t, c, http.MethodPost, "/api/v1/session", "login=x", "Content-Type",
		"application/x-www-form-urlencoded")
	assert.Equal(t, http.StatusUnsupportedMediaType, status)
	status, h, _ := ask(t, c, http.MethodPost, "/api/v1/session", `{"login": "Instructor ", "password": "wherry-lock"}`)
	assert.Equal(t, http.StatusCreated, status)
	cookie := h.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Strict")
	assert.NotContains(t, cookie, "Secure", "this came by plain HTTP")

	// A join code lets a new account in, and one that is there.
	_, err := c.AddClass(t.Context(), "lock-house", "Wherry Lock")
	require.NoError(t, err)
	x, err := c.NewJoinCode(t.Context(), "lock-house")
	require.NoError(t, err)
	assert.Regexp(t, `^[A-Z2-9]{4}-[A-Z2-9]{4}$`, x.JoinCode)
	student := client.New(c.Server, "")
	_, err = student.Join(t.Context(),
		wire.Join{Code: "AAAA-AAAA", Login: "oke", Name: "R. Oke", Password: "long enough"})
	assert.Equal(t, "code", client.Code(err))
	for code, in := range map[string]wire.Join{
		"login":    {Code: x.JoinCode, Login: "no such form!", Name: "R. Oke", Password: "long enough"},
		"name":     {Code: x.JoinCode, Login: "oke", Name: "\x00", Password: "long enough"},
		"password": {Code: x.JoinCode, Login: "oke", Name: "R. Oke", Password: "short"},
		"taken":    {Code: x.JoinCode, Login: "instructor", Name: "R. Oke", Password: "long enough"},
	} {
		_, err = student.Join(t.Context(), in)
		assert.Equal(t, code, client.Code(err))
	}
	s, err := student.Join(t.Context(), wire.Join{Code: x.JoinCode, Login: "Oke", Name: " R.  Oke ",
		Password: "long enough"})
	require.NoError(t, err)
	assert.Equal(t, "oke", s.Login)
	assert.Equal(t, "R. Oke", s.Name)
	require.Len(t, s.Classes, 1)
	assert.Equal(t, wire.Student, s.Classes[0].Role)
	assert.Empty(t, s.Classes[0].JoinCode, "students do not hand it on")
	_, err = c.AddClass(t.Context(), "second", "Another class")
	require.NoError(t, err)
	second, err := c.NewJoinCode(t.Context(), "second")
	require.NoError(t, err)
	s, err = student.Join(t.Context(), wire.Join{Code: second.JoinCode})
	require.NoError(t, err)
	assert.Len(t, s.Classes, 2)
	require.NoError(t, c.DropJoinCode(t.Context(), "second"))
	_, err = student.Join(t.Context(), wire.Join{Code: second.JoinCode})
	assert.Equal(t, "code", client.Code(err))

	// Sessions are listed, ended one by one and all at once.
	elsewhere := servicetest.SignIn(t, c.Server, "oke", "long enough")
	all, err := student.Sessions(t.Context())
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.False(t, all[0].This)
	require.NoError(t, student.EndSession(t.Context(), all[0].ID))
	_, err = elsewhere.Session(t.Context())
	assert.Equal(t, "sign-in", client.Code(err))
	assert.Equal(t, "not-found", client.Code(c.EndSession(t.Context(), all[1].ID)), "nobody else's")
	assert.Equal(t, "password", client.Code(student.SetPassword(t.Context(), "wrong", "another one")))
	require.NoError(t, student.SignOutEverywhere(t.Context()))
	_, err = student.Session(t.Context())
	assert.Equal(t, "sign-in", client.Code(err))

	// A one-time link works once.
	link, err := c.MemberLink(t.Context(), "lock-house", "oke")
	require.NoError(t, err)
	_, err = student.UseLink(t.Context(), link.Token, "a new password")
	require.NoError(t, err)
	_, err = client.New(c.Server, "").UseLink(t.Context(), link.Token, "")
	assert.Equal(t, "link", client.Code(err))
	servicetest.SignIn(t, c.Server, "oke", "a new password")
}

// The first account is made by the set-up link alone, and once.
func TestSetUp(t *testing.T) {
	config := servicetest.Config(t.TempDir())
	config.First.Login = ""
	s, err := startOnly(t, config)
	require.NoError(t, err)
	c := client.New(s.URL(config), "")
	state, err := c.SetUp(t.Context())
	require.NoError(t, err)
	assert.True(t, state.Needed)
	require.NotEmpty(t, s.SetUp)
	first := wire.First{Token: "guessed", Login: "keeper", Name: "I. Keeper", Password: "wherry-lock"}
	_, err = c.First(t.Context(), first)
	assert.Equal(t, "set-up", client.Code(err))
	first.Token = s.SetUp
	session, err := c.First(t.Context(), first)
	require.NoError(t, err)
	assert.Equal(t, wire.Admin, session.Role)
	first.Login = "second"
	_, err = client.New(s.URL(config), "").First(t.Context(), first)
	assert.Equal(t, "set-up", client.Code(err))
	state, err = c.SetUp(t.Context())
	require.NoError(t, err)
	assert.False(t, state.Needed)
}

func TestReferenceData(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	_, h, text := ask(t, c, http.MethodGet, "/api/v1/schema", "")
	assert.Contains(t, text, "json-schema.org")
	status, _, text := ask(t, c, http.MethodGet, "/api/v1/schema", "", "If-None-Match", h.Get("ETag"))
	assert.Equal(t, http.StatusNotModified, status)
	assert.Empty(t, text)
	_, _, text = ask(t, c, http.MethodGet, "/api/v1/character-rom", "")
	var rom [256][8]int
	require.NoError(t, json.Unmarshal([]byte(text), &rom))
	assert.Equal(t, [8]int{31, 31, 31, 31, 31, 31, 31, 31}, rom[255])
}

// Two people who change the same thing: the second is told.
func TestIfMatch(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	address := "/api/v1/classes/" + ownClass + "/assignments/" + lamps
	_, h, _ := ask(t, w.people["keeper"], http.MethodGet, address, "")
	body := `{"revision": 0, "opens": "2020-01-01T00:00:00Z", "late": "full", "per_day": 0, "grace": 0, "attempts": 3, "wait": 0, "counts": "best", "show_sheet": "at-once", "show_marks": "at-once"}`
	status, _, text := ask(t, w.people["keeper"], http.MethodPut, address, body, "If-Match", h.Get("ETag"))
	assert.Equal(t, http.StatusOK, status, text)
	status, _, text = ask(t, w.people["admin"], http.MethodPut, address, body, "If-Match", h.Get("ETag"))
	assert.Equal(t, http.StatusPreconditionFailed, status, text)
	assert.Contains(t, text, "someone else changed this")
}

func TestConsoleIsServed(t *testing.T) {
	if _, err := os.Stat("../../console/dist/site/index.html"); err != nil {
		t.Skip("the console is not built; `make console` builds it")
	}
	config := servicetest.Config(t.TempDir())
	config.BasePath = "/hemble"
	s, _ := servicetest.StartWith(t, config)
	anyone := client.New(s.URL(config), "")
	for _, path := range []string{"/", "/sign-in", "/submissions/some-id", "/exercises/../exercises/x"} {
		status, _, text := ask(t, anyone, http.MethodGet, path, "")
		assert.Equal(t, http.StatusOK, status, path)
		assert.Contains(t, text, `<div id="root">`, path)
		assert.Contains(t, text, `<base href="/hemble/">`, path)
	}
	_, _, index := ask(t, anyone, http.MethodGet, "/", "")
	_, after, _ := strings.Cut(index, `src="`)
	script, _, _ := strings.Cut(after, `"`)
	status, h, _ := ask(t, anyone, http.MethodGet, "/"+strings.TrimPrefix(script, "./"), "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, h.Get("Cache-Control"), "immutable")
	status, _, _ = ask(t, anyone, http.MethodPost, "/anything", "")
	assert.Equal(t, http.StatusNotFound, status)
	status, _, _ = ask(t, client.New(s.Address, ""), http.MethodGet, "/api/v1/setup", "")
	assert.Equal(t, http.StatusNotFound, status, "what is not under the base path is not there")
	status, h, _ = ask(t, anyone, http.MethodPost, "/api/v1/session",
		`{"login": "instructor", "password": "wherry-lock"}`)
	assert.Equal(t, http.StatusCreated, status)
	assert.Contains(t, h.Get("Set-Cookie"), "Path=/hemble/")
}

// A page of another site cannot make changes with a visitor's cookie.
func TestCrossSite(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	anyone := client.New(c.Server, "")
	for site, want := range map[string]int{"cross-site": http.StatusForbidden, "same-site": http.StatusForbidden,
		"same-origin": http.StatusUnauthorized} {
		status, _, _ := ask(t, anyone, http.MethodPost, "/api/v1/session", `{"login": "x", "password": "y"}`,
			"Sec-Fetch-Site", site)
		assert.Equal(t, want, status, site)
	}
	cookie := "hemble_session=" + c.Token
	host := strings.TrimPrefix(c.Server, "http://")
	for _, s := range []struct {
		name, value string
		want        int
	}{{"Origin", "http://elsewhere.example", 403}, {"Origin", "null", 403}, {"X-None", "", 403},
		{"Sec-Fetch-Site", "cross-site", 403}, {"Origin", "http://" + host, 201},
		{"Sec-Fetch-Site", "same-origin", 201}} {
		status, _, text := ask(t, anyone, http.MethodPost,
			"/api/v1/classes/made-by-"+fmt.Sprint(s.want)+strings.ToLower(s.name[:1]),
			`{"title": "x", "archived": false}`, "Cookie", cookie, s.name, s.value)
		assert.Equal(t, s.want, status, "%s: %s %s", s.name, s.value, text)
	}
	status, _, _ := ask(t, anyone, http.MethodGet, "/api/v1/session", "", "Cookie", cookie)
	assert.Equal(t, http.StatusOK, status)
	status, h, _ := ask(t, anyone, http.MethodOptions, "/api/v1/classes", "", "Origin", "http://elsewhere.example",
		"Access-Control-Request-Method", "GET")
	assert.Equal(t, http.StatusMethodNotAllowed, status)
	assert.Empty(t, h.Get("Access-Control-Allow-Origin"))
}

// What a proxy says of where a request came from is believed of trusted proxies alone.
func TestProxies(t *testing.T) {
	for trusted, secure := range map[string]bool{"127.0.0.0/8": true, "10.0.0.0/8": false} {
		config := servicetest.Config(t.TempDir())
		config.Trusted = []netip.Prefix{netip.MustParsePrefix(trusted)}
		s, _ := servicetest.StartWith(t, config)
		_, h, _ := ask(t, client.New(s.URL(config), ""), http.MethodPost, "/api/v1/session",
			`{"login": "instructor", "password": "wherry-lock"}`, "X-Forwarded-Proto", "https", "X-Forwarded-For",
			"192.0.2.7")
		assert.Equal(t, secure, strings.Contains(h.Get("Set-Cookie"), "Secure"), trusted)
		c := servicetest.SignIn(t, s.URL(config), class.Instructor, class.Password)
		all, err := c.Sessions(t.Context())
		require.NoError(t, err)
		assert.Equal(t, secure, all[1].Address == "192.0.2.7", trusted)
	}
}

// Uploads: what is too large, of a wrong kind, empty, a bomb or out to leave its folder is refused, and kept nowhere.
func TestUploads(t *testing.T) {
	dir := t.TempDir()
	_, c := servicetest.Start(t, dir)
	_, err := c.AddClass(t.Context(), ownClass, "x")
	require.NoError(t, err)
	require.NoError(t, c.PutMember(t.Context(), ownClass, "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	_, err = c.PutExercise(t.Context(), lamps, secretive(t))
	require.NoError(t, err)
	_, err = c.Assign(t.Context(), ownClass, lamps, wire.SetAssignment{})
	require.NoError(t, err)
	for name, data := range map[string][]byte{"picture.png": []byte("\x89PNG\r\n"), "empty.hex": nil,
		"page.html": []byte("<script>"), "large.hex": make([]byte, firmware.MaxFile+1)} {
		_, err := c.Submit(t.Context(), ownClass, lamps, client.Work{Student: "oke", File: name, Data: data})
		assert.Equal(t, "file", client.Code(err), name)
	}
	_, err = c.Submit(t.Context(), ownClass, lamps,
		client.Work{Student: "oke", File: "x.hex", Data: make([]byte, firmware.MaxFile+4<<20)})
	assert.Equal(t, "too-large", client.Code(err))
	_, err = c.Submit(t.Context(), ownClass, lamps,
		client.Work{Student: "nobody", File: "x.hex", Data: []byte(":00000001FF\n")})
	assert.Equal(t, "student", client.Code(err))
	status, _, _ := ask(t, c, http.MethodPost, "/api/v1/classes/lock-house/assignments/boat-lamps/submissions",
		`{"file": 1}`)
	assert.Equal(t, http.StatusUnsupportedMediaType, status)
	status, _, _ = ask(t, c, http.MethodPost, "/api/v1/classes/lock-house/assignments/boat-lamps/submissions",
		"--x\r\nbroken", "Content-Type", "multipart/form-data; boundary=x")
	assert.Equal(t, http.StatusBadRequest, status)

	archive := func(files map[string][]byte) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, data := range files {
			w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
			require.NoError(t, err)
			_, err = w.Write(data)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	for name, files := range map[string]map[string][]byte{
		"a bomb": {"exercise.yaml": make([]byte, 64<<20)}, "leads out": {"../../../etc/exercise.yaml": []byte("x")},
		"absolute":    {"/etc/passwd": []byte("x")},
		"backslashes": {`..\..\exercise.yaml`: []byte("x")}, "nothing": {"readme.txt": []byte("x")},
		"line ends": {"a\nb": []byte("x")},
	} {
		_, err := c.PutExerciseFolder(t.Context(), "some-exercise", archive(files))
		assert.Equal(t, "zip", client.Code(err), name)
		_, err = c.Bulk(t.Context(), ownClass, lamps, []client.File{{Name: "all.zip", Data: archive(files)}})
		if name != "nothing" && name != "a bomb" {
			assert.Equal(t, "zip", client.Code(err), name)
		}
	}
	many := map[string][]byte{}
	for i := range 600 {
		many[fmt.Sprintf("%d.txt", i)] = nil
	}
	_, err = c.PutExerciseFolder(t.Context(), "some-exercise", archive(many))
	assert.ErrorContains(t, err, "more than 500 files")
	_, err = c.PutExerciseFolder(t.Context(), "some-exercise", []byte("PK\x03\x04 and so on"))
	assert.Equal(t, "zip", client.Code(err))
	assert.Equal(t, "library",
		client.Code(c.PutLibrary(t.Context(), ownClass, "Lib", archive(map[string][]byte{"only.c": []byte("int x;")}))))
	assert.Equal(t, "library",
		client.Code(c.PutLibrary(t.Context(), ownClass, "Lib", archive(map[string][]byte{"../x.h": []byte("int x;")}))))
	assert.Equal(t, "name", client.Code(c.PutLibrary(t.Context(), ownClass, "..", nil)))
	receipts, err := os.ReadDir(dir + "/receipts")
	require.NoError(t, err)
	assert.Empty(t, receipts)
}

// Text that means something to a database, a header, a path or a page means nothing here.
func TestInjection(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	keeper := w.people["keeper"]
	for _, evil := range []string{`'; DROP TABLE account; --`, `" OR 1=1`, `%27%20OR%201=1`, `..%2f..%2fetc%2fpasswd`,
		`<script>alert(1)</script>`, "a\r\nX-Evil: 1", "\x00", strings.Repeat("é", 5000)} {
		page, err := keeper.SubmissionPage(t.Context(), ownClass, lamps, client.Filter{Search: evil})
		require.NoError(t, err, "%q", evil)
		assert.Empty(t, page.Items)
		for _, path := range []string{"/submissions/", "/classes/", "/exercises/"} {
			r, err := http.NewRequest(http.MethodGet, keeper.Server, nil)
			require.NoError(t, err)
			r.URL.Opaque = strings.TrimPrefix(keeper.Server, "http:") + "/api/v1" + path + strings.NewReplacer("\r",
				"%0d", "\n", "%0a", " ", "%20", "\x00", "%00", `"`, "%22", "<", "%3c", ">", "%3e").Replace(evil)
			r.Header.Set("Authorization", "Bearer "+keeper.Token)
			answer, err := http.DefaultClient.Do(r)
			require.NoError(t, err, "%q", evil)
			text, _ := io.ReadAll(answer.Body)
			answer.Body.Close()
			assert.Contains(t, []int{400, 404}, answer.StatusCode, "%s%q", path, evil)
			assert.Empty(t, answer.Header.Get("X-Evil"))
			assert.NotContains(t, string(text), "SQL")
		}
		// In names and texts it is kept, and given back, as text.
		if !strings.ContainsAny(evil, "\x00\r") && len(evil) < 100 {
			_, err = keeper.Comment(t.Context(), w.work["anna"].ID, wire.SetComment{Text: evil})
			require.NoError(t, err)
			r, err := keeper.Result(t.Context(), w.work["anna"].ID)
			require.NoError(t, err)
			assert.Equal(t, evil, r.Comments[len(r.Comments)-1].Text)
		}
	}
	r, err := w.people["bert"].Submit(t.Context(), ownClass, lamps,
		client.Work{File: `../../"><script>.elf`, Data: firmwareOf(t, "marsh-waits")})
	require.NoError(t, err)
	assert.NotContains(t, r.File, "/")
	_, h, _ := ask(t, keeper, http.MethodGet, "/api/v1/submissions/"+r.ID+"/file", "")
	assert.Equal(t, "application/octet-stream", h.Get("Content-Type"))
	assert.NotContains(t, h.Get("Content-Disposition"), `"><`)
	require.NoError(t, keeper.Wait(t.Context(), ownClass, lamps, []string{r.ID}, func(wire.Submission) {}))
	page, err := keeper.SheetPage(t.Context(), r.ID)
	require.NoError(t, err)
	assert.NotContains(t, string(page), "<script>")
	require.NoError(t,
		keeper.PutMember(t.Context(), ownClass, "dora", wire.SetMember{Name: "=1+1", Role: wire.Student}))
	text, err := keeper.GradebookCSV(t.Context(), ownClass, "")
	require.NoError(t, err)
	assert.Contains(t, string(text), "'=1+1", "a spreadsheet takes it for text")
}

// Those who are slow, and those who ask too much, hold nobody up.
func TestSlowAndMany(t *testing.T) {
	config := servicetest.Config(t.TempDir())
	config.Limits = api.Limits{PerAccount: 1, AccountBurst: 20, PerAddress: 1, AddressBurst: 20, Uploads: 5}
	s, c := servicetest.StartWith(t, config)
	var slow []net.Conn
	for range 50 { // begin a request and never end it
		conn, err := net.Dial("tcp", s.Address)
		require.NoError(t, err)
		_, err = conn.Write([]byte("POST /api/v1/session HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\n{"))
		require.NoError(t, err)
		slow = append(slow, conn)
	}
	began := time.Now()
	_, err := c.Session(t.Context())
	require.NoError(t, err)
	assert.Less(t, time.Since(began), 5*time.Second)
	for _, conn := range slow {
		conn.Close()
	}
	refused := 0
	for range 60 {
		if _, err := c.Session(t.Context()); client.Code(err) == "too-often" {
			refused++
		}
	}
	assert.Greater(t, refused, 20)
	status, h, _ := ask(t, c, http.MethodGet, "/api/v1/session", "")
	if status == http.StatusTooManyRequests {
		assert.NotEmpty(t, h.Get("Retry-After"))
	}
	status, _, _ = ask(t, c, http.MethodGet, "/healthz", "", "X-Large", strings.Repeat("x", 64<<10))
	assert.Equal(t, http.StatusRequestHeaderFieldsTooLarge, status)
}
