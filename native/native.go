//go:build (linux || darwin) && (amd64 || arm64) && !interpreted

package native

import (
	"context"
	"fmt"

	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
	"github.com/tetratelabs/wazero/experimental"

	"hemble/core/machine"
)

func init() { machine.SetNative(&compiler{}) }

type compiler struct{}

// Compile gives each module a runtime of its own, so that one that is no longer used goes with what it holds. Where the
// system lets no memory hold instructions that were made here, wazero panics: that is an error like others.
func (*compiler) Compile(module []byte) (c machine.Compiled, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("the module does not compile: %v", p)
		}
	}()
	ctx := context.Background()
	r := wazero.NewRuntimeWithConfig(ctx, wazero.NewRuntimeConfigCompiler().WithMemoryCapacityFromMax(true))
	m, err := r.CompileModule(ctx, module)
	if err != nil {
		return nil, fmt.Errorf("the module does not compile: %w", err)
	}
	return &compiled{r, m}, nil
}

type compiled struct {
	runtime wazero.Runtime
	module  wazero.CompiledModule
}

func (c *compiled) Bind(memory []byte) (machine.Bound, error) {
	size := uint64(0)
	ctx := experimental.WithMemoryAllocator(context.Background(),
		experimental.MemoryAllocatorFunc(func(_, most uint64) experimental.LinearMemory {
			if size = most; size != uint64(len(memory)) {
				return given(make([]byte, size))
			}
			return given(memory)
		}))
	m, err := c.runtime.InstantiateModule(ctx, c.module, wazero.NewModuleConfig().WithName(""))
	if err != nil {
		return nil, fmt.Errorf("the module does not start: %w", err)
	}
	if size != uint64(len(memory)) {
		_ = m.Close(ctx)
		return nil, fmt.Errorf("the module has a memory of %d bytes, not of %d", size, len(memory))
	}
	return &bound{m, m.ExportedFunction("run")}, nil
}

// given is a memory that is there already.
type given []byte

func (g given) Reallocate(size uint64) []byte {
	if size > uint64(len(g)) {
		return nil
	}
	return g[:size:size]
}

func (given) Free() {}

type bound struct {
	module api.Module
	run    api.Function
}

func (b *bound) Call(stack []uint64) error { return b.run.CallWithStack(context.Background(), stack) }

func (b *bound) Close() { _ = b.module.Close(context.Background()) }
