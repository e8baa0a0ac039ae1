package service_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"os/exec"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/finding"
	"hemble/core/sheet"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// handClock is a clock that tests set.
type handClock struct{ at atomic.Int64 }

func (h *handClock) now() time.Time      { return time.Unix(0, h.at.Load()) }
func (h *handClock) set(t time.Time)     { h.at.Store(t.UnixNano()) }
func (h *handClock) add(d time.Duration) { h.at.Add(int64(d)) }

// room is a service with the demo's class, one exercise open to it, and a clock by hand.
type room struct {
	*client.Client
	t     *testing.T
	clock *handClock
	files map[string][]byte
}

const (
	lockHouse = class.Name
	gauge     = "chamber-gauge"
)

func newRoom(t *testing.T, terms wire.Policy) *room {
	r := &room{t: t, clock: &handClock{}, files: map[string][]byte{}}
	r.clock.set(time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC))
	config := servicetest.Config(t.TempDir())
	config.Now = r.clock.now
	_, r.Client = servicetest.StartWith(t, config)
	_, err := r.AddClass(t.Context(), lockHouse, "Wherry Lock")
	require.NoError(t, err)
	list := "login;name;number;group\n"
	for _, s := range demo.Students() {
		list += fmt.Sprintf("%s;%s;%s;%s\n", s.Login, s.Name, s.Number, s.Group)
	}
	change, err := r.PutRoster(t.Context(), lockHouse, []byte(list), false)
	require.NoError(t, err)
	require.Len(t, change.Added, len(demo.Students()))
	x, err := demo.Find(gauge)
	require.NoError(t, err)
	_, err = r.PutExercise(t.Context(), gauge, x.Text)
	require.NoError(t, err)
	for _, f := range x.Files {
		r.files[strings.TrimSuffix(f.Name, ".elf")] = f.Data
	}
	r.open(terms)
	return r
}

func (r *room) open(terms wire.Policy) {
	r.t.Helper()
	_, err := r.Assign(r.t.Context(), lockHouse, gauge, wire.SetAssignment{Policy: terms})
	require.NoError(r.t, err)
}

// hand submits and waits for the marks.
func (r *room) hand(as *client.Client, student, firmware string) (wire.Submission, error) {
	receipt, err := as.Submit(r.t.Context(), lockHouse, gauge,
		client.Work{Student: student, File: firmware + ".elf", Data: r.files[firmware]})
	if err != nil {
		return wire.Submission{}, err
	}
	s := receipt.Submission
	require.NoError(r.t,
		r.Wait(r.t.Context(), lockHouse, gauge, []string{s.ID}, func(done wire.Submission) { s = done }))
	return s, nil
}

func (r *room) must(as *client.Client, student, firmware string) wire.Submission {
	r.t.Helper()
	s, err := r.hand(as, student, firmware)
	require.NoError(r.t, err)
	require.Equal(r.t, wire.Marked, s.State, s.Error)
	return s
}

func at(t time.Time, d time.Duration) *time.Time {
	u := t.Add(d)
	return &u
}

// Deadlines, lateness, attempts, waiting times and extensions, by a clock.
func TestDeadlines(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	start := r.clock.now()
	r.open(wire.Policy{Opens: *at(start, time.Hour), Due: at(start, 48*time.Hour), Closes: at(start, 96*time.Hour),
		Late: wire.LatePerDay, PerDay: 20, Attempts: 3, Wait: 10, Counts: wire.CountsBest})
	haq, quill := servicetest.As(t, r.Client, lockHouse, "haq"), servicetest.As(t, r.Client, lockHouse, "quill")
	_, err := r.hand(haq, "", "haq-interrupts")
	assert.Equal(t, "not-found", client.Code(err), "before it opens it is not there")
	all, err := haq.Assignments(t.Context(), lockHouse)
	require.NoError(t, err)
	assert.Empty(t, all)

	r.clock.add(2 * time.Hour)
	first := r.must(haq, "", "quill-bounce")
	assert.Equal(t, 100, first.Percent)
	assert.Equal(t, json.Number("7.5"), first.Marks)
	again, err := haq.Submit(t.Context(), lockHouse, gauge,
		client.Work{File: "other-name.elf", Data: r.files["quill-bounce"]})
	require.NoError(t, err)
	assert.True(t, again.Same)
	assert.Equal(t, first.ID, again.ID, "the same file twice is one")
	_, err = r.hand(haq, "", "reyes-too-slow")
	assert.Equal(t, "not-open", client.Code(err))
	assert.ErrorContains(t, err, wire.InZone("the next attempt may come from 1 March 2027 14:10:00 UTC on", time.Local))

	r.clock.set(*at(start, 49*time.Hour)) // an hour late: a day begun
	late := r.must(haq, "", "haq-interrupts")
	assert.Equal(t, 3600, late.Late)
	assert.Equal(t, 80, late.Percent)
	book, err := r.Gradebook(t.Context(), lockHouse)
	require.NoError(t, err)
	mark := func(login string) wire.GradebookCell {
		for _, row := range book.Rows {
			if row.Login == login {
				return row.Cells[0]
			}
		}
		return wire.GradebookCell{}
	}
	assert.Equal(t, json.Number("8"), mark("haq").Marks, "10 less 20 percent is better than 7")
	assert.Equal(t, 2, mark("haq").Attempts)

	// More time for haq: the same work is no longer late. For the evening's group, more attempts.
	require.NoError(t,
		r.PutExtension(t.Context(), lockHouse, gauge,
			wire.Extension{Kind: "student", Who: "haq", Due: at(start, 72*time.Hour), Reason: "was ill"}))
	require.NoError(t,
		r.PutExtension(t.Context(), lockHouse, gauge,
			wire.Extension{Kind: "group", Who: "evening", Attempts: 1, Closes: at(start, 200*time.Hour),
				Reason: "the lab was shut"}))
	book, err = r.Gradebook(t.Context(), lockHouse)
	require.NoError(t, err)
	assert.Equal(t, json.Number("10"), mark("haq").Marks)
	own, err := haq.Assignment(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	assert.True(t, own.Standing.Due.Equal(*at(start, 72*time.Hour)))
	for _, bad := range []wire.Extension{{Kind: "student", Who: "nobody", Attempts: 1, Reason: "x"},
		{Kind: "group", Who: "none", Attempts: 1, Reason: "x"}, {Kind: "class", Who: "x", Attempts: 1, Reason: "x"},
		{Kind: "student", Who: "haq", Reason: "x"}, {Kind: "student", Who: "haq", Attempts: 1},
		{Kind: "student", Who: "haq", Attempts: -1, Reason: "x"}} {
		assert.Error(t, r.PutExtension(t.Context(), lockHouse, gauge, bad), bad)
	}

	r.clock.set(*at(start, 97*time.Hour))
	group := map[string]string{}
	members, err := r.Members(t.Context(), lockHouse)
	require.NoError(t, err)
	for _, m := range members {
		group[m.Login] = m.Group
	}
	_, err = r.hand(quill, "", "quill-bounce")
	if group["quill"] == "evening" {
		assert.NoError(t, err)
	} else {
		assert.ErrorContains(t, err, wire.InZone("it closed at 5 March 2027 12:00:00 UTC", time.Local))
	}
	_, err = r.hand(r.Client, "quill", "reyes-too-slow")
	assert.NoError(t, err, "who marks may submit for a student at any time")
	for _, bad := range []wire.Policy{{Late: "sometimes"}, {Counts: "mean"}, {Late: wire.LatePerDay},
		{Late: wire.LateGrace}, {Attempts: -1}, {Wait: -1}, {ShowSheet: "never"}, {ShowMarks: wire.AfterDue},
		{Opens: start, Due: at(start, -time.Hour)}, {Opens: start, Closes: at(start, -time.Hour)},
		{Opens: start, Due: at(start, 2*time.Hour), Closes: at(start, time.Hour)}} {
		_, err := r.Assign(t.Context(), lockHouse, gauge, wire.SetAssignment{Policy: bad})
		assert.Equal(t, "policy", client.Code(err), "%+v", bad)
	}
	_, err = r.Assign(t.Context(), lockHouse, gauge, wire.SetAssignment{Revision: 9})
	assert.Equal(t, "revision", client.Code(err))
	assert.Equal(t, "has-work", client.Code(r.Unassign(t.Context(), lockHouse, gauge)))
	assert.Equal(t, "has-work", client.Code(r.DropMember(t.Context(), lockHouse, "haq")))

	// The clock may jump: what is there keeps its order and its marks.
	r.clock.set(start.Add(-1000 * time.Hour))
	back := r.must(r.Client, "haq", "reyes-too-slow")
	assert.Equal(t, 3, back.Attempt)
	_, err = r.SetClass(t.Context(), lockHouse, wire.SetClass{Title: "Wherry Lock", Archived: true})
	require.NoError(t, err)
	r.clock.set(*at(start, 50*time.Hour))
	r.Client = servicetest.SignIn(t, r.Server, class.Instructor, class.Password)
	haq = servicetest.As(t, r.Client, lockHouse, "haq")
	_, err = r.hand(haq, "", "stroud-b-f-swapped")
	assert.Error(t, err, "an archived class takes nothing")
}

// Sixty files, or a learning platform's archive: matched to the roster, wrong kinds first, doubtful ones reviewed.
func TestBulk(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	put := func(name string, data []byte) {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(data)
		require.NoError(t, err)
	}
	number := map[string]string{}
	for _, s := range demo.Students() {
		number[s.Login] = s.Number
	}
	put("Lab 3/S. Haq_81723_file/firmware.elf", r.files["haq-interrupts"])
	put("Lab 3/"+number["quill"]+"_81724_file/main.elf", r.files["quill-bounce"])
	put("Lab 3/ames_81725_file/my work.elf", r.files["ames-polling"])
	put("Lab 3/Reyees M_81726_file/slow.elf", r.files["reyes-too-slow"])
	put("Lab 3/Somebody Else_81727_file/x.elf", r.files["penn-inverted"])
	put("Lab 3/Stroud V_81728_file/report.pdf", []byte("%PDF"))
	put("Lab 3/tarn_81729_file/main.c", []byte("int main(void) { return 0; }"))
	put("Lab 3/tarn_81729_file/readme.txt", []byte("my work"))
	put("Lab 3/brook_1/a.elf", r.files["brook-no-pull-up"])
	put("Lab 3/brook_2/a.elf", r.files["haq-interrupts"])
	require.NoError(t, z.Close())
	bulk, err := r.Bulk(t.Context(), lockHouse, gauge, []client.File{{Name: "lab3.zip", Data: b.Bytes()}})
	require.NoError(t, err)
	by := map[string]wire.BulkFile{}
	for _, f := range bulk.Files {
		by[f.Name] = f
	}
	require.Len(t, bulk.Files, 9)
	assert.Contains(t, bulk.Files[0].Problem, "neither firmware", "wrong kinds come first")
	assert.False(t, bulk.Files[1].Sure, "then doubtful ones")
	assert.True(t, bulk.Files[8].Sure)
	for name, want := range map[string]wire.BulkFile{
		"S. Haq_81723_file/firmware.elf":         {Login: "haq", How: "login", Sure: true},
		number["quill"] + "_81724_file/main.elf": {Login: "quill", How: "number", Sure: true},
		"ames_81725_file/my work.elf":            {Login: "ames", How: "login", Sure: true},
		"Reyees M_81726_file/slow.elf":           {Login: "reyes", How: "near name"},
		"Somebody Else_81727_file/x.elf":         {How: "nobody"},
		"tarn_81729_file.zip":                    {Login: "tarn", How: "login", Sure: true},
		"brook_1/a.elf":                          {Login: "brook", How: "login, one of several"},
	} {
		got := by[name]
		assert.Equal(t, want, wire.BulkFile{Login: got.Login, How: got.How, Sure: got.Sure}, name)
	}
	_, err = r.Confirm(t.Context(), lockHouse, gauge, bulk.ID,
		wire.Confirm{Logins: map[int]string{by["Somebody Else_81727_file/x.elf"].Number: "no-such"}})
	assert.Equal(t, "student", client.Code(err))
	_, err = r.Confirm(t.Context(), lockHouse, gauge, bulk.ID, wire.Confirm{Logins: map[int]string{99: "haq"}})
	assert.Equal(t, "file", client.Code(err))
	list, err := r.Submissions(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	assert.Empty(t, list, "a wrong review submits nothing")
	done, err := r.Confirm(t.Context(), lockHouse, gauge, bulk.ID,
		wire.Confirm{Logins: map[int]string{by["Reyees M_81726_file/slow.elf"].Number: "reyes",
			by["S. Haq_81723_file/firmware.elf"].Number: ""}})
	require.NoError(t, err)
	assert.True(t, done.Done)
	list, err = r.Submissions(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	var who []string
	for _, s := range list {
		who = append(who, s.Login)
	}
	assert.ElementsMatch(t, []string{"quill", "ames", "reyes", "tarn"}, who)
	_, err = r.Confirm(t.Context(), lockHouse, gauge, bulk.ID, wire.Confirm{})
	assert.Equal(t, "done", client.Code(err))
}

// An instructor's evening: look-alikes, an override, a comment for all of them, a new revision with proposed marks,
// release, the school's own file.
func TestAnEvening(t *testing.T) {
	r := newRoom(t, wire.Policy{ShowMarks: wire.OnRelease})
	marked := map[string]wire.Submission{}
	for firmware, student := range map[string]string{"haq-interrupts": "haq", "quill-bounce": "quill",
		"tarn-wrong-six": "tarn", "reyes-too-slow": "reyes"} {
		marked[student] = r.must(r.Client, student, firmware)
	}
	marked["abbott"] = r.must(r.Client, "abbott", "tarn-wrong-six")

	groups, err := r.Alike(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	require.NotEmpty(t, groups)
	require.Len(t, groups[0].Submissions, 2)
	assert.Contains(t, groups[0].First, "One pattern of gauge is wrong")
	ids := []string{groups[0].Submissions[0].ID, groups[0].Submissions[1].ID}
	zero := 0
	require.NoError(t,
		r.CommentMany(t.Context(), lockHouse, gauge,
			wire.SetComment{Submissions: ids, Text: "Segment d belongs to the 6.", Save: true}))
	bank, err := r.SavedComments(t.Context(), lockHouse)
	require.NoError(t, err)
	require.Len(t, bank, 1)
	assert.Equal(t, 2, bank[0].Used)

	for _, bad := range []wire.SetOverride{{Marks: "1", Reason: ""}, {Marks: "-1", Reason: "x"},
		{Marks: "1e9", Reason: "x"}, {Marks: "99", Reason: "x"}, {Trial: &zero, Marks: "1", Reason: "x"},
		{Row: &zero, Marks: "1", Reason: "x"},
		{Trial: &zero, Verdict: new(int), Marks: "7", Reason: "x"}} {
		_, err := r.Override(t.Context(), ids[0], bad)
		assert.Error(t, err, "%+v", bad)
	}
	before := marked["tarn"].Marks
	require.NoError(t,
		r.OverrideMany(t.Context(), lockHouse, gauge, wire.SetOverride{Submissions: ids, Trial: &zero, Verdict: &zero,
			Marks: "6", Reason: "as good as right"}))
	result, err := r.Result(t.Context(), marked["tarn"].ID)
	require.NoError(t, err)
	assert.NotEqual(t, before, result.Marks)
	assert.True(t, result.Overridden)
	sh := result.Sheet
	assert.Equal(t, "as good as right", sh.Trials[0].Verdicts[0].Given.Reason)
	require.Len(t, result.Overrides, 1)
	assert.Equal(t, "I. Keeper", result.Overrides[0].By)
	require.NoError(t, r.DropOverride(t.Context(), marked["abbott"].ID, mustOverride(t, r, marked["abbott"].ID)))
	result, err = r.Result(t.Context(), marked["abbott"].ID)
	require.NoError(t, err)
	assert.Equal(t, before, result.Marks)
	assert.False(t, result.Overridden)
	result, err = r.Override(t.Context(), marked["reyes"].ID,
		wire.SetOverride{Marks: "9.5", Reason: "the clock of the bench was wrong"})
	require.NoError(t, err)
	assert.Equal(t, json.Number("9.5"), result.Marks)

	// A new revision accepts the slower rate; the marks move only when they are applied.
	x, err := r.Exercise(t.Context(), gauge)
	require.NoError(t, err)
	revised := strings.Replace(x.Text, "tolerance: 5%", "tolerance: 60%", 1)
	require.NotEqual(t, x.Text, revised)
	x, err = r.PutExercise(t.Context(), gauge, []byte(revised))
	require.NoError(t, err)
	assert.Equal(t, 2, x.Revision)
	p, err := r.Propose(t.Context(), lockHouse, gauge, 0)
	require.NoError(t, err)
	_, err = r.Propose(t.Context(), lockHouse, gauge, 0)
	assert.Equal(t, "open", client.Code(err))
	require.Eventually(t, func() bool {
		p, err = r.Proposal(t.Context(), lockHouse, gauge, p.ID)
		return err == nil && p.Waiting == 0
	}, time.Minute, 100*time.Millisecond)
	var reyes *wire.ProposedMark
	for i := range p.Moves {
		if p.Moves[i].Login == "reyes" {
			reyes = &p.Moves[i]
		}
	}
	require.NotNil(t, reyes, "%+v", p)
	require.NotEmpty(t, reyes.Why)
	assert.Regexp(t, `a lock filling: gauge shows .*: (met|partly), .* was partly`, reyes.Why[0])
	same, err := r.Result(t.Context(), marked["reyes"].ID)
	require.NoError(t, err)
	assert.Equal(t, 1, same.Revision)
	_, err = r.Decide(t.Context(), lockHouse, gauge, p.ID, wire.Decide{Apply: true, Submissions: []string{"no-such"}})
	assert.Equal(t, "submissions", client.Code(err))
	p, err = r.Decide(t.Context(), lockHouse, gauge, p.ID,
		wire.Decide{Apply: true, Submissions: []string{marked["reyes"].ID}})
	require.NoError(t, err)
	assert.Nil(t, p.Closed, "the others are still open")
	same, err = r.Result(t.Context(), marked["reyes"].ID)
	require.NoError(t, err)
	assert.Equal(t, 2, same.Revision)
	assert.Equal(t, json.Number("9.5"), same.Marks, "an override of the whole stays")
	p, err = r.Decide(t.Context(), lockHouse, gauge, p.ID, wire.Decide{})
	require.NoError(t, err)
	assert.NotNil(t, p.Closed)

	// Students see marks once they are released, and comments with them.
	tarn := servicetest.As(t, r.Client, lockHouse, "tarn")
	result, err = tarn.Result(t.Context(), marked["tarn"].ID)
	require.NoError(t, err)
	assert.Empty(t, result.Marks)
	assert.Empty(t, result.Comments)
	_, err = r.Release(t.Context(), lockHouse, gauge, true)
	require.NoError(t, err)
	result, err = tarn.Result(t.Context(), marked["tarn"].ID)
	require.NoError(t, err)
	assert.NotEmpty(t, result.Marks)
	require.Len(t, result.Comments, 1)

	st, err := r.Statistics(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	assert.Equal(t, 5, st.Submitted)
	assert.Equal(t, len(demo.Students()), st.Students)
	assert.GreaterOrEqual(t, st.Right, 1)
	assert.Len(t, st.FirstRight, st.Right)
	sum := 0
	for _, n := range st.Spread {
		sum += n
	}
	assert.Equal(t, 5, sum)
	require.NotEmpty(t, st.Expectations)
	assert.Equal(t, 5, st.Expectations[0].Met+st.Expectations[0].Partly+st.Expectations[0].Missed)
	require.NotEmpty(t, st.Findings)
	assert.Len(t, st.Findings[0].Sheets, st.Findings[0].Count)
	assert.NotEmpty(t, st.Findings[0].Sheets[0].Student)
	for _, f := range st.Findings { // what the sheets have in common, and each in its own words
		of := finding.Of(finding.Code(f.Code))
		assert.Equal(t, of.Code, finding.Code(f.Code), "by the entry, not by its pins")
		assert.Equal(t, of.Doc, f.Text)
		for _, in := range f.Sheets {
			result, err := r.Result(t.Context(), in.Submission)
			require.NoError(t, err)
			assert.True(t, slices.ContainsFunc(result.Sheet.Findings, func(told sheet.Finding) bool {
				return finding.Family(string(told.Code), f.Code) && told.Text == in.Text
			}), "%s on the sheet of %s", f.Code, in.Student)
		}
	}

	// The school's file: its own columns, order, separator, mark and line ends stay.
	school := "\xef\xbb\xbfMatr.;Name;Lab 3;Notes\r\n" + fmt.Sprintf("%s;Haq;;\"a;b\"\r\n",
		numberOf("haq")) + fmt.Sprintf("%s;Tarn;;\r\n", numberOf("tarn")) + "9999;Stranger;5;\r\n"
	f, err := r.Fill(t.Context(), lockHouse, []byte(school), "lab 3", gauge, "")
	require.NoError(t, err)
	assert.Equal(t, 2, f.Filled)
	assert.Equal(t, []string{"9999"}, f.Unknown)
	assert.Contains(t, string(f.Data), numberOf("haq")+`;Haq;10;"a;b"`+"\r\n")
	assert.Contains(t, string(f.Data), "9999;Stranger;5;\r\n")
	assert.True(t, strings.HasPrefix(string(f.Data), "\xef\xbb\xbfMatr.;"))
	for _, bad := range [][3]string{{"Lab 4", gauge, ""}, {"", gauge, ""}, {"Lab 3", "no-such", ""},
		{"Lab 3", gauge, "Nobody"}} {
		_, err = r.Fill(t.Context(), lockHouse, []byte(school), bad[0], bad[1], bad[2])
		assert.Equal(t, "csv", client.Code(err), bad)
	}
	text, err := r.GradebookCSV(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	rows, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 1+len(demo.Students()))
	assert.Equal(t, "marks", rows[0][len(rows[0])-1])

	var pages bytes.Buffer
	require.NoError(t, r.Sheets(t.Context(), lockHouse, gauge, &pages))
	z, err := zip.NewReader(bytes.NewReader(pages.Bytes()), int64(pages.Len()))
	require.NoError(t, err)
	require.Len(t, z.File, 5)
	page, err := z.File[0].Open()
	require.NoError(t, err)
	html, err := io.ReadAll(page)
	require.NoError(t, err)
	assert.Contains(t, string(html), "<svg")

	luck, err := r.SeedSensitivity(t.Context(), marked["haq"].ID, 3)
	require.NoError(t, err)
	assert.Equal(t, wire.SeedSensitivity{Marks: []json.Number{"10", "10", "10"}, Passed: 3}, luck)

	// Everything that changed a mark or a right is noted, with who did it.
	log, err := r.Audit(t.Context(), lockHouse, "")
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, e := range log.Items {
		seen[e.Action] = true
		assert.Equal(t, class.Instructor, e.By)
	}
	for _, action := range []string{"marks overridden", "override withdrawn", "proposed marks applied",
		"marks released", "roster imported", "exercise assigned", "marks proposed", "sign-in link created"} {
		assert.True(t, seen[action], action)
	}
}

func numberOf(login string) string {
	for _, s := range demo.Students() {
		if s.Login == login {
			return s.Number
		}
	}
	return ""
}

func mustOverride(t *testing.T, r *room, id string) int64 {
	result, err := r.Result(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, result.Overrides, 1)
	return result.Overrides[0].ID
}

// A class's libraries are its own: source of the class may include them, that of another may not.
func TestLibrariesOfAClass(t *testing.T) {
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bubblewrap is not installed; `make tools` installs it")
	}
	_, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.AddClass(t.Context(), "bare", "A class without libraries")
	require.NoError(t, err)
	require.NoError(t, c.PutMember(t.Context(), "bare", "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	_, err = c.Assign(t.Context(), "bare", "gate-clock", wire.SetAssignment{})
	require.NoError(t, err)
	libraries, err := c.Libraries(t.Context(), lockHouse)
	require.NoError(t, err)
	require.Len(t, libraries, 4)
	source := []byte("#include <GateDigits.h>\nvoid setup() { pinMode(13, OUTPUT); }\nvoid loop() { delay(1000); }\n")
	built := func(in string) *sheet.Sheet {
		r, err := c.Submit(t.Context(), in, "gate-clock",
			client.Work{Student: "oke", File: "clock.ino", Data: source})
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), in, "gate-clock", []string{r.ID}, func(wire.Submission) {}))
		result, err := c.Result(t.Context(), r.ID)
		require.NoError(t, err)
		require.NotNil(t, result.Sheet, "%s %s", result.State, result.Error)
		return result.Sheet
	}
	assert.Empty(t, built(lockHouse).Failed)
	assert.Contains(t, built("bare").Failed, "GateDigits.h")
	require.NoError(t, c.DropLibrary(t.Context(), lockHouse, "GateDigits"))
}

// What classmates share, and the reference has not, is ranked; copies come first.
func TestSharedRoutines(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	for firmware, student := range map[string]string{"haq-interrupts": "haq", "ames-polling": "ames",
		"quill-bounce": "quill", "reyes-too-slow": "reyes"} {
		r.must(r.Client, student, firmware)
	}
	r.must(r.Client, "oke", "haq-interrupts")
	found, err := r.SimilarCode(t.Context(), lockHouse, gauge)
	require.NoError(t, err)
	require.NotEmpty(t, found)
	alone := false
	for _, f := range found {
		var who []string
		for _, in := range f.In {
			who = append(who, in.Student)
		}
		assert.Len(t, who, f.Students)
		alone = alone || slices.Equal(who, []string{"R. Oke", "S. Haq"})
	}
	assert.True(t, alone, "what only the copy has is there: %+v", found)
	assert.Subset(t, []string{"S. Haq", "R. Oke", "M. Reyes"}, []string{found[0].In[0].Student, found[0].In[1].Student},
		"variants of one program come first")
	assert.NotEmpty(t, found[0].In[0].Source)
}

// Values that vary are each student's own, the same every time, on the brief and on the sheet; what they follow from
// never leaves the service.
func TestOwnValues(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	text := strings.Replace(string(x.Text), "bench:\n", "vary:\n  shade: {from: 1, to: 5000}\nbench:\n", 1)
	text = strings.Replace(text, "brief: |\n", "brief: |\n  Your shade is ${shade}.\n", 1)
	require.NotEqual(t, string(x.Text), text)
	_, err = c.PutExercise(t.Context(), x.Name, []byte(text))
	require.NoError(t, err)
	_, err = c.Assign(t.Context(), lockHouse, x.Name, wire.SetAssignment{Revision: 2})
	require.NoError(t, err)
	marsh, oke := servicetest.As(t, c, lockHouse, "marsh"), servicetest.As(t, c, lockHouse, "oke")
	value := func(who *client.Client, student string) string {
		b, err := who.Brief(t.Context(), lockHouse, x.Name, student)
		require.NoError(t, err)
		require.Len(t, b.Values, 1)
		assert.Contains(t, b.Brief, "Your shade is "+b.Values[0].Value+".")
		return b.Values[0].Value
	}
	assert.Equal(t, value(marsh, ""), value(marsh, "oke"), "a student has only their own")
	assert.NotEqual(t, value(marsh, ""), value(oke, ""))
	assert.Equal(t, value(oke, ""), value(c, "oke"), "who marks sees them as the student does")
	r, err := marsh.Submit(t.Context(), lockHouse, x.Name, client.Work{File: "lamps.elf", Data: x.Files[0].Data})
	require.NoError(t, err)
	require.NoError(t, marsh.Wait(t.Context(), lockHouse, x.Name, []string{r.ID}, func(wire.Submission) {}))
	result, err := marsh.Result(t.Context(), r.ID)
	require.NoError(t, err)
	assert.Equal(t, value(marsh, ""), result.Sheet.Values[0].Value)
}
