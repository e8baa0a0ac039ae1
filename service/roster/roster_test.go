package roster

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/wire"
)

func TestReadAndWrite(t *testing.T) {
	students, wrong, err := Read([]byte("\xef\xbb\xbfName;Extra;LOGIN;number\r\nR. Oke;x;Oke;4001\r\n\r\nV. Stroud;;stroud;\r\nTwice;;oke;\r\nNo Login;;;\r\n;;haq;\r\n"))
	require.NoError(t, err)
	require.Len(t, students, 2)
	assert.Equal(t, wire.Member{Login: "oke", Name: "R. Oke", Role: wire.Student, Number: "4001"}, students[0])
	require.Len(t, wrong, 3)
	assert.Contains(t, wrong[0].Text, "oke is in row 2, too")
	assert.Contains(t, wrong[1].Text, "a login is")
	assert.Contains(t, wrong[2].Text, "a name has")

	students[1].Name, students[1].Group = "=HYPERLINK(1)", "-2+3"
	var b bytes.Buffer
	require.NoError(t, Write(&b, append(students, wire.Member{Login: "keeper", Role: wire.Instructor})))
	assert.Equal(t, "login,name,number,group\noke,R. Oke,4001,\nstroud,'=HYPERLINK(1),,'-2+3\n", b.String())
	again, wrong, err := Read(b.Bytes())
	require.NoError(t, err)
	assert.Empty(t, wrong)
	assert.Equal(t, students, again, "out and in again")

	for text, want := range map[string]string{"": "empty", "name\nx": `no heading "login"`, "login\nx": `no heading "name"`, "login,name\n\"x": "no CSV", "login,name\nx,\xff": "not UTF-8"} {
		_, _, err := Read([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}

func TestMatching(t *testing.T) {
	m := NewMatcher([]wire.Member{
		{Login: "oke", Name: "Rosa Oke", Number: "4001", Role: wire.Student}, {Login: "ok", Name: "Olga Kern", Role: wire.Student},
		{Login: "s17", Name: "Jörg Müller-Lüdenscheidt", Number: "4003", Role: wire.Student}, {Login: "s18", Name: "Jörg Meier", Role: wire.Student},
		{Login: "s19", Name: "Anna Schmidt", Role: wire.Student}, {Login: "s20", Name: "Anna Schmitt", Role: wire.Student}, {Login: "keeper", Name: "I. Keeper", Role: wire.Instructor},
	})
	for path, want := range map[string]Match{
		"oke-lamps.hex": {"oke", "login", true}, "Lab 2/4003_file/main.c": {"s17", "number", true}, "rosa oke final.elf": {"oke", "login", true}, "Schmidt Anna_991_file/x.hex": {"s19", "name", true},
		"Mueller-Luedenscheid Joerg.hex": {"s17", "near name", false}, "jorg_meier.hex": {"s18", "name", true}, "Schmid Anna.hex": Nobody, "keeper.hex": Nobody, "final version.hex": Nobody, "": Nobody,
		"oke and ok.hex": Nobody, "token.hex": Nobody,
	} {
		got := m.Match(path)
		if path == "Schmid Anna.hex" { // equally near to two
			assert.False(t, got.Sure, path)
			continue
		}
		if path == "oke and ok.hex" {
			assert.False(t, got.Sure, "two logins: nobody's for sure")
			continue
		}
		assert.Equal(t, want, got, path)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("login,name\noke,R. Oke\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		students, _, err := Read(text)
		if err != nil {
			return
		}
		var b bytes.Buffer
		require.NoError(t, Write(&b, students))
		again, wrong, err := Read(b.Bytes())
		require.NoError(t, err)
		assert.Empty(t, wrong)
		assert.Len(t, again, len(students))
	})
}

func FuzzMatch(f *testing.F) {
	m := NewMatcher([]wire.Member{{Login: "oke", Name: "Rosa Oke", Role: wire.Student}, {Login: "s17", Name: "Jörg Müller", Number: "4003", Role: wire.Student}})
	f.Add("oke.hex")
	f.Fuzz(func(t *testing.T, path string) { m.Match(path) })
}
