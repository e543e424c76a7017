package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/export"
)

// Each fault of a page is found, and a page without one is passed over.
func TestFaultsOfPages(t *testing.T) {
	x, y := 1240.0, 3.5e-6
	table := export.Table{Rows: [][]export.Cell{{{Text: "Yes"}, {Text: "1,240", Number: &x}, {Text: "3.50 × 10⁻⁶", Number: &y}}}}
	report := export.Report{Blocks: []export.Block{{Kind: export.HeadingBlock, Runs: []export.Run{{Text: "All claims"}}}, {Kind: export.TableBlock, Table: &table}}}
	// words stand below each other, 20 points apart, from the top of a page.
	words := func(lines ...string) page {
		p := page{Width: 595, Height: 842}
		for i, l := range lines {
			for k, text := range strings.Fields(l) {
				p.Words = append(p.Words, word{X: 60 + 50*float64(k), Ends: 100 + 50*float64(k), Y: 50 + 20*float64(i), Text: text})
			}
		}
		return p
	}
	good := words("All claims", "Yes 1,240 3.50 × 10", "Report 1 / 4")
	off := words("Yes 1,240 3.50 ×", "Report 1 / 4")
	off.Words[1].Ends = 580
	front := []page{words("Title", "1"), words("Contents", "2"), words("Tables", "3")}
	for about, c := range map[string]struct {
		pages []page
		fault string
	}{
		"whole":          {append(front, good), ""},
		"broken":         {append(front, words("Yes 1,24 0 3.50 ×", "Report 1 / 4")), "“1,240” stands there 0 times"},
		"off":            {[]page{off}, "“1,240” stands off the page"},
		"a heading last": {append(front, words("Yes 1,240 3.50 ×", "All claims", "Report 1 / 4")), "page 4 ends with the heading “All claims”"},
	} {
		got := strings.Join(faults(report, c.pages), "; ")
		if c.fault == "" {
			assert.Empty(t, got, about)
		} else {
			assert.Contains(t, got, c.fault, about)
		}
	}
}
