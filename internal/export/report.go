package export

import (
	"archive/zip"
	"cmp"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"
)

// Report is a report as it leaves: everything in it is said. Writers know its blocks and
// nothing of studies.
type Report struct {
	// Version is that of this form, for who reads it as JSON.
	Version int    `json:"version"`
	Title   string `json:"title"`
	Lang    string `json:"lang"`
	// Of says from which study it comes, in which state, and when.
	Of string `json:"of"`
	// Study is the name of it alone, and Author who made the report: what is told in the properties of a
	// document.
	Study  string `json:"study,omitempty"`
	Author string `json:"author,omitempty"`
	// Template is the document of which a DOCX takes its styles and pages; nil for none.
	Template *Template `json:"-"`
	// Words are those that a document needs beside its blocks.
	Words Words `json:"-"`
	// Sideways puts all tables of a document on pages on their side.
	Sideways bool `json:"-"`
	// OneSheet puts all tables of a workbook on one sheet.
	OneSheet bool      `json:"-"`
	At       time.Time `json:"at"`
	Blocks   []Block   `json:"blocks"`
}

// Words head the lists of a document.
type Words struct {
	Contents, Tables, Pictures string
	// Figures heads all figures, one by one.
	Figures string
	// Table, Row, Column, Figure, Value, Base, Weight and Printed head the columns of all figures.
	Table, Row, Column, Figure, Value, Base, Weight, Printed string
}

// contents and figures name the sheets that a workbook has beside its tables.
func (w Words) contents() string { return cmp.Or(w.Contents, "Contents") }
func (w Words) figures() string  { return cmp.Or(w.Figures, "Figures") }

// ReportVersion is that of the JSON of a report.
const ReportVersion = 1

// BlockKind says what a block is.
type BlockKind string

// The kinds of blocks.
const (
	HeadingBlock   BlockKind = "heading"
	ParagraphBlock BlockKind = "paragraph"
	ListBlock      BlockKind = "list"
	QuoteBlock     BlockKind = "quote"
	TableBlock     BlockKind = "table"
	PictureBlock   BlockKind = "picture"
)

// Block is one block of a report. Which of its fields are set follows from its kind.
type Block struct {
	Kind BlockKind `json:"kind"`
	// Piece is the piece of the report that it belongs to, 0 for what the report makes of itself.
	Piece int `json:"piece"`
	// Part is the part that the report makes of itself; "" for a piece.
	Part string `json:"part,omitempty"`
	// Level is that of a heading, from 1.
	Level int `json:"level,omitempty"`
	// Runs are the text of a heading, a paragraph or a quotation.
	Runs []Run `json:"runs,omitempty"`
	// Items are those of a list, Numbered or not.
	Items    [][]Run  `json:"items,omitempty"`
	Numbered bool     `json:"numbered,omitempty"`
	Table    *Table   `json:"table,omitempty"`
	Picture  *Picture `json:"picture,omitempty"`
	// Anchor is what references within the report go to.
	Anchor string `json:"anchor,omitempty"`
}

// Run is a piece of text that looks alike.
type Run struct {
	Text   string `json:"text"`
	Bold   bool   `json:"bold,omitempty"`
	Italic bool   `json:"italic,omitempty"`
	Code   bool   `json:"code,omitempty"`
	// Link is an address, or # and an anchor.
	Link string `json:"link,omitempty"`
	// Source is what a live figure follows; Stale says what is wrong with it, as a sentence.
	Source string `json:"source,omitempty"`
	Stale  string `json:"stale,omitempty"`
}

// Picture is a chart, drawn.
type Picture struct {
	Caption string `json:"caption"`
	// Notes are lines on the base and the respondents.
	Notes []string `json:"notes"`
	// Number counts the pictures of the report from 1, and Label says it, as in “Figure 2”.
	Number int    `json:"number"`
	Label  string `json:"label"`
	Alt    string `json:"alt"`
	SVG    string `json:"svg"`
	// PNG is the same in dots, for readers that know no SVG, and PDF as a page, for those that take pages.
	PNG []byte `json:"-"`
	PDF []byte `json:"-"`
	// Width and Height are in CSS pixels, of which 96 make an inch.
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// Plain is the text of runs.
func Plain(runs []Run) string {
	var b strings.Builder
	for _, r := range runs {
		b.WriteString(r.Text)
	}
	return b.String()
}

// ReportForm is a form in which a report leaves.
type ReportForm string

// The forms of reports.
const (
	HTMLReport     ReportForm = "html"
	DOCXReport     ReportForm = "docx"
	ODTReport      ReportForm = "odt"
	XLSXReport     ReportForm = "xlsx"
	ODSReport      ReportForm = "ods"
	CSVReport      ReportForm = "csv"
	MarkdownReport ReportForm = "md"
	LaTeXReport    ReportForm = "tex"
	JSONReport     ReportForm = "json"
	// FiguresReport is all figures as text, one a line at full precision, for who computes on.
	FiguresReport ReportForm = "figures"
	// PDFReport is the pages of a text document, which an office suite makes where there is one.
	PDFReport ReportForm = "pdf"
)

// ReportForms lists the forms, documents first, then tables, then data.
var ReportForms = []ReportForm{DOCXReport, ODTReport, HTMLReport, XLSXReport, ODSReport, CSVReport, FiguresReport, MarkdownReport, LaTeXReport, JSONReport}

// MediaType is that of the form; "" for a form that does not exist.
func (f ReportForm) MediaType() string {
	return map[ReportForm]string{
		HTMLReport: "text/html; charset=utf-8", CSVReport: "text/csv; charset=utf-8", FiguresReport: "text/csv; charset=utf-8", MarkdownReport: "text/markdown; charset=utf-8",
		LaTeXReport: "application/x-tex; charset=utf-8", JSONReport: "application/json",
		DOCXReport: "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
		XLSXReport: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		ODTReport:  odtMedia, ODSReport: odsMedia, PDFReport: "application/pdf",
	}[f]
}

// Extension is the ending of the name of its file.
func (f ReportForm) Extension() string {
	if f == FiguresReport {
		return string(CSVReport)
	}
	return string(f)
}

// Archived says that its pictures stand beside it, so that it leaves as an archive.
func (f ReportForm) Archived() bool { return f == MarkdownReport || f == LaTeXReport }

// HasDots says that pictures stand in it as dots, HasPages that they stand beside it as pages.
func (f ReportForm) HasDots() bool {
	return slices.Contains([]ReportForm{DOCXReport, PDFReport, XLSXReport, ODSReport, MarkdownReport}, f)
}

// HasPages says that its pictures stand beside it as pages.
func (f ReportForm) HasPages() bool { return f == LaTeXReport }

// HasPictures says whether pictures stand in it.
func (r Report) HasPictures() bool {
	return slices.ContainsFunc(r.Blocks, func(b Block) bool { return b.Picture != nil })
}

// file is where a picture stands beside a text in a form, named by its number and what it shows.
func (p *Picture) file(f ReportForm) string {
	extension := "png"
	if f.HasPages() {
		extension = "pdf"
	}
	return "pictures/" + FileName(p.Label+" "+p.Caption, fmt.Sprintf("picture-%d", p.Number), time.Time{}, extension)
}

// Beside are the files that stand beside a report in a form, by the names under which it refers to them.
func (r Report) Beside(f ReportForm) map[string][]byte {
	out := map[string][]byte{}
	for _, b := range r.Blocks {
		switch {
		case b.Picture == nil || !f.Archived():
		case f.HasPages():
			out[b.Picture.file(f)] = b.Picture.PDF
		default:
			out[b.Picture.file(f)] = b.Picture.PNG
		}
	}
	return out
}

// Archive writes the report as a zip archive of its text, called name, and its pictures.
func (r Report) Archive(w io.Writer, f ReportForm, name string) error {
	out := zip.NewWriter(w)
	entry, err := out.Create(name)
	if err == nil {
		err = r.Write(entry, f)
	}
	beside := r.Beside(f)
	for _, name := range slices.Sorted(maps.Keys(beside)) {
		if err == nil {
			err = text(out, name, string(beside[name]))
		}
	}
	if err == nil {
		err = out.Close()
	}
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	return nil
}

// tables are those of the report, in their order.
func (r Report) tables() (out []*Table) {
	for _, b := range r.Blocks {
		if b.Table != nil {
			out = append(out, b.Table)
		}
	}
	return out
}

// caption is what stands over a table.
func (t Table) caption() string {
	if t.Number == 0 {
		return t.Title
	}
	return fmt.Sprintf("%s. %s", t.Label, t.Title)
}

// Write writes the report in a form.
func (r Report) Write(w io.Writer, f ReportForm) error {
	switch f {
	case HTMLReport:
		return r.html(w)
	case PDFReport: // which is made of the pages of another
		return r.Write(w, r.PagesFrom())
	case DOCXReport:
		return r.docx(w)
	case ODTReport:
		return r.odt(w)
	case XLSXReport:
		return r.workbook(w)
	case ODSReport:
		return r.ods(w)
	case CSVReport:
		return r.csv(w)
	case FiguresReport:
		return r.figures(w)
	case MarkdownReport:
		return r.markdown(w)
	case LaTeXReport:
		return r.latex(w)
	}
	return r.json(w)
}

// PagesFrom is the form of which the pages of a PDF are made: that whose contents know their pages, or that
// which follows a template.
func (r Report) PagesFrom() ReportForm {
	if r.Template != nil {
		return DOCXReport
	}
	return ODTReport
}

// signed are the tables, each with where it comes from, or one that says that there are none.
func (r Report) signed() (out []*Table) {
	for _, t := range r.tables() {
		if t.caption() == "" { // of the prose, which stands in documents alone
			continue
		}
		one := *t
		one.Notes = append(append([]string{}, t.Notes...), r.Of)
		out = append(out, &one)
	}
	if len(out) == 0 {
		out = []*Table{{Title: r.Title, Notes: []string{r.Of}}}
	}
	return out
}
