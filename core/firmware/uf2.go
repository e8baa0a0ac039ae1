package firmware

import (
	"encoding/binary"
	"fmt"
)

// UF2 is a file of blocks of 512 bytes, each with where its bytes go ("USB Flashing Format (UF2)", the published
// specification).
const (
	uf2Block = 512
	uf2Most  = 476 // bytes that a block may carry
	uf2First = 0x0a324655
	uf2Again = 0x9e5d5157
	uf2Last  = 0x0ab16f30

	uf2NotFlash = 0x0001
	uf2File     = 0x1000 // a file of a container
	uf2Family   = 0x2000 // the block says for which chips it is
)

// readUF2 reads UF2. Errors name the block. Blocks for other chips, or that are not for flash, are passed over.
func readUF2(file []byte, layout Layout) (*Image, error) {
	if len(file)%uf2Block != 0 {
		return nil, fmt.Errorf("the file has %d bytes; UF2 has whole blocks of %d: it may be cut off", len(file), uf2Block)
	}
	var flash layer
	others, last := 0, -1
	for i := 0; i*uf2Block < len(file); i++ {
		b := file[i*uf2Block:][:uf2Block]
		word := func(at int) uint32 { return binary.LittleEndian.Uint32(b[at:]) }
		flags, address, n := word(8), word(12), word(16)
		number, count, family := word(20), word(24), word(28)
		switch {
		case word(0) != uf2First || word(4) != uf2Again || word(508) != uf2Last:
			return nil, fmt.Errorf("block %d does not begin and end as blocks of UF2 do", i)
		case flags&(uf2NotFlash|uf2File) != 0:
			continue
		case n > uf2Most:
			return nil, fmt.Errorf("block %d says that it has %d bytes; there is room for %d", i, n, uf2Most)
		case number >= count || count > uint32(len(file)/uf2Block):
			return nil, fmt.Errorf("block %d says that it is number %d of %d; the file has %d", i, number, count,
				len(file)/uf2Block)
		case flags&uf2Family != 0 && layout.Family != 0 && family != layout.Family:
			others++
			continue
		case int(number) <= last:
			return nil, fmt.Errorf("block %d says that it is number %d, behind number %d", i, number, last)
		}
		last = int(number)
		r := layout.at(uint64(address))
		if r.Kind != Flash || uint64(address)+uint64(n) > 1<<32 {
			return nil, fmt.Errorf("block %d goes to 0x%08X, which is in no flash of the chip", i, address)
		}
		flash.add(r.address(uint64(address)), b[32:32+n])
	}
	segments, err := flash.sorted(layout)
	if err != nil {
		return nil, err
	}
	if segments = trimErased(segments, layout.Erased); len(segments) == 0 {
		if others > 0 {
			return nil, fmt.Errorf("all %d blocks of the file are for another kind of chip", others)
		}
		return nil, fmt.Errorf("the file has no bytes for flash")
	}
	return &Image{Format: "uf2", Flash: segments}, nil
}
