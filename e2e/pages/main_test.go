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

// A row that a page holds alone is found, and so are headings without text or with nothing below them.
func TestRowsAndHeadingsAlone(t *testing.T) {
	table := export.Table{Label: "Table 1", Rows: [][]export.Cell{{{Text: "Owns it"}, {Text: "642"}}, {{Text: "Rents"}, {Text: "539"}}, {{Text: "Total"}, {Text: "1,181"}}}}
	heading := func(level int, text string) export.Block {
		return export.Block{Kind: export.HeadingBlock, Level: level, Runs: []export.Run{{Text: text}}}
	}
	type pageOf = page
	page := func(lines ...string) (p pageOf) {
		for i, l := range lines {
			for k, text := range strings.Fields(l) {
				p.Words = append(p.Words, word{X: 60 + 50*float64(k), Y: 50 + 20*float64(i), Text: text})
			}
		}
		return p
	}
	report := export.Report{Blocks: []export.Block{heading(1, "Tenure"), {Kind: export.TableBlock, Table: &table}}}
	assert.Empty(t, stranded(report, []pageOf{page("Owns it 642", "Rents 539", "Total 1,181")}))
	assert.Equal(t, []string{"page 2 has a single row of Table 1"}, stranded(report, []pageOf{page("Owns it 642", "Rents 539"), page("Total 1,181")}))
	assert.Empty(t, empty(report))
	report.Blocks = append(report.Blocks, heading(1, " "), heading(1, "Last"))
	assert.Equal(t, []string{"block 3 is a heading without text", "nothing stands below the heading “”", "nothing stands below the heading “Last”"}, empty(report))
}

// What a parser reads of HTML and of Markdown is held against the report, cell by cell.
func TestPagesAreParsed(t *testing.T) {
	table := export.Table{Label: "Table 1", Head: []string{"Answer", "n"}, Rows: [][]export.Cell{{{Text: "a | b"}, {Text: "1,181", Shown: "1,181 \u2191"}}}}
	report := export.Report{Blocks: []export.Block{{Kind: export.HeadingBlock, Runs: []export.Run{{Text: "Who & what"}}}, {Kind: export.TableBlock, Table: &table}}}
	for _, k := range []struct {
		text     string
		markdown bool
		fault    string
	}{
		{"<h2>Who &amp; what</h2><table><tr><th>Answer</th><th>n</th></tr><tr><th>a | b</th><td>1,181 \u2191</td></tr></table>", false, ""},
		{"# Who & what\n\n| Answer | n |\n|---|---:|\n| a \\| b | 1,181 \u2191 |\n", true, ""},
		{"# Who & what\n\n| Answer | n |\n|---|---:|\n| a | b | 1,181 \u2191 |\n", true, "Table 1 is read as"},
		{"| Answer | n |\n|---|---:|\n| a \\| b | 1,181 \u2191 |\n", true, "the heading “Who & what” is lacking"},
		{"# Who & what\n", true, "Table 1 is lacking"},
	} {
		found, err := parsed(report, []byte(k.text), k.markdown)
		assert.NoError(t, err)
		if k.fault == "" {
			assert.Empty(t, found)
		} else {
			assert.Contains(t, strings.Join(found, "; "), k.fault)
		}
	}
}
