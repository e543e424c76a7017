package recipes

import (
	"widetally/core/disclosure"
	"widetally/core/survey"
	"widetally/core/tally"
)

// TallyResult is the tally of a question.
type TallyResult struct {
	Question string         `json:"question"`
	Answered int64          `json:"answered"`
	Missing  int64          `json:"missing"`
	Answers  []AnswerResult `json:"answers"`
}

// TallyOf writes the tally of a question as a rule lets it leave.
func TallyOf(q survey.Question, f *tally.Frequency, r disclosure.Rule) TallyResult {
	q, f = disclosure.CodedEnds(q, f, r)
	out := TallyResult{Question: q.Name, Answered: r.Rounded(f.Answered), Missing: r.Rounded(f.Missing), Answers: []AnswerResult{}}
	withheld, all := disclosure.Frequency(f, q.Kind.Coded(), r)
	for _, row := range f.Rows {
		a, _ := q.Answer(row.Slot)
		one := AnswerResult{Code: a.Code, Label: a.Label}
		if one.Withheld = all || withheld[row.Slot]; !one.Withheld {
			if row.PercentOfAnswered != nil {
				if p, is := r.Percent(row.Count, f.Answered, *row.PercentOfAnswered); is {
					one.Percent = &p
				}
			}
			if count := r.Rounded(row.Count); !r.PercentsOnly {
				one.Count = &count
			}
		}
		out.Answers = append(out.Answers, one)
	}
	return out
}

// AnswerResult is an answer of a tally; the percent is null where nobody answered, and both figures are where a
// rule withholds them.
type AnswerResult struct {
	Code    string   `json:"code"`
	Label   string   `json:"label"`
	Count   *int64   `json:"count"`
	Percent *float64 `json:"percentOfAnswered"`
	// Withheld says that a rule keeps it back.
	Withheld bool `json:"withheld,omitempty"`
}
