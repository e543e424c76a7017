package analysis

import (
	"context"
	"fmt"

	"widetally/core/survey"
	"widetally/core/tally"
)

// usualConfidence is that of the interval of a mean which nobody asked otherwise.
const usualConfidence = 0.95

// Columns is a source of columns of answers: those of a study, or of a file.
type Columns struct {
	// Get gives a question with its column.
	Get func(key Key) (survey.Source, error)
	// Sample tells who is in a subgroup, "" for everyone.
	Sample func(subgroup Key) (survey.Sample, error)
}

var _ Source = Columns{}

// NewTable makes a source of the columns of one file, which go by their names. counts
// names the column that says how many respondents a row stands for; "" for none. It has
// no subgroups.
func NewTable(columns []survey.Source, counts string) (Columns, error) {
	byName := map[Key]survey.Source{}
	for _, c := range columns {
		if _, twice := byName[Key(c.Question.Name)]; twice {
			return Columns{}, fmt.Errorf("analysis: two columns are called %q", c.Question.Name)
		}
		byName[Key(c.Question.Name)] = c
	}
	get := func(key Key) (survey.Source, error) {
		if c, ok := byName[key]; ok {
			return c, nil
		}
		return survey.Source{}, unknown(key)
	}
	var everyone survey.Sample
	if counts != "" {
		c, err := get(Key(counts))
		if err != nil {
			return Columns{}, err
		}
		everyone.Frequency = c.Column.Multiplicities()
	}
	return Columns{Get: get, Sample: func(subgroup Key) (survey.Sample, error) {
		if subgroup != "" {
			return survey.Sample{}, unknown(subgroup)
		}
		return everyone, nil
	}}, nil
}

// Question implements Source.
func (c Columns) Question(_ context.Context, q Key) (survey.Question, error) {
	s, err := c.Get(q)
	return s.Question, err
}

// asked gives a question with its column and the sample that is counted.
func (c Columns) asked(q, subgroup Key) (survey.Source, survey.Sample, error) {
	s, err := c.Get(q)
	if err != nil {
		return s, survey.Sample{}, err
	}
	of, err := c.Sample(subgroup)
	return s, of, err
}

// Frequencies implements Source.
func (c Columns) Frequencies(_ context.Context, q, subgroup Key) (*tally.Frequency, error) {
	s, of, err := c.asked(q, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.Tabulate(s.Question, s.Column, of)
}

// Crosstab implements Source.
func (c Columns) Crosstab(_ context.Context, rows, columns, layers, subgroup Key) (*tally.Crosstab, error) {
	r, of, err := c.asked(rows, subgroup)
	if err != nil {
		return nil, err
	}
	x := tally.Crossing{Rows: r}
	if x.Columns, err = c.Get(columns); err != nil {
		return nil, err
	}
	if layers != "" {
		l, err := c.Get(layers)
		if err != nil {
			return nil, err
		}
		x.Layers = &l
	}
	t, err := tally.Cross([]tally.Crossing{x}, of)
	if err != nil {
		return nil, err
	}
	return t[0], nil
}

// MultipleResponse implements Source.
func (c Columns) MultipleResponse(_ context.Context, q, subgroup Key) (*tally.MultipleResponse, error) {
	s, of, err := c.asked(q, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.TabulateMultiple(s.Question, s.Column, of)
}

// both gives a question and that of its groups.
func (c Columns) both(q, groups, subgroup Key) (s, g survey.Source, of survey.Sample, err error) {
	if s, of, err = c.asked(q, subgroup); err == nil {
		g, err = c.Get(groups)
	}
	return s, g, of, err
}

// MultipleResponseBy implements Source.
func (c Columns) MultipleResponseBy(_ context.Context, q, groups, subgroup Key) ([]*tally.MultipleResponse, error) {
	s, g, of, err := c.both(q, groups, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.TabulateMultipleBy(s, g, of)
}

// DescriptivesBy implements Source.
func (c Columns) DescriptivesBy(_ context.Context, q, groups, subgroup Key) ([]*tally.Summary, error) {
	s, g, of, err := c.both(q, groups, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.DescribeBy(s, g, of, usualConfidence)
}

// Descriptives implements Source.
func (c Columns) Descriptives(_ context.Context, q, subgroup Key) (*tally.Summary, error) {
	s, of, err := c.asked(q, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.Describe(s.Question, s.Column, of, usualConfidence)
}
