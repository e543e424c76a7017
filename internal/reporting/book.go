package reporting

import (
	"fmt"
	"strconv"
	"time"

	"widetally/core/book"
	"widetally/core/document"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

// Book is a table book as it was made.
type Book struct {
	Title, Study string
	Revision     uint64
	At           time.Time
	// Design tells the design by which it estimates; nil where respondents are counted.
	Design []document.Message
	Weight string
	Tables []BookTable
	Chance document.Message
}

// BookTable is a table of a book, or why it could not be made.
type BookTable struct {
	Section string
	Shown   book.Shown
	Failed  string
}

// BookReport makes of a table book a report that every form is written from: its sections, and its tables.
func BookReport(w *i18n.Catalogue, b Book) export.Report {
	m := Maker{Words: w}
	out := export.Report{Version: export.ReportVersion, Title: b.Title, Lang: w.Language(), At: b.At, Study: b.Study, Author: m.text("report.author")}
	out.Of = m.of(b.Study, b.At, b.Revision, b.Design != nil)
	out.Words = m.words()
	out.Words.Tables = "" // the contents list them already
	add := func(block export.Block) { out.Blocks = append(out.Blocks, block) }
	for _, text := range append(w.SayAll(b.Design), w.Say(b.Chance)) {
		if text != "" {
			add(export.Block{Kind: export.ParagraphBlock, Runs: []export.Run{{Text: text}}})
		}
	}
	section := ""
	for i, t := range b.Tables {
		if t.Section != section && t.Section != "" {
			add(export.Block{Kind: export.HeadingBlock, Level: 1, Runs: []export.Run{{Text: t.Section}}, Anchor: fmt.Sprintf("part-%d", i+1)})
		}
		section = t.Section
		if t.Failed != "" {
			add(export.Block{Kind: export.ParagraphBlock, Runs: []export.Run{{Text: t.Failed}}})
			continue
		}
		table := BookTableOf(w, t.Shown, b.Weight)
		out.Sideways = out.Sideways || table.Wide()
		table.Number, table.Label = i+1, m.text("report.table", "n", strconv.Itoa(i+1))
		add(export.Block{Kind: export.TableBlock, Table: &table, Anchor: fmt.Sprintf("table-%d", i+1)})
	}
	return out
}

// BookTableOf makes of a table of a book one for a page.
func BookTableOf(w *i18n.Catalogue, t book.Shown, weight string) export.Table {
	of := said.TableOf(&t.Table, w)
	out := printed(w, of, w.SayAll(t.Notes), "book.mark.", "")
	if weight != "" {
		for i := range out.Figures {
			out.Figures[i].Weight = weight
		}
	}
	return out
}
