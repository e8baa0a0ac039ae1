package machine

// Native compiles WebAssembly to instructions of the processor that all this runs on. Chips translate to it what a
// program computes all the time. It brings speed and nothing else: where there is none, chips interpret, with the same
// results.
type Native interface {
	// Compile takes a module as package wasm writes it.
	Compile(module []byte) (Compiled, error)
}

// Compiled is a module that was compiled, for any number of machines.
type Compiled interface {
	// Bind has it work on the memory of one machine, whose length is that of the module's.
	Bind(memory []byte) (Bound, error)
}

// Bound is a function that works on the memory of a machine.
type Bound interface {
	// Call takes parameters and gives results in the same places. An error means that the module is wrong.
	Call(stack []uint64) error
	Close()
}

// native is what SetNative was given.
var native Native

// SetNative has chips translate programs from now on. It is called before any machine is made.
func SetNative(n Native) { native = n }

// Translator gives what compiles translations, or nil.
func Translator() Native { return native }
