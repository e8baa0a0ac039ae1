package netlist

import (
	"encoding/json"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const small = `{"ports":{"clk":{"direction":"input","bits":[2]},"q":{"direction":"output","offset":4,"upto":1,"bits":[3,"1","x"]}},
"cells":{"$1":{"type":"$dff","parameters":{"WIDTH":"1","CLK_POLARITY":1},"attributes":{"src":"/source/a.v:0.0-0.0|/source/a.v:3.7-3.9"},
"connections":{"CLK":[2],"D":[4],"Q":[3]}}},
"netnames":{"state":{"bits":[3],"attributes":{"init":"1"}},"s":{"hide_name":1,"bits":[3]}}}`

func TestReadModule(t *testing.T) {
	d, err := ReadModule([]byte(small))
	require.NoError(t, err)
	require.Len(t, d.Ports, 2)
	q := d.Ports[1]
	assert.Equal(t, []Bit{3, One, None}, q.Bits)
	assert.Equal(t, []string{"q[6]", "q[5]", "q[4]"}, []string{q.Bit(0), q.Bit(1), q.Bit(2)})
	assert.Equal(t, "clk", d.Ports[0].Bit(0))
	require.Len(t, d.Cells, 1)
	c := d.Cells[0]
	assert.Equal(t, Cell{Name: "$1", Type: "$dff", Parameters: map[string]string{"WIDTH": "1", "CLK_POLARITY": "1"},
		Ports: map[string][]Bit{"CLK": {2}, "D": {4}, "Q": {3}}, Place: Place{"/source/a.v", 3, 7}}, c)
	assert.Equal(t, map[Bit]bool{3: true}, d.Init)
	assert.Equal(t, "q", d.Name([]Bit{3}))
	assert.Equal(t, "", d.Name([]Bit{4}))
}

func TestWriteAndRead(t *testing.T) {
	pins, pulls := map[string]string{"clk": "E3", "q[4]": "H17"}, map[string]string{"clk": PullUp}
	file, err := Write([]byte(small), pins, pulls, nil, nil)
	require.NoError(t, err)
	assert.True(t, Is(file))
	d, err := Read(file)
	require.NoError(t, err)
	assert.Equal(t, pins, d.Pins)
	assert.Equal(t, pulls, d.Pulls)
	module, err := ReadModule([]byte(small))
	require.NoError(t, err)
	assert.Equal(t, module.Cells, d.Cells)
	assert.Empty(t, d.Narrow)

	narrow := []Narrow{{Register: "wait_second", Bits: 26, Needs: 27}}
	file, err = Write([]byte(small), pins, pulls, narrow, []byte(small))
	require.NoError(t, err)
	d, err = Read(file)
	require.NoError(t, err)
	assert.Equal(t, narrow, d.Narrow)
	assert.Equal(t, module.Cells, d.Wider.Cells)
}

func TestDamaged(t *testing.T) {
	for text, want := range map[string]string{
		`{"hemble-design":1,`:              "the design is damaged",
		`{"hemble-design":2,"module":{}}`:  "version 2; version 1 is known here",
		`{"hemble-design":1,"module":"x"}`: "the netlist is damaged",
		`{"hemble-design":1,"module":{},"narrow":[{"register":"a<b","bits":1,"needs":2}]}`:          "a narrow register \"a<b\" of 1 bits",
		`{"hemble-design":1,"module":{},"narrow":[{"register":"a","bits":1,"needs":2}],"wider":[]}`: "the netlist is damaged",
		`{"hemble-design":1,"module":{"ports":{"a":{"bits":[-5]}}}}`:                                "-5 is no bit of a netlist",
	} {
		_, err := Read([]byte(text))
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want)
	}
	wide := `{"ports":{"a":{"direction":"input","bits":[2` + strings.Repeat(",2", maxWidth) + `]}}}`
	_, err := ReadModule([]byte(wide))
	assert.ErrorContains(t, err, "too many bits")
}

// Whatever is read can be written, and is read as the same again.
func FuzzDesign(f *testing.F) {
	module, err := Write([]byte(small), map[string]string{"clk": "E3"}, map[string]string{},
		[]Narrow{{Register: "n", Bits: 2, Needs: 3}}, []byte(small))
	require.NoError(f, err)
	f.Add(module)
	course, err := filepath.Glob("../../demo/course/*/firmware/*.design")
	require.NoError(f, err)
	require.NotEmpty(f, course)
	for _, name := range course {
		data, err := os.ReadFile(name)
		require.NoError(f, err)
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Read(data)
		if err != nil {
			return
		}
		var raw struct {
			Module json.RawMessage `json:"module"`
			Wider  json.RawMessage `json:"wider"`
		}
		require.NoError(t, json.Unmarshal(data, &raw))
		again, err := Write(raw.Module, d.Pins, d.Pulls, d.Narrow, raw.Wider)
		require.NoError(t, err)
		e, err := Read(again)
		require.NoError(t, err)
		assert.Equal(t, d.Ports, e.Ports)
		assert.Equal(t, d.Cells, e.Cells)
		assert.Equal(t, d.Init, e.Init)
		assert.Equal(t, d.Narrow, e.Narrow)
		assert.Equal(t, d.Wider, e.Wider)
		assert.True(t, maps.Equal(d.Pins, e.Pins))
		assert.Equal(t, slices.Sorted(maps.Keys(d.Names)), slices.Sorted(maps.Keys(e.Names)))
	})
}

// Another module, or none, is left as it is; what is no netlist is told.
func TestNumbered(t *testing.T) {
	from := 3
	ports := map[string]Range{"q": {Up: true, Left: &from}}
	file := []byte(`{"modules":{"top":{"ports":{"q":{"direction":"output","bits":[2,3]}}}}}`)
	same, err := Numbered(file, "gate", ports)
	require.NoError(t, err)
	assert.JSONEq(t, string(file), string(same))
	made, err := Numbered(file, "top", ports)
	require.NoError(t, err)
	assert.JSONEq(t, `{"modules":{"top":{"ports":{"q":{"direction":"output","bits":[2,3],"offset":3,"upto":1}}}}}`,
		string(made))
	for _, bad := range []string{"", "[]", `{"modules":7}`, `{"modules":{"top":{"ports":[]}}}`} {
		_, err = Numbered([]byte(bad), "top", ports)
		assert.ErrorContains(t, err, "the netlist is damaged", bad)
	}
}
