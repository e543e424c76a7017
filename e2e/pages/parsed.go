package main

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"golang.org/x/net/html"

	"widetally/internal/export"
)

// parsed holds a report as a page, or as Markdown, against the report: each table with its cells, in order,
// and each heading.
func parsed(r export.Report, raw []byte, markdown bool) (out []string, err error) {
	if markdown {
		var page bytes.Buffer
		if err := goldmark.New(goldmark.WithExtensions(extension.Table)).Convert(raw, &page); err != nil {
			return nil, err
		}
		raw = page.Bytes()
	}
	doc, err := html.Parse(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	var tables [][]string
	headings := map[string]bool{}
	for n := range doc.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		switch n.Data {
		case "table":
			tables = append(tables, nil)
		case "th", "td":
			if len(tables) > 0 {
				tables[len(tables)-1] = append(tables[len(tables)-1], bare(n))
			}
		case "h1", "h2", "h3", "h4", "h5", "h6":
			headings[bare(n)] = true
		}
	}
	at := 0
	for _, b := range r.Blocks {
		switch {
		case b.Kind == export.HeadingBlock && !headings[squeezed(export.Plain(b.Runs))]:
			out = append(out, fmt.Sprintf("the heading “%s” is lacking", export.Plain(b.Runs)))
		case b.Table != nil && at >= len(tables):
			out = append(out, b.Table.Label+" is lacking")
		case b.Table != nil:
			if want, got := strings.Join(cells(b.Table), "|"), strings.Join(filled(tables[at]), "|"); want != got {
				out = append(out, fmt.Sprintf("%s is read as %q instead of %q", b.Table.Label, got, want))
			}
			at++
		}
	}
	return out, nil
}

// cells are the texts of a table that are not empty, in the order in which they are read.
func cells(t *export.Table) (out []string) {
	for _, h := range t.Head {
		out = append(out, squeezed(h))
	}
	for _, row := range t.Rows {
		for _, c := range row {
			text := c.Text
			if c.Shown != "" {
				text = c.Shown
			}
			out = append(out, squeezed(text))
		}
	}
	return filled(out)
}

func filled(list []string) (out []string) {
	for _, s := range list {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}

// squeezed is a text without its blanks, which a page may put where it likes.
func squeezed(s string) string { return strings.Join(apart(s), "") }

func bare(n *html.Node) string {
	var out strings.Builder
	for d := range n.Descendants() {
		if d.Type == html.TextNode {
			out.WriteString(d.Data)
		}
	}
	return squeezed(out.String())
}
