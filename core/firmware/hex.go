package firmware

import (
	"bytes"
	"encoding/hex"
	"fmt"
)

// Intel HEX record types (Intel, Hexadecimal Object File Format Specification, rev. A, 1988).
const (
	recordData           = 0
	recordEnd            = 1
	recordSegmentAddress = 2
	recordSegmentStart   = 3
	recordLinearAddress  = 4
	recordLinearStart    = 5
	lastRecordNotes      = "the file ends without its end record (:00000001FF); it may be cut off"
)

// readHex reads Intel HEX. Errors name the line.
func readHex(file []byte, layout Layout) (*Image, error) {
	var flash, eeprom, fuses layer
	base, line, ended := uint32(0), 0, false
	for rest := bytes.TrimPrefix(file, []byte("\ufeff")); len(rest) > 0; {
		line++
		var text []byte
		if end := bytes.IndexAny(rest, "\r\n"); end < 0 {
			text, rest = rest, nil
		} else {
			text = rest[:end]
			rest = rest[end+1:]
			if file := rest; len(file) > 0 && file[0] == '\n' {
				rest = rest[1:]
			}
		}
		text = bytes.TrimSpace(text)
		if len(text) == 0 {
			continue
		}
		if ended {
			return nil, fmt.Errorf("line %d: a record after the end record", line)
		}
		record, err := parseRecord(text)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
		switch kind, data := record[3], record[4:len(record)-1]; kind {
		case recordData:
			offset := uint32(record[1])<<8 | uint32(record[2])
			address := base + offset
			if at, ok := layout.fill(&flash, &eeprom, &fuses, uint64(address), data); !ok {
				return nil, fmt.Errorf("line %d: address 0x%X is in no memory of the chip that a file could fill", line, at)
			}
		case recordEnd:
			ended = true
		case recordSegmentAddress, recordLinearAddress:
			if len(data) != 2 {
				return nil, fmt.Errorf("line %d: an address record has %d data bytes in place of 2", line, len(data))
			}
			value := uint32(data[0])<<8 | uint32(data[1])
			if base = value << 4; kind == recordLinearAddress {
				base = value << 16
			}
		case recordSegmentStart, recordLinearStart: // where a debugger would start; a chip starts by itself
		default:
			return nil, fmt.Errorf("line %d: record type %02X does not exist", line, kind)
		}
	}
	if !ended {
		return nil, fmt.Errorf("line %d: %s", line, lastRecordNotes)
	}
	im := &Image{Format: "hex"}
	return im, im.takeLayers(&flash, &eeprom, &fuses, layout)
}

// takeLayers takes what records or sections gave for the memories.
func (im *Image) takeLayers(flash, eeprom, fuses *layer, layout Layout) (err error) {
	if im.Flash, err = flash.sorted(layout); err != nil {
		return err
	}
	if im.EEPROM, err = eeprom.sorted(layout); err != nil {
		return err
	}
	set, err := fuses.sorted(layout)
	if err != nil {
		return err
	}
	im.Fuses = joined(set)
	if im.Flash = trimErased(im.Flash, layout.Erased); len(im.Flash) == 0 {
		return fmt.Errorf("the file programs no byte of flash")
	}
	return nil
}

// joined gives the bytes of segments as they stand in memory, from 0 on; what none gives is erased.
func joined(segments []Segment) (out []byte) {
	for _, s := range segments {
		for len(out) < int(s.End()) {
			out = append(out, 0xff)
		}
		copy(out[s.Address:], s.Data)
	}
	return out
}

// parseRecord gives the bytes of one line: count, address (2), type, data, checksum.
func parseRecord(text []byte) ([]byte, error) {
	if text[0] != ':' {
		return nil, fmt.Errorf("a record starts with ':', this line with %q", text[:min(len(text), 8)])
	}
	record := make([]byte, hex.DecodedLen(len(text)-1))
	if n, err := hex.Decode(record, text[1:]); err != nil {
		if len(text)%2 == 0 && n == len(record) {
			return nil, fmt.Errorf("an odd number of hexadecimal digits; the line may be cut off")
		}
		at := 1 + 2*n
		for _, c := range text[at:min(at+2, len(text))] {
			if !bytes.ContainsRune([]byte("0123456789abcdefABCDEF"), rune(c)) {
				return nil, fmt.Errorf("column %d: %q is not a hexadecimal digit", at+1, c)
			}
			at++
		}
		return nil, fmt.Errorf("not hexadecimal digits")
	}
	if len(record) < 5 {
		return nil, fmt.Errorf("a record has at least 5 bytes, this one %d; the line may be cut off", len(record))
	}
	if want := int(record[0]) + 5; len(record) != want {
		return nil, fmt.Errorf("the record announces %d data bytes and has %d", record[0], len(record)-5)
	}
	sum := byte(0)
	for _, b := range record {
		sum += b
	}
	if last := len(record) - 1; sum != 0 {
		return nil, fmt.Errorf("checksum %02X does not fit the line (%02X would); the file is damaged", record[last],
			record[last]-sum)
	}
	return record, nil
}
