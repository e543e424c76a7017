package said

import (
	"encoding/json"
	"strings"

	"widetally/core/document"
	"widetally/internal/chart"
	"widetally/internal/i18n"
)

// Of says a document in the words of a catalogue; nil for none. This is the only walk through a
// document: whoever shows one shows what it gives.
func Of(d *document.Document, words *i18n.Catalogue) *Document {
	if d == nil {
		return nil
	}
	w := speaker{words}
	out := &Document{Blocks: make([]Block, len(d.Blocks)), Notes: []Note{}}
	for i, b := range d.Blocks {
		out.Blocks[i] = w.block(b)
	}
	for _, n := range d.Notes {
		out.Notes = append(out.Notes, Note{ID: n.ID, Place: n.Beside, Text: w.Say(n.Message), Caution: n.Caution, Remedy: RemedyOf(n.Remedy, words)})
	}
	if d.Outcome != nil {
		out.Outcome = &Outcome{w.Say(d.Outcome.Text), w.Write(d.Outcome.P)}
	}
	if d.Ticks != nil {
		out.Ticks = &Ticks{Source: d.Ticks.Source, Shares: []Tick{}, Sum: d.Ticks.Sum}
		for _, t := range d.Ticks.Shares {
			out.Ticks.Shares = append(out.Ticks.Shares, Tick(t))
		}
	}
	return out
}

// TableOf says a table.
func TableOf(t *document.Table, words *i18n.Catalogue) *Table { return speaker{words}.table(t) }

// RemedyOf says a remedy; nil for none.
func RemedyOf(r *document.Remedy, words *i18n.Catalogue) *Remedy {
	if r == nil {
		return nil
	}
	out := &Remedy{Label: words.Say(r.Label)}
	switch {
	case r.Answer != "":
		out.Action, out.Code = "answer", r.Answer
	case r.Merge:
		out.Action = "merge"
	case r.Ask != nil:
		out.Action, out.Ask = "ask", askOf(r.Ask)
	default:
		out.Action, out.Change = "change", r.Change
	}
	return out
}

// Paths are the headings of the columns, each behind those over it.
func (t *Table) Paths() []string {
	out := make([]string, len(t.Columns))
	for _, line := range t.Over {
		at := 0
		for _, s := range line {
			for range s.Columns {
				if s.Text != "" && at < len(out) {
					out[at] += s.Text + ": "
				}
				at++
			}
		}
	}
	for i, c := range t.Columns {
		out[i] += c
	}
	return out
}

// Finding is the sentence of a document; "" where it has none.
func (d *Document) Finding() string {
	for _, b := range d.Blocks {
		if b.Kind == document.Sentence {
			return b.Text()
		}
	}
	return ""
}

// Basis tells of whom a document speaks, a text for each of its parts.
func (d *Document) Basis() (out []string) {
	for _, b := range d.Blocks {
		if b.Kind == document.Basis {
			out = append(out, b.Text())
		}
	}
	return out
}

// Fact finds a figure by its key.
func (d *Document) Fact(key string) (value string, ok bool) {
	for _, b := range d.Blocks {
		for _, f := range b.Facts {
			if f.Key == key {
				return f.Value, true
			}
		}
	}
	return "", false
}

// Text is what a block says, in one line.
func (b Block) Text() string { return strings.Join(b.Lines, " ") }

// Figure finds the figure of a cell that has a role.
func (c Cell) Figure(role document.Role) (Figure, bool) {
	for _, f := range c.Figures {
		if f.Role == role {
			return f, true
		}
	}
	return Figure{}, false
}

type speaker struct{ *i18n.Catalogue }

func (w speaker) block(b document.Block) Block {
	if b.Kind == document.Working {
		precise := make([]document.Message, len(b.Said))
		for i, m := range b.Said {
			precise[i] = m.Precise()
		}
		b.Said = precise
	}
	out := Block{Kind: b.Kind, Lines: w.SayAll(b.Said), Formulas: []string{}, Facts: []Fact{}, Table: w.table(b.Table), Chart: chart.Of(b.Chart, w.Catalogue), Choices: w.choices(b.Choices)}
	switch b.Kind {
	case document.WriteUp:
		out.Styles = w.writeUps(b.Said)
	case document.Working:
		for _, m := range b.Said {
			out.Formulas = append(out.Formulas, w.TeX(m))
		}
	case document.Sentence:
		out.Lines = []string{out.Text()}
	}
	for _, f := range b.Facts {
		out.Facts = append(out.Facts, Fact{f.Key, w.Say(f.Name), w.Say(f.Value)})
	}
	return out
}

// writeUps writes the lines of a write-up in each style; the minimal one has the first
// sentence, with the p that it names or that the line for a journal does.
func (w speaker) writeUps(said []document.Message) *WriteUps {
	out := &WriteUps{Plain: w.SayAll(said), Journal: w.In(i18n.JournalStyle).SayAll(said), Minimal: []string{}}
	p := ""
	for _, m := range said {
		if v, ok := m.Values["p"]; ok && v.Kind == document.PEqual {
			p = w.Write(v)
		}
	}
	if len(said) > 0 {
		line := out.Plain[0]
		if p != "" {
			line = w.Catalogue.Text("write_up.minimal", map[string]string{"finding": strings.TrimSuffix(line, "."), "p": p})
		}
		out.Minimal = append(out.Minimal, line)
	}
	return out
}

func (w speaker) choices(c *document.Choice) *Choices {
	if c == nil {
		return nil
	}
	out := &Choices{Label: w.Say(c.Label), Options: []Option{}, Entries: []Entry{}, Folded: c.Folded}
	for _, o := range c.Options {
		option := Option{Label: w.Say(o.Label), Chosen: o.Chosen, Change: o.Change}
		if o.Ask != nil {
			option.Change, option.Ask = json.RawMessage("{}"), askOf(o.Ask)
		}
		out.Options = append(out.Options, option)
	}
	for _, e := range c.Entries {
		out.Entries = append(out.Entries, Entry{w.Say(e.Label), e.Member, e.Text, e.Most})
	}
	return out
}

func (w speaker) table(t *document.Table) *Table {
	if t == nil {
		return nil
	}
	out := &Table{Caption: w.Say(t.Caption), Stub: w.Say(t.Stub), Columns: w.SayAll(t.Columns), Over: make([][]Spanning, len(t.Over)), Rows: make([]Row, len(t.Rows)), Shown: t.Shown, Whole: t.Whole}
	for i, line := range t.Over {
		for _, s := range line {
			out.Over[i] = append(out.Over[i], Spanning{w.Say(s.Label), s.Columns})
		}
	}
	if t.Strips != nil {
		text := w.Say(*t.Strips)
		out.Strips = &text
	}
	for i, r := range t.Rows {
		row := Row{Name: w.Say(r.Name), Cells: make([]Cell, len(r.Cells)), Total: r.Total, Faint: r.Faint, Head: r.Head, Strip: append([]float64{}, r.Strip...)}
		for k, c := range r.Cells {
			row.Cells[k] = w.cell(c)
		}
		out.Rows[i] = row
	}
	return out
}

func (w speaker) cell(c document.Cell) Cell {
	out := Cell{Figures: []Figure{}, Mark: c.Mark, Said: w.Say(c.Said), Who: whoOf(c.Who), Faint: c.Faint, Few: c.Few}
	if c.Mark != "" {
		out.MarkText = w.Catalogue.Text("mark."+string(c.Mark), nil)
	}
	for _, f := range c.Figures {
		figure := Figure{Role: f.Role, Text: w.Write(f.Value), Kind: f.Value.Kind}
		figure.Decimals, figure.Plain = i18n.Decimals(f.Value.Kind)
		if f.Value.Kind != document.Words && f.Value.Kind != document.Said {
			figure.Number = document.Finite(f.Value.Number)
		}
		out.Figures = append(out.Figures, figure)
	}
	return out
}

func askOf(a *document.Ask) *Ask {
	out := &Ask{a.Method, a.Question, whoOf(a.Among), append([]int{}, a.Others...), a.Settings}
	if out.Settings == nil {
		out.Settings = json.RawMessage("{}")
	}
	return out
}

func whoOf(list []document.Who) []Who {
	out := make([]Who, len(list))
	for i, w := range list {
		out[i] = Who(w)
	}
	return out
}
