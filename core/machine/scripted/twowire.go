package scripted

import (
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"
)

// mostBytes is how much one transfer may hold.
const mostBytes = 4096

// twoWire gives the steps of a transfer on a bus of two lines (NXP UM10204, 3.1) that are let go or pulled low. half is
// half a period of its clock in ns; what is done is said in words with commas between: S (start), P (stop), w and bytes
// in hexadecimal, r and how many bytes are read, the last of which is not acknowledged. Where nobody acknowledges, it
// goes on with the last stop.
func twoWire(scl, sda uint8, half uint32, what string) (steps []step, err error) {
	quarter := half / 2
	bytes := 0
	do := func(after uint32, a act, pin uint8) { steps = append(steps, step{after, a, pin}) }
	bit := func(data, read act) {
		do(0, data, sda)
		do(quarter, letGo, scl)
		do(half, read, sda)
		do(0, low, scl)
		do(quarter, rest, 0)
	}
	level := func(on bool) act {
		if on {
			return letGo
		}
		return low
	}
	for word := range strings.SplitSeq(what, ",") {
		if word == "" {
			return nil, fmt.Errorf("an empty word")
		}
		switch more := word[1:]; word[0] {
		case 'S':
			do(0, letGo, sda)
			do(half, letGo, scl)
			do(half, low, sda)
			do(half, low, scl)
		case 'P':
			do(0, stop, 0)
			do(0, low, sda)
			do(half, letGo, scl)
			do(half, letGo, sda)
			do(half, rest, 0)
		case 'w':
			data, err := hex.DecodeString(more)
			if bytes += len(data); err != nil || bytes > mostBytes {
				return nil, fmt.Errorf("no bytes, or too many")
			}
			for _, b := range data {
				for i := 7; i >= 0; i-- {
					bit(level(b>>i&1 == 1), rest)
				}
				bit(letGo, answer)
			}
		case 'r':
			n, err := strconv.ParseUint(more, 10, 16)
			if bytes += int(n); err != nil || bytes > mostBytes {
				return nil, fmt.Errorf("no count, or too many bytes")
			}
			for i := range n {
				for range 8 {
					bit(letGo, take)
				}
				bit(level(i == n-1), rest)
			}
		default:
			return nil, fmt.Errorf("an unknown word")
		}
	}
	return steps, nil
}
