package httpapi

import (
	"fmt"
	"strconv"

	"widetally/core/claim"
	"widetally/core/survey"
	"widetally/internal/study"
)

type remedyDTO struct {
	Label  string      `json:"label"`
	Slot   survey.Slot `json:"slot"`
	SameAs survey.Slot `json:"sameAs"`
}

type noteDTO struct {
	Place   string     `json:"place"`
	Text    string     `json:"text"`
	Caution bool       `json:"caution"`
	Remedy  *remedyDTO `json:"remedy"`
}

const besideTally = "tally"

func (s *server) toNote(f claim.Finding) noteDTO {
	return noteDTO{Place: string(f.Beside), Text: s.study.Words().Say(f), Caution: f.Caution}
}

// tallyNotes are the notes beside a question's own table.
func (s *server) tallyNotes(v *study.QuestionView) []noteDTO {
	out := []noteDTO{}
	w := s.study.Words()
	byAnswer := map[survey.Slot]survey.Answer{}
	for _, a := range v.Answers {
		byAnswer[a.Slot] = a
	}
	counts := map[survey.Slot]int64{}
	for _, r := range v.Frequency.Rows {
		counts[r.Slot] = r.Count
	}
	for _, l := range v.Lookalikes {
		values := map[string]string{"rare": byAnswer[l.Rare].Code, "common": byAnswer[l.Common].Code,
			"rareCount": strconv.FormatInt(counts[l.Rare], 10), "commonCount": strconv.FormatInt(counts[l.Common], 10)}
		id := "note.lookalike.slip"
		if l.CaseOrBlanks {
			id = "note.lookalike.case"
		}
		out = append(out, noteDTO{Place: besideTally, Text: w.Text(id, values), Caution: true,
			Remedy: &remedyDTO{w.Text("note.lookalike.remedy", values), l.Rare, l.Common}})
	}
	if v.Asked != nil && *v.Asked < v.Frequency.Everyone {
		out = append(out, noteDTO{Place: besideTally, Text: w.Text("note.not_asked", map[string]string{"n": strconv.FormatInt(v.Frequency.Everyone-*v.Asked, 10)})})
	}
	if v.Kind == survey.ChooseAll && v.Frequency.Answered > 0 {
		out = append(out, noteDTO{Place: besideTally, Text: w.Text("note.choose_all", nil)})
	}
	if v.Kind.Coded() && v.Frequency.Answered > 0 && v.SumAnswered != 100 {
		out = append(out, noteDTO{Place: besideTally, Text: w.Text("note.rounding.answered", map[string]string{"sum": fmt.Sprintf("%.*f %%", v.Decimals, v.SumAnswered)})})
	}
	return out
}
