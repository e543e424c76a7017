package httpapi

import (
	"strings"

	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/service"
)

// copiedDTO is a tally as tab-separated text for a spreadsheet or a document, exactly as it
// is shown over either base.
type copiedDTO struct {
	Answered string `json:"answered"`
	Everyone string `json:"everyone"`
}

func (s *server) toCopied(v *service.QuestionView) copiedDTO {
	if !v.Kind.Tabulated() {
		return copiedDTO{}
	}
	f := v.Frequency
	all := append(append([]tally.Row{}, f.Rows...), f.MissingRows...)
	return copiedDTO{
		Answered: s.copied(v, "answered", f.Rows, f.Answered, func(r tally.Row) *float64 { return r.PercentOfAnswered }),
		Everyone: s.copied(v, "everyone", all, f.Everyone, func(r tally.Row) *float64 { return r.PercentOfEveryone }),
	}
}

func (s *server) copied(v *service.QuestionView, base string, rows []tally.Row, n int64, percent func(r tally.Row) *float64) string {
	w := s.study.Words()
	lines := [][]string{{v.Wording}, {w.Text("column.answer", nil), w.Text("column.count", nil), w.Text("column.of_"+base, nil)}}
	for _, r := range rows {
		a, _ := v.Answer(r.Slot)
		shown := ""
		if p := percent(r); p != nil {
			shown = w.Fixed(*p, v.Decimals)
		}
		lines = append(lines, []string{a.Label, w.Fixed(float64(r.Count), 0), shown})
	}
	lines = append(lines, []string{w.Text("column.n", nil), w.Fixed(float64(n), 0), ""})
	text := make([]string, len(lines))
	for i, cells := range lines {
		for k, cell := range cells {
			cells[k] = survey.Neutral(strings.Join(strings.FieldsFunc(cell, func(r rune) bool { return r == '\t' || r == '\r' || r == '\n' }), " "))
		}
		text[i] = strings.Join(cells, "\t")
	}
	return strings.Join(text, "\n")
}
