package firmware

import (
	"bytes"
	"debug/elf"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
)

// MachineAVR is e_machine of AVR ELF files (EM_AVR).
const MachineAVR = uint16(elf.EM_AVR)

// MachineARM is e_machine of Arm ELF files (EM_ARM).
const MachineARM = uint16(elf.EM_ARM)

// MachinePIC is e_machine of 8-bit PICs (EM_MCHP_PIC), which stands for them where a file is no ELF file, too.
const MachinePIC = uint16(204)

// readELF reads an executable ELF file: its loadable segments at their load addresses, its symbols
// and its DWARF.
func readELF(file []byte, layout Layout) (im *Image, err error) {
	defer func() { // debug/elf and debug/dwarf may panic on damaged input
		if r := recover(); r != nil {
			im, err = nil, fmt.Errorf("damaged ELF file: %v", r)
		}
	}()
	if err := checkSections(file); err != nil {
		return nil, fmt.Errorf("damaged ELF file: %w", err)
	}
	f, err := elf.NewFile(bytes.NewReader(file))
	if err != nil {
		return nil, fmt.Errorf("damaged ELF file: %w", err)
	}
	defer f.Close()
	if f.Type == elf.ET_REL {
		return nil, fmt.Errorf("this is an object file (.o), not yet linked; submit the linked .elf or .hex")
	}
	if f.Type != elf.ET_EXEC {
		return nil, fmt.Errorf("this ELF file is of type %v, not an executable", f.Type)
	}
	im = &Image{Format: "elf", Machine: uint16(f.Machine)}
	var flash, eeprom, fuses layer
	loaded := uint64(0)
	for _, p := range f.Progs {
		if p.Type != elf.PT_LOAD || p.Filesz == 0 {
			continue
		}
		if p.Filesz > MaxFile || p.Off > uint64(len(file)) || p.Filesz > uint64(len(file))-p.Off {
			return nil, fmt.Errorf("damaged ELF file: a segment reaches beyond the end of the file; it may be cut off")
		}
		if loaded += p.Filesz; loaded > uint64(len(file)) {
			return nil, fmt.Errorf("damaged ELF file: its segments announce more bytes than the file has")
		}
		data := file[p.Off : p.Off+p.Filesz]
		switch r := layout.at(p.Paddr); r.Kind {
		case Fuses:
			fuses.add(r.address(p.Paddr), data[:min(len(data), 3)])
		case EEPROM:
			eeprom.add(r.address(p.Paddr), data)
		case Flash:
			flash.add(r.address(p.Paddr), data)
		case RAM, Ignored: // initial RAM contents have their load address in flash
		}
	}
	if err := im.takeLayers(&flash, &eeprom, &fuses, layout); err != nil {
		return nil, err
	}
	im.Symbols = symbols(f, layout)
	if im.debug, err = readDebug(f); err == nil { // a program may have both: its libraries have the other kind
		im.stabs, err = readStabs(f)
	}
	if err != nil {
		im.debug, im.stabs = nil, nil
		im.Note = "the file's debug information was left out, so that no source lines can be named: " + err.Error()
	}
	return im, nil
}

// Bounds of an ELF file's tables. Firmware has some twenty sections with names of a few characters.
const (
	maxSections     = 1000
	maxSectionNames = 64 << 10
	maxName         = 1024 // bytes of a symbol's name; one that is longer is passed over
)

// checkSections looks at the table of sections before debug/elf does, which reads as much as it announces.
func checkSections(file []byte) error {
	r := bytes.NewReader(file)
	var order binary.ByteOrder = binary.LittleEndian
	if len(file) > elf.EI_DATA && elf.Data(file[elf.EI_DATA]) == elf.ELFDATA2MSB {
		order = binary.BigEndian
	}
	var table, size, flags uint64
	var count, each, names int
	var section func(i int) bool
	switch {
	case len(file) > elf.EI_CLASS && elf.Class(file[elf.EI_CLASS]) == elf.ELFCLASS64:
		var h elf.Header64
		if binary.Read(r, order, &h) != nil {
			return errors.New("it ends in its header")
		}
		table, count, each, names = h.Shoff, int(h.Shnum), int(h.Shentsize), int(h.Shstrndx)
		section = func(i int) bool {
			var s elf.Section64
			ok := binary.Read(io.NewSectionReader(r, int64(table)+int64(i)*int64(each), 64), order, &s) == nil
			size, flags = s.Size, s.Flags
			return ok
		}
	default:
		var h elf.Header32
		if binary.Read(r, order, &h) != nil {
			return errors.New("it ends in its header")
		}
		table, count, each, names = uint64(h.Shoff), int(h.Shnum), int(h.Shentsize), int(h.Shstrndx)
		section = func(i int) bool {
			var s elf.Section32
			ok := binary.Read(io.NewSectionReader(r, int64(table)+int64(i)*int64(each), 40), order, &s) == nil
			size, flags = uint64(s.Size), uint64(s.Flags)
			return ok
		}
	}
	switch {
	case table == 0:
		return nil
	case table > uint64(len(file)):
		return errors.New("its table of sections is beyond the end of the file; it may be cut off")
	case count == 0 || count > maxSections:
		return fmt.Errorf("a firmware has at most %d sections", maxSections)
	case names == 0 || names >= count || !section(names):
		return nil
	case size > maxSectionNames || elf.SectionFlag(flags)&elf.SHF_COMPRESSED != 0:
		return fmt.Errorf("the names of its sections take more than %d bytes", maxSectionNames)
	}
	return nil
}

// symbols reads the table of symbols. debug/elf would copy each name however long it is.
func symbols(f *elf.File, layout Layout) []Symbol {
	table := f.SectionByType(elf.SHT_SYMTAB)
	if table == nil || int(table.Link) >= len(f.Sections) { // stripped: the firmware runs all the same
		return nil
	}
	data, err := plainData(table)
	if err != nil {
		return nil
	}
	names, err := plainData(f.Sections[table.Link])
	if err != nil {
		return nil
	}
	var out []Symbol
	each := elf.Sym32Size
	if f.Class == elf.ELFCLASS64 {
		each = elf.Sym64Size
	}
	for ; len(data) >= each; data = data[each:] {
		name, kind := f.ByteOrder.Uint32(data), elf.ST_TYPE(data[12])
		value, size := uint64(f.ByteOrder.Uint32(data[4:])), uint64(f.ByteOrder.Uint32(data[8:]))
		if f.Class == elf.ELFCLASS64 {
			kind, value, size = elf.ST_TYPE(data[4]), f.ByteOrder.Uint64(data[8:]), f.ByteOrder.Uint64(data[16:])
		}
		r := layout.at(value)
		if r.Kind != Flash && r.Kind != RAM || kind == elf.STT_FILE || kind == elf.STT_SECTION ||
			uint64(name) >= uint64(len(names)) {
			continue
		}
		text := names[name:min(uint64(name)+maxName, uint64(len(names)))]
		end := bytes.IndexByte(text, 0)
		if end <= 0 || bytes.HasPrefix(text, []byte(".L")) {
			continue
		}
		symbol := Symbol{Name: string(text[:end]), Address: r.address(value), Size: uint32(size),
			IsData: kind == elf.STT_OBJECT}
		if r.Kind == RAM {
			symbol.Space = Data
		}
		out = append(out, symbol)
	}
	return out
}

// plainData gives a section that is not compressed.
func plainData(s *elf.Section) ([]byte, error) {
	if s.Flags&elf.SHF_COMPRESSED != 0 || s.Type == elf.SHT_NOBITS {
		return nil, errors.New("it is not there as it is")
	}
	return s.Data()
}
