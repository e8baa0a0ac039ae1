package cli

import (
	"archive/zip"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/service/servicetest"
	"hemble/wire"
)

// An instructor's and a student's way by the command line alone, with the real binary and the real service.
func TestServiceCommands(t *testing.T) {
	binary := servicetest.Binary(t)
	_, address := servicetest.Serve(t, binary, t.TempDir(), "127.0.0.1:0")
	dir := t.TempDir()
	as := func(home string) func(stdin string, args ...string) (string, error) {
		return func(stdin string, args ...string) (string, error) {
			cmd := exec.Command(binary, args...)
			cmd.Env = append(os.Environ(), "HEMBLE_CONFIG="+filepath.Join(dir, home))
			cmd.Stdin = strings.NewReader(stdin)
			out, err := cmd.CombinedOutput()
			return string(out), err
		}
	}
	keeper, student := as("keeper.yaml"), as("student.yaml")
	must := func(run func(string, ...string) (string, error), args ...string) string {
		t.Helper()
		out, err := run("", args...)
		require.NoError(t, err, "%v: %s", args, out)
		return out
	}
	out, err := keeper("", "results", "boat-lamps")
	assert.Error(t, err)
	assert.Contains(t, out, "not signed in")
	out, err = keeper("wrong\n", "login", address)
	assert.Error(t, err)
	assert.Contains(t, out, "login or password is wrong")
	out, err = keeper("wherry-lock\n", "login", address)
	require.NoError(t, err, out)
	info, err := os.Stat(filepath.Join(dir, "keeper.yaml"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	must(keeper, "class", "add", "lock-house", "Wherry Lock")
	out, err = keeper("", "status")
	assert.Error(t, err)
	assert.Contains(t, out, "which class?")
	must(keeper, "class", "use", "lock-house")
	roster := filepath.Join(dir, "roster.csv")
	require.NoError(t,
		os.WriteFile(roster,
			[]byte("login,name,number,group\nmarsh,A. Marsh,1,morning\noke,R. Oke,2,evening\nosei,L. Osei,3,evening\nbad login,x,,\n"), 0o600))
	out, err = keeper("", "class", "roster", roster)
	assert.Error(t, err, "a row is wrong")
	assert.Contains(t, out, "roster.csv:5: a login is")
	assert.Contains(t, out, "3 new, 0 changed, 0 missing, 1 wrong; taken in")
	assert.Contains(t, must(keeper, "class", "members"), "oke")
	assert.Regexp(t, `^[A-Z2-9]{4}-[A-Z2-9]{4}\n$`, must(keeper, "class", "join-code"))
	assert.Contains(t, must(keeper, "exercise", "import", course+"boat-lamps", course+"chamber-gauge/exercise.yaml"),
		"boat-lamps, revision 1\nchamber-gauge, revision 1\n")
	assert.Contains(t, must(keeper, "exercise", "list"), "Boat signal lamps")
	assert.Contains(t, must(keeper, "exercise", "export", "boat-lamps"), "hemble: 1")
	folder := filepath.Join(dir, "boat-lamps.zip")
	must(keeper, "exercise", "export", "--to", folder, "boat-lamps")
	z, err := zip.OpenReader(folder)
	require.NoError(t, err)
	assert.Greater(t, len(z.File), 5, "the folder's firmware and source, too")
	z.Close()
	assert.Contains(t, must(keeper, "exercise", "import", folder), "boat-lamps, revision 1\n",
		"out and in again is no change")
	assert.Contains(t, must(keeper, "exercise", "assign", "--due", "2099-02-28 18:00", "--late", "per-day", "--per-day",
		"10", "--show-marks", "on-release", "boat-lamps"), "due 2099-02-28 18:00, closes –, late: per-day")
	assert.Contains(t, must(keeper, "exercise", "assign", "--attempts", "5", "boat-lamps"), "due 2099-02-28 18:00",
		"what is not named stays")
	out, err = keeper("", "exercise", "assign", "--due", "tomorrow", "boat-lamps")
	assert.Error(t, err)
	assert.Contains(t, out, `"tomorrow" is no time`)
	must(keeper, "exercise", "extend", "--attempts", "2", "--reason", "was ill", "boat-lamps", "oke")

	work := func(name, of string) string { // a file of the course under a name of its own
		data, err := os.ReadFile(course + "boat-lamps/firmware/" + of)
		require.NoError(t, err)
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, data, 0o600))
		return path
	}
	out, err = keeper("", "submit", "boat-lamps", course+"boat-lamps/firmware/marsh-waits.hex")
	assert.Error(t, err, "waits may be somebody's name")
	assert.Contains(t, out, "perhaps marsh (login); say --whose marsh-waits.hex=LOGIN")
	out, err = keeper("", "submit", "--wait", "boat-lamps", work("marsh lamps.hex", "marsh-waits.hex"),
		work("oke.hex", "oke-half-speed.hex"), work("ink.hex", "oke-half-speed.hex"))
	assert.Error(t, err, "a part was not submitted")
	assert.Contains(t, out, "1 of 3 files were not submitted")
	assert.Regexp(t, `✓ A. Marsh\s+marsh lamps.hex\s+#1\s+10 / 10`, out)
	out, err = keeper("", "submit", "boat-lamps", course+"boat-lamps/firmware/wain-green-input.hex")
	assert.Error(t, err)
	assert.Contains(t, out, "wain-green-input.hex: not submitted: no match in the class; say --whose")
	must(keeper, "submit", "--wait", "--whose", "Osei, A. (green).hex=osei", "boat-lamps",
		work("Osei, A. (green).hex", "wain-green-input.hex"))
	out, err = keeper("", "submit", "no-such", course+"boat-lamps/firmware/marsh-waits.hex")
	assert.Error(t, err)
	assert.Contains(t, out, "nothing found at this address")

	link := strings.Fields(must(keeper, "class", "link", "oke"))[1]
	out, err = student(link+"\n", "login", "--link-stdin", address)
	require.NoError(t, err, out)
	assert.Contains(t, out, "signed in to "+address+" as oke")
	assert.Contains(t, out, "the class is lock-house")
	assert.Contains(t, must(student, "status"), "6 attempts left")
	task := must(student, "task", "boat-lamps")
	assert.Contains(t, task, "Boat signal lamps, 10 marks\ndue 2099-02-28 18:00")
	assert.Contains(t, task, "Two lamps tell boats whether they may enter")
	assert.Regexp(t, `PB0 \(14\)\s+red anode`, task)
	assert.Contains(t, must(keeper, "task", "--student", "oke", "--format", "json", "boat-lamps"),
		`"title": "Boat signal lamps"`)
	_, err = student("", "task", "no-such")
	assert.Error(t, err)
	out = must(student, "submit", "--wait", "--comment", "now at full speed", "boat-lamps",
		course+"boat-lamps/firmware/marsh-waits.elf")
	assert.Contains(t, out, "#2")
	assert.NotContains(t, out, "10 / 10", "marks are released later")
	out, err = student("", "gradebook")
	assert.Error(t, err)
	assert.Contains(t, out, "your account may not do this")

	var list []wire.Submission
	require.NoError(t, json.Unmarshal([]byte(must(keeper, "results", "--format", "json", "boat-lamps")), &list))
	require.Len(t, list, 4)
	assert.Equal(t, "now at full speed", list[3].Comment)
	must(keeper, "exercise", "release", "boat-lamps")
	assert.Contains(t, must(student, "results", "boat-lamps"), "10 / 10")
	assert.Regexp(t, `boat-lamps /10\s+total`, must(keeper, "gradebook", "--exercise", "boat-lamps"))
	assert.Regexp(t, `R. Oke\s+10`, must(keeper, "gradebook", "--exercise", "boat-lamps"))
	assert.Contains(t, must(keeper, "gradebook", "--csv"), "oke,R. Oke,2,evening,10,10\n")
	school := filepath.Join(dir, "school.csv")
	require.NoError(t, os.WriteFile(school, []byte("Number,Lab\n2,\n1,\n"), 0o600))
	out = must(keeper, "gradebook", "--fill", school, "--column", "Lab", "--exercise", "boat-lamps")
	assert.Contains(t, out, "2,10\n1,10\n")
	assert.Contains(t, out, "2 marks filled in")
	sheets := filepath.Join(dir, "sheets.zip")
	must(keeper, "gradebook", "--exercise", "boat-lamps", "--sheets", sheets)
	z, err = zip.OpenReader(sheets)
	require.NoError(t, err)
	assert.Len(t, z.File, 3)
	z.Close()
	assert.Contains(t, must(keeper, "mark-again", "boat-lamps"), "0 would change, 4 stay the same")
	assert.Contains(t, must(keeper, "mark-again", "--discard", "boat-lamps"), "is closed")

	backup := filepath.Join(dir, "backup.tar.gz")
	must(keeper, "backup", backup)
	out, err = keeper("", "backup", backup)
	assert.Error(t, err, "no backup goes over another: %s", out)
	must(keeper, "restore", "--data", filepath.Join(dir, "restored"), backup)
	_, again := servicetest.Serve(t, binary, filepath.Join(dir, "restored"), "127.0.0.1:0")
	other := as("other.yaml")
	out, err = other("wherry-lock\n", "login", again)
	require.NoError(t, err, out)
	assert.Equal(t, must(keeper, "gradebook"), must(other, "gradebook"))

	// The environment goes before the file.
	token := exec.Command(binary, "results", "boat-lamps")
	token.Env = append(os.Environ(), "HEMBLE_CONFIG="+filepath.Join(dir, "none.yaml"), "HEMBLE_SERVER="+address,
		"HEMBLE_TOKEN=made-up", "HEMBLE_CLASS=lock-house")
	text, err := token.CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(text), "sign in first")
	must(student, "logout")
	out, err = student("", "status")
	assert.Error(t, err)
	assert.Contains(t, out, "not signed in")
	assert.Contains(t, must(keeper, "completion", "bash"), "hemble")
}
