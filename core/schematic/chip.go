package schematic

import (
	"fmt"
	"strconv"

	"hemble/core/exercise"
)

// leg is a pin of a package.
type leg struct {
	number    int
	name, net string
	used      bool
}

// legs lists the pins of a chip by their numbers.
func legs(x *exercise.Exercise) []leg {
	used := wired(x)
	var out []leg
	at := map[int]leg{}
	for _, p := range x.Chip.Pins {
		if p.Package > 0 {
			at[p.Package] = leg{p.Package, p.Name, p.Name, used[p.Name]}
		}
	}
	for _, r := range x.Chip.Supplies {
		at[r.Package] = leg{r.Package, r.Name, r.Net, r.Net != ""}
	}
	for i := 1; i <= len(at); i++ {
		out = append(out, at[i])
	}
	return out
}

// crystal draws one between the ends of two neighbouring pins at the left.
func (d *Drawing) crystal(x, y float64) {
	d.stroke(x, y, x-8, y, x-8, y+6)
	d.stroke(x-16, y+6, x, y+6)
	d.box(x-15, y+8.5, 14, 5)
	d.stroke(x-16, y+16, x, y+16)
	d.stroke(x-8, y+16, x-8, y+22, x, y+22)
}

// chip draws the chip as its package stands, seen from above, and gives the room that it takes.
func (d *Drawing) chip(x *exercise.Exercise) (wide, high float64) {
	const side, top = 84.0, 34.0
	all := legs(x)
	half := (len(all) + 1) / 2
	high = float64(half)*pitch + 8
	d.text(side+chipBox/2, 14, roleName, AtMiddle, x.Chip.Title)
	d.text(side+chipBox/2, 27, roleValue, AtMiddle,
		fmt.Sprintf("%s, %d.%d V", x.Clock, x.Supply/1_000_000, x.Supply/100_000%10))
	d.box(side, top, chipBox, high)
	d.Strokes = append(d.Strokes, fmt.Sprintf("M%g %ga9 9 0 0 0 18 0", side+chipBox/2-9, top)) // the notch
	for i, l := range all {
		y, to, edge := top+float64(i)*pitch+pitch/2+4, -1.0, side
		if i >= half {
			y, to, edge = top+float64(2*half-1-i)*pitch+pitch/2+4, 1, side+chipBox
		}
		end := edge + 22*to
		d.stroke(edge, y, end, y)
		d.text(edge+11*to, y-3, rolePin, AtMiddle, strconv.Itoa(l.number))
		d.text(edge-5*to, y+4, roleNet, anchor(-to), l.name)
		if x.Chip.Crystals(x.Clock) && l.name == x.Chip.Crystal[0] && !l.used && i+1 < half &&
			all[i+1].name == x.Chip.Crystal[1] && !all[i+1].used {
			d.crystal(end, y)
		} else if x.Chip.Crystals(x.Clock) && l.name == x.Chip.Crystal[1] && !l.used {
			continue // drawn with the other one
		} else if l.used {
			d.net(end, y, to, l.net)
		} else {
			d.net(end, y, to, "")
		}
	}
	return 2*side + chipBox, top + high
}
