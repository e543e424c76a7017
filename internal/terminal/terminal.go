// Package terminal writes documents as plain text.
package terminal

import (
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"widetally/core/document"
	"widetally/internal/i18n"
)

// Write writes a document. Pictures are told by their alternative text; choices, which
// cannot be pressed, are left out.
func Write(to io.Writer, d document.Document, c *i18n.Catalogue) error {
	w := &writer{to: to, words: c}
	for _, b := range d.Blocks {
		w.block(b)
	}
	for _, n := range d.Notes {
		mark := "-"
		if n.Caution {
			mark = "!"
		}
		w.line("%s %s", mark, c.Say(n.Message))
	}
	return w.err
}

type writer struct {
	to    io.Writer
	words *i18n.Catalogue
	err   error
}

func (w *writer) line(format string, values ...any) {
	if w.err == nil {
		_, w.err = fmt.Fprintf(w.to, format+"\n", values...)
	}
}

func (w *writer) block(b document.Block) {
	switch b.Kind {
	case document.Basis, document.Hypotheses, document.Heading, document.Sentence:
		var said []string
		for _, m := range b.Said {
			said = append(said, w.words.Say(m))
		}
		w.line("%s\n", strings.Join(said, " "))
	case document.Working:
		for _, m := range b.Said {
			w.line("  %s", w.words.Say(m))
		}
		w.line("")
	case document.Facts:
		w.table(func(t io.Writer) {
			for _, f := range b.Facts {
				fmt.Fprintf(t, "  %s\t%s\n", w.words.Say(f.Name), w.words.Say(f.Value))
			}
		})
	case document.Figures:
		w.table(func(t io.Writer) { w.figures(t, b.Table) })
	case document.Chart:
		w.line("%s\n", w.words.Say(b.Chart.Alt))
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

// figures writes a line for each figure that is shown in the cells of a row.
func (w *writer) figures(t io.Writer, table *document.Table) {
	head := []string{w.words.Say(table.Stub)}
	for _, c := range table.Columns {
		head = append(head, w.words.Say(c))
	}
	fmt.Fprintln(t, strings.Join(head, "\t"))
	for _, r := range table.Rows {
		for i, role := range table.Shown {
			cells := []string{""}
			if i == 0 {
				cells[0] = w.words.Say(r.Name)
			}
			for _, c := range r.Cells {
				cells = append(cells, w.figure(c, role, i == 0))
			}
			fmt.Fprintln(t, strings.Join(cells, "\t"))
		}
	}
}

var marks = map[document.Mark]string{document.More: " ↑", document.Fewer: " ↓"}

func (w *writer) figure(c document.Cell, role document.Role, first bool) string {
	for _, f := range c.Figures {
		if f.Role != role {
			continue
		}
		text := w.words.Write(f.Value)
		if first {
			text += marks[c.Mark]
		}
		return text
	}
	return ""
}
