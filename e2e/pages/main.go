// Command pages holds what other programs make of a report against the report itself. Of the pages of an
// office suite or a compiler (PDF, read with pdftotext): no figure is broken or lost, nothing stands off the
// page, no heading stands alone at its end and no row of a table on a page of its own. Of HTML and Markdown,
// read by parsers of others: all tables with all their cells, all headings. It reads the report as JSON.
package main

import (
	"cmp"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"log"
	"math"
	"os"
	"os/exec"
	"path"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"widetally/internal/export"
)

type word struct {
	X    float64 `xml:"xMin,attr"`
	Y    float64 `xml:"yMin,attr"`
	Ends float64 `xml:"xMax,attr"`
	Text string  `xml:",chardata"`
}

type page struct {
	Width  float64 `xml:"width,attr"`
	Height float64 `xml:"height,attr"`
	Words  []word  `xml:"word"`
}

func main() {
	log.SetFlags(0)
	if len(os.Args) < 3 {
		log.Fatal("pages REPORT.json PAGES.pdf ...")
	}
	raw, err := os.ReadFile(os.Args[1])
	if err != nil {
		log.Fatal(err)
	}
	var report export.Report
	if err := json.Unmarshal(raw, &report); err != nil {
		log.Fatal(err)
	}
	failed := false
	for _, fault := range empty(report) {
		failed = true
		fmt.Println(fault)
	}
	for _, file := range os.Args[2:] {
		found, err := of(report, file)
		if err != nil {
			log.Fatal(err)
		}
		for _, fault := range found {
			failed = true
			fmt.Printf("%s: %s\n", file, fault)
		}
	}
	if failed {
		os.Exit(1)
	}
}

// of are the faults of one file.
func of(r export.Report, file string) ([]string, error) {
	switch path.Ext(file) {
	case ".html", ".md":
		raw, err := os.ReadFile(file)
		if err != nil {
			return nil, err
		}
		return parsed(r, raw, path.Ext(file) == ".md")
	}
	pages, err := read(file)
	return faults(r, pages), err
}

// empty are headings without text, and those with nothing below them.
func empty(r export.Report) (out []string) {
	for i, b := range r.Blocks {
		if b.Kind != export.HeadingBlock {
			continue
		}
		text := strings.TrimSpace(export.Plain(b.Runs))
		if text == "" {
			out = append(out, fmt.Sprintf("block %d is a heading without text", i+1))
		}
		if i+1 == len(r.Blocks) || r.Blocks[i+1].Kind == export.HeadingBlock && r.Blocks[i+1].Level <= b.Level {
			out = append(out, fmt.Sprintf("nothing stands below the heading “%s”", text))
		}
	}
	return out
}

func read(file string) ([]page, error) {
	raw, err := exec.Command("pdftotext", "-bbox", file, "-").Output()
	if err != nil {
		return nil, fmt.Errorf("pdftotext: %w", err)
	}
	var doc struct {
		Pages []page `xml:"body>doc>page"`
	}
	d := xml.NewDecoder(strings.NewReader(string(raw)))
	d.Strict = false
	d.Entity = xml.HTMLEntity
	err = d.Decode(&doc)
	return doc.Pages, err
}

// apart are the words of a text, as they stand on a page.
func apart(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || r == '\u2003' })
}

func faults(r export.Report, pages []page) (out []string) {
	const margin, footer = 30.0, 60.0 // in points
	there := map[string]int{}
	heads := map[string]bool{}
	for _, b := range r.Blocks {
		if b.Kind == export.HeadingBlock {
			heads[strings.Join(apart(export.Plain(b.Runs)), " ")] = true
		}
	}
	for n, p := range pages {
		for _, w := range p.Words { // a page that is turned for reading is told as it was
			if w.Ends > p.Width {
				p.Width = max(p.Width, p.Height)
			}
		}
		lines := map[float64][]string{}
		last, lastText := 0.0, ""
		for _, w := range p.Words {
			for _, one := range apart(w.Text) {
				there[one]++
			}
			if (w.X < margin || w.Ends > p.Width-margin) && w.Text != strconv.Itoa(n+1) { // its number stands at the foot, however it lies
				out = append(out, fmt.Sprintf("page %d: “%s” stands off the page", n+1, w.Text))
			}
			lines[w.Y] = append(lines[w.Y], w.Text)
		}
		bottom := 0.0
		for y := range lines {
			bottom = max(bottom, y)
		}
		for y, words := range lines {
			if y > last && y < bottom-footer/4 { // the last line is the number of the page
				last, lastText = y, strings.Join(words, " ")
			}
		}
		if heads[lastText] && n > 2 {
			out = append(out, fmt.Sprintf("page %d ends with the heading “%s”", n+1, lastText))
		}
	}
	out = append(out, stranded(r, pages)...)
	want := map[string]int{}
	for _, b := range r.Blocks {
		if b.Table == nil {
			continue
		}
		for _, row := range b.Table.Rows {
			for i, c := range row {
				if i == 0 || c.Number == nil {
					continue
				}
				for _, one := range apart(c.Text) {
					if !strings.ContainsAny(one, "⁰¹²³⁴⁵⁶⁷⁸⁹⁻") { // small digits can stand as words of their own
						want[one]++
					}
				}
			}
		}
	}
	for figure, times := range want {
		if there[figure] < times {
			out = append(out, fmt.Sprintf("“%s” stands there %d times, %d are in the tables: one is broken or lost", figure, there[figure], times))
		}
	}
	return out
}

// stranded are the rows of a table that stand alone on a page, the rest of it on others. Rows are known by
// their texts; a table of which one is broken into lines is passed over.
func stranded(r export.Report, pages []page) (out []string) {
	lines := make([]map[string]bool, len(pages))
	for i, p := range pages {
		lines[i] = p.lines()
	}
	for _, b := range r.Blocks {
		if b.Table == nil || len(b.Table.Rows) < 3 {
			continue
		}
		var on []map[int]bool // the pages on which a row's text stands, which may be that of others, too
		for _, row := range b.Table.Rows {
			var text strings.Builder
			for _, c := range row {
				text.WriteString(strings.Join(apart(cmp.Or(c.Shown, c.Text)), ""))
			}
			at := map[int]bool{}
			for i := range lines {
				if lines[i][text.String()] {
					at[i] = true
				}
			}
			on = append(on, at)
		}
		rowsOn := func(page int) (n int) {
			for _, at := range on {
				if at[page] {
					n++
				}
			}
			return n
		}
		if slices.ContainsFunc(on, func(at map[int]bool) bool { return len(at) == 0 }) {
			continue
		}
		whole := false
		for i := range pages {
			whole = whole || rowsOn(i) == len(on)
		}
		for _, at := range on {
			for page := range at {
				if !whole && len(at) == 1 && rowsOn(page) == 1 {
					out = append(out, fmt.Sprintf("page %d has a single row of %s", page+1, b.Table.Label))
				}
			}
		}
	}
	return out
}

// lines are the texts of a page that stand at one height, without blanks.
func (p page) lines() map[string]bool {
	const same = 3.0 // points
	words := slices.Clone(p.Words)
	slices.SortFunc(words, func(a, b word) int {
		return cmp.Or(cmp.Compare(math.Round(a.Y/same), math.Round(b.Y/same)), cmp.Compare(a.X, b.X))
	})
	out, line, at := map[string]bool{}, "", math.Inf(-1)
	for _, w := range words {
		if math.Round(w.Y/same) != at {
			out[line] = true
			line, at = "", math.Round(w.Y/same)
		}
		line += strings.Join(apart(w.Text), "")
	}
	out[line] = true
	return out
}
