package pic14

import (
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

var variants = map[string]*Variant{"16f877a": PIC16F877A, "16f887": PIC16F887, "16f88": PIC16F88, "16f628a": PIC16F628A}

// assemble makes an image of a file of testdata.
func assemble(t testing.TB, device, name string) *firmware.Image {
	t.Helper()
	out := filepath.Join(t.TempDir(), "out.hex")
	said, err := exec.Command("gpasm", "-p", device, "-w", "1", "-o", out, filepath.Join("testdata", name)).CombinedOutput()
	require.NoError(t, err, "%s", said)
	file, err := os.ReadFile(out)
	require.NoError(t, err)
	im, err := firmware.Read(file, variants[device].layout())
	require.NoError(t, err)
	return im
}

func runBoth(t testing.TB, v *Variant, im *firmware.Image, length clock.Time, stops int, seed int64) (machine.Stop,
	machine.Counters) {
	t.Helper()
	end, fast, _, err := machinetest.Both(func(c machine.Config) machine.Machine { return newMachine(v, c) }, im,
		8*len(v.ports), length, stops, seed)
	require.NoError(t, err)
	return end, fast
}

// Programs in the manners of several tools, the fast way and the plain one, with random inputs at random stops.
func TestFastEqualsPlain(t *testing.T) {
	for _, x := range []struct{ device, name string }{{"16f877a", "scan.asm"}, {"16f887", "scan.asm"},
		{"16f628a", "chart.asm"}, {"16f88", "timers.asm"}, {"16f877a", "timers.asm"}, {"16f887", "timers.asm"},
		{"16f877a", "dimmed.asm"}, {"16f887", "dimmed.asm"}, {"16f628a", "dimmed.asm"}, {"16f88", "dimmed.asm"}} {
		t.Run(x.device+" "+x.name, func(t *testing.T) {
			im := assemble(t, x.device, x.name)
			end, fast := runBoth(t, variants[x.device], im, 2*clock.Second, 300, 5)
			assert.Equal(t, machine.Reached, end.Reason, end.Text)
			t.Logf("%d instructions for %d cycles, %d edges", fast.Instructions, fast.Cycles, fast.Edges)
			assert.Greater(t, fast.Edges, int64(20))
		})
	}
}

// randomImage fills flash with random words, most of them instructions that stay where they are.
func randomImage(seed int64, words int) *firmware.Image {
	random := rand.New(rand.NewSource(seed))
	data := make([]byte, 2*(64+random.Intn(words-64)))
	random.Read(data)
	for i := 0; i+1 < len(data); i += 2 {
		data[i+1] &= 0x3f
		if data[i+1]>>4 == 2 && random.Intn(3) > 0 {
			data[i+1] &= 0x0f
		}
		if data[i+1] == 0x3b || data[i+1] == 0 && data[i]&0x80 == 0 { // words that are no instructions
			data[i+1] = 0x0a
		}
	}
	return &firmware.Image{Flash: []firmware.Segment{{Data: data}}, Fuses: []byte{data[0], data[1]}}
}

func TestFastEqualsPlainOnRandomFlash(t *testing.T) {
	for name, v := range variants {
		t.Run(name, func(t *testing.T) {
			for seed := range int64(120) {
				runBoth(t, v, randomImage(seed, v.words), 20*clock.Millisecond, 12, seed)
			}
		})
	}
}

// FuzzFlash runs any flash contents: never a panic, a hang or a difference between interpreters.
func FuzzFlash(f *testing.F) {
	f.Add([]byte{0x00, 0x20}, []byte{0x72, 0x3f}, int64(1))
	f.Add([]byte{0x63, 0x00, 0x00, 0x28}, []byte{}, int64(2))
	f.Add([]byte{0xa0, 0x0b, 0x00, 0x28, 0x8b, 0x17}, []byte{0xff, 0x3f, 0xff}, int64(3))
	f.Fuzz(func(t *testing.T, data, fuses []byte, seed int64) {
		if len(data) == 0 || len(data) > 4096 {
			return
		}
		im := &firmware.Image{Flash: []firmware.Segment{{Data: data}}, Fuses: fuses}
		for _, v := range variants {
			runBoth(t, v, im, 2*clock.Millisecond, 5, seed&0xffff)
		}
	})
}

// Files that a chip does not take: a reason, and nothing else.
func TestLoadRefuses(t *testing.T) {
	m := newMachine(PIC16F628A, machine.Config{})
	for want, im := range map[string]*firmware.Image{
		"up to 0x0800; the PIC16F628A ends at 0x07FF": {Flash: []firmware.Segment{{Address: 0xffe, Data: make([]byte, 4)}}},
		"EEPROM up to 0x80":                           {EEPROM: []firmware.Segment{{Address: 0x80, Data: []byte{1}}}},
		"another kind of chip":                        {Machine: firmware.MachineAVR},
	} {
		err := m.Load(im)
		require.Error(t, err)
		assert.Contains(t, err.Error(), want)
	}
	for _, x := range []struct{ file, want string }{
		{":02100000FF3FB0\n:00000001FF\n", "line 1: address 0x1000 is in no memory"},
		{":02401200FF3F6E\n:00000001FF\n", "address 0x4012"},
		{":0200000001280000D5\n", "announces 2 data bytes"},
		{":020000000128D5\n:020000000228D4\n:00000001FF\n", "two records give bytes for address 0x0000"},
		{":020010000128C5\n:020010000228C4\n:00000001FF\n", "two records give bytes for address 0x0008"},
	} {
		_, err := firmware.Read([]byte(x.file), PIC16F628A.layout())
		if assert.Error(t, err) {
			assert.Contains(t, err.Error(), x.want)
		}
	}
	// Records that run on from one memory into the next, identification and settings in one: all taken.
	im, err := firmware.Read([]byte(":020000000128D5\n:1040000000000F000F000000000000000000703FE3\n:00000001FF\n"),
		PIC16F628A.layout())
	require.NoError(t, err)
	assert.Equal(t, []byte{0x70, 0x3f}, im.Fuses)
}
