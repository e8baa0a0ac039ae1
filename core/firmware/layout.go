package firmware

// Memory is a kind of memory that a firmware file fills.
type Memory uint8

// The memories.
const (
	Flash Memory = iota
	RAM
	EEPROM
	Fuses
	Ignored // what a chip has there is not modelled
)

// Region is a stretch of a file's addresses, up to where the next one begins.
type Region struct {
	From  uint64
	Kind  Memory
	Shown uint64 // the address at which the chip itself has it
}

// Layout says where the addresses of a chip's firmware files belong.
type Layout struct {
	Regions []Region // in the order of From; the first one begins at 0
	Erased  byte     // of flash that was never programmed
	Family  uint32   // by which blocks of UF2 know the chip; 0 where there are none for it
	// Raw tells whether a file is a plain copy of flash, and from where on; nil where nothing tells one.
	Raw func(file []byte) (from uint32, ok bool)
}

// address is where the chip has what a file has at an address.
func (r Region) address(at uint64) uint32 { return uint32(at - r.From + r.Shown) }

// at is the region of an address.
func (l Layout) at(address uint64) (r Region) {
	for _, next := range l.Regions {
		if address < next.From {
			break
		}
		r = next
	}
	return r
}
