package display

// Turn is a way in which a picture hangs wrong on its grid: where a dot at column x and row y belongs, on one of so
// many columns and rows.
type Turn struct {
	Text   string // of a display by its name
	Square bool   // it needs as many rows as columns
	To     func(x, y, columns, rows int) (int, int)
}

// Turns lists them. A controller reads its memory from either end in both directions (SSD1306 Rev 1.1, 10.1.8 Set
// Segment Re-map and 10.1.12 Set COM Output Scan Direction); a matrix is driven by rows or by columns.
var Turns = []Turn{
	{"The picture of %s hangs upside down: its columns and its rows are both sent from the other end.", false,
		func(x, y, columns, rows int) (int, int) { return columns - 1 - x, rows - 1 - y }},
	{"The picture of %s is mirrored, left and right exchanged: its columns are sent from the other end.", false,
		func(x, y, columns, _ int) (int, int) { return columns - 1 - x, y }},
	{"The picture of %s is mirrored, top and bottom exchanged: its rows are sent from the other end.", false,
		func(x, y, _, rows int) (int, int) { return x, rows - 1 - y }},
	{"The picture of %s has its rows and its columns exchanged.", true,
		func(x, y, _, _ int) (int, int) { return y, x }},
	{"The picture of %s is turned to the left by a quarter.", true,
		func(x, y, columns, _ int) (int, int) { return columns - 1 - y, x }},
	{"The picture of %s is turned to the right by a quarter.", true,
		func(x, y, _, rows int) (int, int) { return y, rows - 1 - x }},
}
