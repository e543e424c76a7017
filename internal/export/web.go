package export

import (
	_ "embed"
	"html/template"
	"io"
)

//go:embed parts/report.html
var reportPage string

// htmlReport is one page that needs nothing else: its styles, its pictures and its links are
// within. What a person wrote is escaped; the pictures are drawn by our own module.
var htmlReport = template.Must(template.New("report").Funcs(template.FuncMap{
	"svg":    func(p *Picture) template.HTML { return template.HTML(p.SVG) }, //nolint:gosec // drawn by the charts module, which escapes its texts
	"wordy":  func(t *Table, at int) bool { return t.wordy(at) },
	"footed": func(t *Table, row int) bool { return row >= len(t.Rows)-t.Foot },
	"shown":  func(c Cell) string { return c.shown() },
}).Parse(reportPage))

func (r Report) html(w io.Writer) error { return htmlReport.Execute(w, r) }
