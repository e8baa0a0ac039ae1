package roster

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/wire"
)

func TestReadAndWrite(t *testing.T) {
	read, err := Read([]byte("\xef\xbb\xbfName;Extra;LOGIN;number\r\nR. Oke;x;Oke;4001\r\n\r\nV. Stroud;;stroud;\r\nTwice;;oke;\r\nNo Login;;;\r\n;;haq;\r\n"))
	require.NoError(t, err)
	students, wrong := read.Members, read.Wrong
	require.Len(t, students, 2)
	assert.Equal(t, wire.Member{Login: "oke", Name: "R. Oke", Role: wire.Student, Number: "4001"}, students[0])
	require.Len(t, wrong, 3)
	assert.Contains(t, wrong[0].Text, "oke is in line 2, too")
	assert.Contains(t, wrong[1].Text, "a login is")
	assert.Contains(t, wrong[2].Text, "a name has")

	students[1].Name, students[1].Group = "=HYPERLINK(1)", "-2+3"
	var b bytes.Buffer
	require.NoError(t, Write(&b, append(students, wire.Member{Login: "keeper", Role: wire.Instructor})))
	assert.Equal(t, "login,name,number,group\noke,R. Oke,4001,\nstroud,'=HYPERLINK(1),,'-2+3\n", b.String())
	again, err := Read(b.Bytes())
	require.NoError(t, err)
	assert.Empty(t, again.Wrong)
	assert.Equal(t, students, again.Members, "out and in again")

	old, err := Read([]byte("login;name\nmueller;J\xf6rg M\xfcller\n"))
	require.NoError(t, err)
	assert.Equal(t, "Jörg Müller", old.Members[0].Name)
	assert.Equal(t, "Windows-1252", string(old.Encoding))

	for text, want := range map[string]string{"": "empty", "name\nx": `no heading "login"`,
		"login\nx": `no heading "name"`, "login,name\n\"x": "line 2: a quote is opened and not closed"} {
		_, err := Read([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("login,name\noke,R. Oke\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		read, err := Read(text)
		if err != nil {
			return
		}
		var b bytes.Buffer
		require.NoError(t, Write(&b, read.Members))
		again, err := Read(b.Bytes())
		require.NoError(t, err)
		assert.Empty(t, again.Wrong)
		assert.Len(t, again.Members, len(read.Members))
	})
}
