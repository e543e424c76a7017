package httpapi

import (
	"fmt"
	"strconv"
	"strings"

	"widetally/core/document"
	"widetally/core/inspect"
	"widetally/core/survey"
	"widetally/internal/said"
	"widetally/internal/service"
)

const besideTally = "tally"

// Below these numbers of respondents a percent is said to rest on few, and on very few.
const (
	fewAnswered     = 100
	veryFewAnswered = 30
)

// visible shows the spaces at the ends of a code, and more than one between its words,
// which nobody sees otherwise.
func visible(code string) string {
	if code == strings.Join(strings.Fields(code), " ") {
		return code
	}
	return strings.ReplaceAll(code, " ", "␣")
}

// tallyNotes are the notes beside a question's own table.
func (s *server) tallyNotes(v *service.QuestionView) []said.Note {
	out := []said.Note{}
	w := s.words
	if len(v.Withheld) > 0 {
		m := document.Say("disclosure.withheld_answers", document.Values{"answers": document.Quotes(document.Listed, v.Withheld), "fewest": document.N(max(v.Rule.Fewest, v.Rule.Least))})
		out = append(out, said.Note{Place: document.Figures, Text: s.say(m)})
	}
	byAnswer := map[survey.Slot]survey.Answer{}
	for _, a := range v.Answers {
		byAnswer[a.Slot] = a
	}
	counts := map[survey.Slot]int64{}
	for _, r := range v.Frequency.Rows {
		counts[r.Slot] = r.Count
	}
	for _, l := range v.Lookalikes {
		rare, common := byAnswer[l.Rare].Code, byAnswer[l.Common].Code
		values := map[string]string{"rare": visible(rare), "common": visible(common),
			"rareCount": strconv.FormatInt(counts[l.Rare], 10), "commonCount": strconv.FormatInt(counts[l.Common], 10)}
		id := "note.lookalike.slip"
		if l.CaseOrBlanks {
			id = "note.lookalike.case"
		}
		out = append(out, said.Note{Place: besideTally, Text: w.Text(id, values), Caution: true,
			Remedy: &said.Remedy{Action: "same", Label: w.Text("note.lookalike.remedy", values), Code: rare, Other: common}})
	}
	for _, x := range v.Suspicions {
		if x.Kind == inspect.SameButCase || x.Kind == inspect.SameButSlip || x.Kind == inspect.LooksCount && v.IsCounts {
			continue // said above, or answered
		}
		if noticed := s.toSuspicion(v.Question.Question, x); noticed.Remedy != nil {
			out = append(out, said.Note{Place: besideTally, Text: noticed.Text, Caution: true, Remedy: noticed.Remedy})
		}
	}
	if v.Asked != nil && *v.Asked < v.Frequency.Everyone {
		out = append(out, said.Note{Place: besideTally, Text: w.Text("note.not_asked", map[string]string{"n": strconv.FormatInt(v.Frequency.Everyone-*v.Asked, 10)})})
	}
	if v.Kind == survey.ChooseAll && v.Frequency.Answered > 0 {
		out = append(out, said.Note{Place: besideTally, Text: w.Text("note.choose_all", nil)})
	}
	for _, of := range []struct {
		base string
		n    int64
		sum  float64
	}{{"answered", v.Frequency.Answered, v.SumAnswered}, {"everyone", v.Frequency.Everyone, v.SumEveryone}} {
		if v.Kind.Coded() && of.n > 0 && of.sum != 100 {
			out = append(out, said.Note{Place: besideTally, Base: of.base, Text: w.Text("note.rounding."+of.base, map[string]string{"sum": fmt.Sprintf("%.*f %%", v.Decimals, of.sum)})})
		}
	}
	if n := v.Frequency.Answered; v.Kind.Tabulated() && n > 0 && n < fewAnswered {
		id := "note.few.small"
		if n < veryFewAnswered {
			id = "note.few.tiny"
		}
		out = append(out, said.Note{Place: besideTally, Caution: n < veryFewAnswered, Text: w.Text(id, map[string]string{"n": strconv.FormatInt(n, 10), "points": fmt.Sprintf("%.1f", 100/float64(n))})})
	}
	return out
}
