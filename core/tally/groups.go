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
	at := make([]*survey.Set, q.Slots())
	for i, a := range proper {
		set := survey.NewSet(rows)
		out[i] = survey.Sample{Subset: set, Frequency: of.Frequency}
		at[a.Slot] = set
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			at[a.Slot] = at[*a.SameAs]
		}
	}
	add := func(row int, slot survey.Slot) {
		if set := at[slot]; set != nil && of.Subset.Has(row) {
			set.Add(row)
		}
	}
	for row, slot := range s.Column.U8 {
		add(row, survey.Slot(slot))
	}
	for row, slot := range s.Column.U16 {
		add(row, survey.Slot(slot))
	}
	return out, nil
}

// TabulateMultipleBy counts a choose-all question within each proper answer of the groups'
// question.
func TabulateMultipleBy(set, groups survey.Source, of survey.Sample) ([]*MultipleResponse, error) {
	return by(groups, of, func(within survey.Sample) (*MultipleResponse, error) {
		return TabulateMultiple(set.Question, set.Column, within)
	})
}

// DescribeBy summarises numbers within each proper answer of the groups' question; nil for
// one in which nobody gave a number.
func DescribeBy(numbers, groups survey.Source, of survey.Sample, confidence float64) ([]*Summary, error) {
	return by(groups, of, func(within survey.Sample) (*Summary, error) {
		return Describe(numbers.Question, numbers.Column, within, confidence)
	})
}

func by[T any](groups survey.Source, of survey.Sample, count func(within survey.Sample) (T, error)) ([]T, error) {
	samples, err := Groups(groups, of)
	if err != nil {
		return nil, err
	}
	out := make([]T, len(samples))
	for i, within := range samples {
		if out[i], err = count(within); err != nil {
			return nil, err
		}
	}
	return out, nil
}
