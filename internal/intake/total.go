package intake

import (
	"bytes"
	"strings"

	"widetally/core/survey"
)

// looksTotal reports whether a row of respondents may be a total of those above it: one of its
// cells is called so, and all else in it are numbers or blank.
func looksTotal(row [][]byte) bool {
	named := false
	for _, c := range row {
		cell := string(bytes.TrimSpace(c))
		if survey.IsTotalName(cell) {
			named = true
		} else if _, isNumber := survey.ParseNumber(cell, true); cell != "" && !isNumber {
			return false
		}
	}
	return named && len(row) > 1
}

// inOneLine writes a row for a person.
func inOneLine(row [][]byte) string {
	var cells []string
	for _, c := range row {
		if cell := excerpt(bytes.TrimSpace(c)); cell != "" {
			cells = append(cells, cell)
		}
	}
	return strings.Join(cells[:min(len(cells), mostShown)], " · ")
}

// mostShown is how many cells of a row are shown of it.
const mostShown = 6

func cloneCells(row [][]byte) [][]byte {
	out := make([][]byte, len(row))
	for i, c := range row {
		out[i] = bytes.Clone(c)
	}
	return out
}
