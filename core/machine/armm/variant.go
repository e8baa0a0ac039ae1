package armm

// Variant is what differs between the cores of ARMv6-M: the cycles of what branches and waits, and what they have.
type Variant struct {
	Branch  int64 // a branch that is taken, BX and BLX among them, and a move to the program counter
	Link    int64 // BL
	Return  int64 // POP with the program counter, beside a cycle for each register
	Special int64 // MRS, MSR and barriers
	Enter   int64 // into an exception
	Leave   int64 // out of one
	Chain   int64 // out of one and into the next
	Port    bool  // a single-cycle port for I/O, from 0xD0000000 on
	Vectors bool  // VTOR
}

// The cores: DDI 0484C, tables 3-1 and 3-2 (Cortex-M0+), DDI 0432C, table 3-1 (Cortex-M0), for memory without wait
// states and a multiplier of one cycle. Neither says what leaving and chaining take: leaving takes the eight words that
// are unstacked, and two cycles; where one exception follows another, what both take without the sixteen words.
var (
	CortexM0Plus = Variant{Branch: 2, Link: 3, Return: 3, Special: 3, Enter: 15, Leave: 10, Chain: 9, Port: true,
		Vectors: true}
	CortexM0 = Variant{Branch: 3, Link: 4, Return: 4, Special: 4, Enter: 16, Leave: 10, Chain: 10}
)
