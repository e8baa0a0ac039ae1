package firmware

import (
	"bytes"
	"debug/elf"
	"fmt"
	"strings"
)

// Where avr-ld puts the memories in its one address space (avr-libc manual, "Memory Sections").
const (
	elfData   = 0x800000
	elfEEPROM = 0x810000
	elfFuses  = 0x820000
	elfLocks  = 0x830000
)

// MachineAVR is e_machine of AVR ELF files (EM_AVR).
const MachineAVR = uint16(elf.EM_AVR)

// readELF reads an executable ELF file: its loadable segments at their load addresses, its symbols
// and its DWARF.
func readELF(file []byte) (im *Image, err error) {
	defer func() { // debug/elf and debug/dwarf may panic on damaged input
		if r := recover(); r != nil {
			im, err = nil, fmt.Errorf("damaged ELF file: %v", r)
		}
	}()
	f, err := elf.NewFile(bytes.NewReader(file))
	if err != nil {
		return nil, fmt.Errorf("damaged ELF file: %w", err)
	}
	defer f.Close()
	if f.Type == elf.ET_REL {
		return nil, fmt.Errorf("this is an object file (.o), not yet linked; hand in the linked .elf or .hex")
	}
	if f.Type != elf.ET_EXEC {
		return nil, fmt.Errorf("this ELF file is of type %v, not an executable", f.Type)
	}
	im = &Image{Format: "elf", Machine: uint16(f.Machine)}
	var flash, eeprom layer
	for _, p := range f.Progs {
		if p.Type != elf.PT_LOAD || p.Filesz == 0 {
			continue
		}
		if p.Filesz > MaxFile || p.Off > uint64(len(file)) || p.Filesz > uint64(len(file))-p.Off {
			return nil, fmt.Errorf("damaged ELF file: a segment reaches beyond the end of the file; it may be cut off")
		}
		data := file[p.Off : p.Off+p.Filesz]
		switch at := uint32(p.Paddr); {
		case p.Paddr >= elfLocks:
		case at >= elfFuses:
			im.Fuses = bytes.Clone(data[:min(len(data), 3)])
		case at >= elfEEPROM:
			eeprom.add(at-elfEEPROM, data)
		case at >= elfData: // initial RAM contents have their load address in flash
		default:
			flash.add(at, data)
		}
	}
	if im.Flash, err = flash.sorted(); err != nil {
		return nil, err
	}
	if im.EEPROM, err = eeprom.sorted(); err != nil {
		return nil, err
	}
	if im.Flash = trimErased(im.Flash); len(im.Flash) == 0 {
		return nil, fmt.Errorf("the file programs no byte of flash")
	}
	im.Symbols = symbols(f)
	if d, err := f.DWARF(); err == nil {
		im.Debug = d
	}
	return im, nil
}

func symbols(f *elf.File) []Symbol {
	list, err := f.Symbols()
	if err != nil {
		return nil // stripped: the firmware runs all the same
	}
	var out []Symbol
	for _, s := range list {
		kind := elf.ST_TYPE(s.Info)
		if s.Name == "" || strings.HasPrefix(s.Name, ".L") || s.Value >= elfEEPROM || kind == elf.STT_FILE || kind == elf.STT_SECTION {
			continue
		}
		symbol := Symbol{Name: s.Name, Address: uint32(s.Value), Size: uint32(s.Size), IsData: kind == elf.STT_OBJECT}
		if s.Value >= elfData {
			symbol.Space, symbol.Address = Data, symbol.Address-elfData
		}
		out = append(out, symbol)
	}
	return out
}
