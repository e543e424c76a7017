package httpapi

import (
	"encoding/json"
	"strings"

	"widetally/core/document"
	"widetally/internal/chart"
	"widetally/internal/i18n"
)

// documentDTO is a document with its messages said.
type documentDTO struct {
	Blocks  []blockDTO  `json:"blocks"`
	Notes   []noteDTO   `json:"notes"`
	Outcome *outcomeDTO `json:"outcome"`
	Ticks   *ticksDTO   `json:"ticks"`
}

type blockDTO struct {
	Kind document.Place `json:"kind"`
	// Lines are the texts of the block: those of a sentence are read as one.
	Lines []string `json:"lines"`
	// Formulas are the lines of a working in TeX, "" for words alone.
	Formulas []string `json:"formulas"`
	// Styles are the write-up in each style; nil for other blocks.
	Styles  *writeUpsDTO `json:"styles"`
	Facts   []factDTO    `json:"facts"`
	Table   *tableDTO    `json:"table"`
	Chart   *chart.Data  `json:"chart"`
	Choices *choicesDTO  `json:"choices"`
}

type factDTO struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

type figureDTO struct {
	Role   document.Role `json:"role"`
	Text   string        `json:"text"`
	Number *float64      `json:"number"`
}

type cellDTO struct {
	Figures []figureDTO   `json:"figures"`
	Mark    document.Mark `json:"mark"`
	// MarkText says the mark in words, for who does not see it.
	MarkText string `json:"markText"`
	// Said is what the cell means, as a sentence; "" where nothing is said.
	Said string `json:"said"`
	// Who are its respondents; empty where nobody tells.
	Who   []whoDTO `json:"who"`
	Faint bool     `json:"faint"`
}

type tableRowDTO struct {
	Name  string    `json:"name"`
	Cells []cellDTO `json:"cells"`
	Total bool      `json:"total"`
	Faint bool      `json:"faint"`
	Head  bool      `json:"head"`
	Strip []float64 `json:"strip"`
}

type tableDTO struct {
	Caption string          `json:"caption"`
	Stub    string          `json:"stub"`
	Columns []string        `json:"columns"`
	Rows    []tableRowDTO   `json:"rows"`
	Strips  *string         `json:"strips"`
	Shown   []document.Role `json:"shown"`
}

type choicesDTO struct {
	Label   string      `json:"label"`
	Options []optionDTO `json:"options"`
	Entries []entryDTO  `json:"entries"`
	// Folded choices open when they are asked for.
	Folded bool `json:"folded"`
}

// entryDTO is a member of the settings that is typed.
type entryDTO struct {
	Label  string `json:"label"`
	Member string `json:"member"`
	Text   string `json:"text"`
	Most   int    `json:"most"`
}

type optionDTO struct {
	Label  string          `json:"label"`
	Chosen bool            `json:"chosen"`
	Change json.RawMessage `json:"change"`
	Ask    *askDTO         `json:"ask"`
}

// askDTO opens the form of another method; questions go by their place in the spec.
type askDTO struct {
	Method   string   `json:"method"`
	Question int      `json:"question"`
	Among    []whoDTO `json:"among"`
	Others   []int    `json:"others"`
	// Settings are what is filled in already.
	Settings json.RawMessage `json:"settings"`
}

func toAsk(a *document.Ask) *askDTO {
	out := &askDTO{a.Method, a.Question, toWho(a.Among), append([]int{}, a.Others...), a.Settings}
	if out.Settings == nil {
		out.Settings = json.RawMessage("{}")
	}
	return out
}

// whoDTO are the respondents that gave an answer; "" for any proper one.
type whoDTO struct {
	Question int    `json:"question"`
	Code     string `json:"code"`
}

func toWho(list []document.Who) []whoDTO {
	out := make([]whoDTO, len(list))
	for i, w := range list {
		out[i] = whoDTO(w)
	}
	return out
}

type outcomeDTO struct {
	Text string `json:"text"`
	P    string `json:"p"`
}

type tickDTO struct {
	Code   string  `json:"code"`
	Share  float64 `json:"share"`
	Points float64 `json:"points"`
}

type ticksDTO struct {
	Source string    `json:"source"`
	Shares []tickDTO `json:"shares"`
	Sum    float64   `json:"sum"`
}

func (s *server) say(m document.Message) string { return s.Words().Say(m) }

func (s *server) sayAll(list []document.Message) []string { return s.Words().SayAll(list) }

func (s *server) toDocument(d *document.Document) *documentDTO {
	if d == nil {
		return nil
	}
	out := &documentDTO{Blocks: make([]blockDTO, len(d.Blocks)), Notes: []noteDTO{}}
	for i, b := range d.Blocks {
		out.Blocks[i] = s.toBlock(b)
	}
	for _, n := range d.Notes {
		out.Notes = append(out.Notes, s.toNote(n))
	}
	if d.Outcome != nil {
		out.Outcome = &outcomeDTO{s.say(d.Outcome.Text), s.Words().Write(d.Outcome.P)}
	}
	if d.Ticks != nil {
		out.Ticks = &ticksDTO{Source: d.Ticks.Source, Shares: []tickDTO{}, Sum: d.Ticks.Sum}
		for _, t := range d.Ticks.Shares {
			out.Ticks.Shares = append(out.Ticks.Shares, tickDTO(t))
		}
	}
	return out
}

func (s *server) toBlock(b document.Block) blockDTO {
	out := blockDTO{Kind: b.Kind, Lines: s.sayAll(b.Said), Formulas: []string{}, Facts: []factDTO{}, Table: s.toTable(b.Table), Chart: chart.Of(b.Chart, s.Words())}
	if b.Kind == document.WriteUp {
		out.Styles = s.writeUps(b.Said)
	}
	if b.Kind == document.Working {
		for _, m := range b.Said {
			out.Formulas = append(out.Formulas, s.Words().TeX(m))
		}
	}
	if b.Kind == document.Sentence {
		out.Lines = []string{strings.Join(out.Lines, " ")}
	}
	for _, f := range b.Facts {
		out.Facts = append(out.Facts, factDTO{f.Key, s.say(f.Name), s.say(f.Value)})
	}
	if c := b.Choices; c != nil {
		out.Choices = &choicesDTO{Label: s.say(c.Label), Options: []optionDTO{}, Entries: []entryDTO{}, Folded: c.Folded}
		for _, o := range c.Options {
			option := optionDTO{Label: s.say(o.Label), Chosen: o.Chosen, Change: o.Change}
			if o.Ask != nil {
				option.Change, option.Ask = json.RawMessage("{}"), toAsk(o.Ask)
			}
			out.Choices.Options = append(out.Choices.Options, option)
		}
		for _, e := range c.Entries {
			out.Choices.Entries = append(out.Choices.Entries, entryDTO{s.say(e.Label), e.Member, e.Text, e.Most})
		}
	}
	return out
}

// writeUpsDTO are the same in the styles of writing it up.
type writeUpsDTO struct {
	Plain   []string `json:"plain"`
	Journal []string `json:"journal"`
	Minimal []string `json:"minimal"`
}

// writeUps writes the lines of a write-up in each style; the minimal one has the first
// sentence, with the p that it names or that the line for a journal does.
func (s *server) writeUps(said []document.Message) *writeUpsDTO {
	out := &writeUpsDTO{Plain: []string{}, Journal: []string{}, Minimal: []string{}}
	in := s.Words().In(i18n.JournalStyle)
	p := ""
	for _, m := range said {
		out.Plain, out.Journal = append(out.Plain, s.say(m)), append(out.Journal, in.Say(m))
		if v, ok := m.Values["p"]; ok && v.Kind == document.PEqual {
			p = s.Words().Write(v)
		}
	}
	if len(said) > 0 {
		line := s.say(said[0])
		if p != "" {
			line = s.Words().Text("write_up.minimal", map[string]string{"finding": strings.TrimSuffix(line, "."), "p": p})
		}
		out.Minimal = append(out.Minimal, line)
	}
	return out
}

func (s *server) toTable(t *document.Table) *tableDTO {
	if t == nil {
		return nil
	}
	out := &tableDTO{Caption: s.say(t.Caption), Stub: s.say(t.Stub), Columns: s.sayAll(t.Columns), Rows: make([]tableRowDTO, len(t.Rows)), Shown: t.Shown}
	if t.Strips != nil {
		text := s.say(*t.Strips)
		out.Strips = &text
	}
	for i, r := range t.Rows {
		row := tableRowDTO{Name: s.say(r.Name), Cells: make([]cellDTO, len(r.Cells)), Total: r.Total, Faint: r.Faint, Head: r.Head, Strip: append([]float64{}, r.Strip...)}
		for k, c := range r.Cells {
			row.Cells[k] = s.toCell(c)
		}
		out.Rows[i] = row
	}
	return out
}

func (s *server) toCell(c document.Cell) cellDTO {
	out := cellDTO{Figures: []figureDTO{}, Mark: c.Mark, Said: s.say(c.Said), Who: toWho(c.Who), Faint: c.Faint}
	if c.Mark != "" {
		out.MarkText = s.Words().Text("mark."+string(c.Mark), nil)
	}
	for _, f := range c.Figures {
		figure := figureDTO{Role: f.Role, Text: s.Words().Write(f.Value)}
		if f.Value.Kind != document.Words && f.Value.Kind != document.Said {
			figure.Number = document.Finite(f.Value.Number)
		}
		out.Figures = append(out.Figures, figure)
	}
	return out
}
