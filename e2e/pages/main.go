// Command pages holds the pages that an office suite made of a report against the report itself: no
// figure is broken or lost, nothing stands off the page, and no heading, caption or total stands alone
// at an end of one. It reads the report as JSON, and the pages as PDF with pdftotext.
package main

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"log"
	"os"
	"os/exec"
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
	for _, file := range os.Args[2:] {
		pages, err := read(file)
		if err != nil {
			log.Fatal(err)
		}
		for _, fault := range faults(report, pages) {
			failed = true
			fmt.Printf("%s: %s\n", file, fault)
		}
	}
	if failed {
		os.Exit(1)
	}
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
