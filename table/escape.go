package table

import "strings"

// EscapeFormula keeps a spreadsheet from taking text for a formula.
func EscapeFormula(cell string) string {
	if cell != "" && strings.ContainsRune("=+@\t\r", rune(cell[0])) || strings.HasPrefix(cell, "-") &&
		strings.Trim(cell, "-.0123456789") != "" {
		return "'" + cell
	}
	return cell
}
