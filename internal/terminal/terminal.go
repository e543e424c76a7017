// Package terminal writes documents as plain text.
package terminal

import (
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"widetally/core/document"
	"widetally/internal/said"
)

// Write writes a document. Pictures are told by their alternative text; choices, which
// cannot be pressed, are left out.
func Write(to io.Writer, d *said.Document) error {
	w := &writer{to: to}
	for _, b := range d.Blocks {
		w.block(b)
	}
	for _, n := range d.Notes {
		mark := "-"
		if n.Caution {
			mark = "!"
		}
		w.line("%s %s", mark, n.Text)
	}
	return w.err
}

type writer struct {
	to  io.Writer
	err error
}

func (w *writer) line(format string, values ...any) {
	if w.err == nil {
		_, w.err = fmt.Fprintf(w.to, format+"\n", values...)
	}
}

func (w *writer) block(b said.Block) {
	switch b.Kind {
	case document.Basis, document.Agreement, document.Hypotheses, document.Heading, document.Sentence:
		w.line("%s\n", b.Text())
	case document.Working:
		for _, line := range b.Lines {
			w.line("  %s", line)
		}
		w.line("")
	case document.Facts:
		w.table(func(t io.Writer) {
			for _, f := range b.Facts {
				fmt.Fprintf(t, "  %s\t%s\n", f.Name, f.Value)
			}
		})
	case document.Figures:
		w.table(func(t io.Writer) { figures(t, b.Table) })
	case document.Chart:
		w.line("%s\n", b.Chart.Alt)
	}
}

func (w *writer) table(fill func(t io.Writer)) {
	t := tabwriter.NewWriter(w.to, 0, 0, 2, ' ', 0)
	fill(t)
	if err := t.Flush(); w.err == nil {
		w.err = err
	}
	w.line("")
}

var marks = map[document.Mark]string{document.More: " ↑", document.Fewer: " ↓"}

// figures writes a line for each figure that is shown in the cells of a row.
func figures(t io.Writer, table *said.Table) {
	fmt.Fprintln(t, strings.Join(append([]string{table.Stub}, table.Columns...), "\t"))
	for _, r := range table.Rows {
		for i, role := range table.Shown {
			cells := []string{""}
			if i == 0 {
				cells[0] = r.Name
			}
			for _, c := range r.Cells {
				f, _ := c.Figure(role)
				if i == 0 && f.Text != "" {
					f.Text += marks[c.Mark]
				}
				cells = append(cells, f.Text)
			}
			fmt.Fprintln(t, strings.Join(cells, "\t"))
		}
	}
}
