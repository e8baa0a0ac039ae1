//go:build (linux || darwin) && (amd64 || arm64) && !interpreted

package native_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine"
	"hemble/core/machine/wasm"
	_ "hemble/native"
)

// sum adds the first so many bytes of the memory, and leaves the sum behind them and in a global variable, which it
// gives as it was, too.
func sum() []byte {
	var c wasm.Code
	const n, total = 0, 1
	c.GetGlobal(0)
	c.Block()
	c.Loop()
	c.Get(n)
	c.Op(wasm.Eqz)
	c.BrIf(1)
	c.Get(n)
	c.Const(1)
	c.Op(wasm.Sub)
	c.Tee(n)
	c.Load8(0)
	c.Get(total)
	c.Op(wasm.Add)
	c.Set(total)
	c.Br(0)
	c.End()
	c.End()
	c.Const(100)
	c.Get(total)
	c.Store16(0)
	c.Get(total)
	c.SetGlobal(0)
	c.Get(total)
	return c.Module(1, 2, 1, 1, 1)
}

func TestOneModuleForManyMemories(t *testing.T) {
	compiled, err := machine.Translator().Compile(sum())
	require.NoError(t, err)
	for i := range 3 {
		memory := make([]byte, 0x10000)
		memory[0], memory[1], memory[2] = 200, 100, byte(i)
		b, err := compiled.Bind(memory)
		require.NoError(t, err)
		stack := []uint64{3, 0}
		require.NoError(t, b.Call(stack))
		assert.EqualValues(t, []uint64{0, 300 + uint64(i)}, stack)
		assert.Equal(t, []byte{byte(300 + i), 1}, memory[100:102], "the same memory")
		stack = []uint64{1, 0}
		require.NoError(t, b.Call(stack))
		assert.EqualValues(t, []uint64{300 + uint64(i), 200}, stack, "its own variables")
		b.Close()
	}
}

func TestWhatIsNoModuleIsRefused(t *testing.T) {
	for _, bad := range [][]byte{nil, {1, 2, 3}, sum()[:20]} {
		_, err := machine.Translator().Compile(bad)
		assert.ErrorContains(t, err, "does not compile")
	}
	compiled, err := machine.Translator().Compile(sum())
	require.NoError(t, err)
	_, err = compiled.Bind(make([]byte, 100))
	assert.EqualError(t, err, "the module has a memory of 65536 bytes, not of 100")
}
