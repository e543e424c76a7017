package tally

import (
	"fmt"

	"widetally/core/survey"
)

// Groups parts a sample by the proper answers of a question that gives each respondent one of
// a list, in the question's order. Who gave none is in no group.
func Groups(s survey.Source, of survey.Sample) ([]survey.Sample, error) {
	q, rows := s.Question, s.Column.Rows()
	if !q.Kind.Coded() || !of.Fits(rows) {
		return nil, fmt.Errorf("tally: groups by a question of kind %s", q.Kind)
	}
	proper := q.Proper()
	out := make([]survey.Sample, len(proper))
	for i, a := range proper {
		group := survey.Condition{Op: survey.AnyOf, Question: 1, Answers: []survey.Slot{a.Slot}}
		in, err := group.Evaluate(rows, func(uint64) (survey.Source, error) { return s, nil })
		if err != nil {
			return nil, err
		}
		out[i] = survey.Sample{Subset: in.And(of.Subset), Frequency: of.Frequency}
	}
	return out, nil
}
