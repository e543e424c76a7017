package survey

import (
	"strconv"
	"strings"
)

// formulaStarts are the characters with which a spreadsheet takes a cell for a formula,
// or passes over blank ones before it.
const formulaStarts = "=+-@\t\r"

// NeutralMark is the member of a data package's description that says that its names,
// codes and cells went through Neutral.
const NeutralMark = "apostropheBeforeFormulas"

// Neutral keeps a spreadsheet from running a text of a file as a formula: an apostrophe
// goes before it, except where it is a number. Texts that begin with apostrophes and go
// on like a formula get one more, so that Restored is its exact inverse.
func Neutral(cell string) string {
	rest := strings.TrimLeft(cell, "'")
	if rest == "" || !strings.ContainsRune(formulaStarts, rune(rest[0])) {
		return cell
	}
	if rest == cell {
		if _, err := strconv.ParseFloat(cell, 64); err == nil {
			return cell
		}
	}
	return "'" + cell
}

// Restored gives back a text that Neutral has written.
func Restored(cell string) string {
	rest := strings.TrimLeft(cell, "'")
	if rest == cell || rest == "" || !strings.ContainsRune(formulaStarts, rune(rest[0])) {
		return cell
	}
	return cell[1:]
}
