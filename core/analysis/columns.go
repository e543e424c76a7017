package analysis

import (
	"context"
	"fmt"

	"widetally/core/design"
	"widetally/core/survey"
	"widetally/core/tally"
)

// UsualConfidence is that of the interval of a mean which nobody asked otherwise.
const UsualConfidence = 0.95

// Columns is a source of columns of answers: those of a study, or of a file.
type Columns struct {
	// Get gives a question with its column.
	Get func(key Key) (survey.Source, error)
	// Sample tells who is in a subgroup, "" for everyone.
	Sample func(subgroup Key) (survey.Sample, error)
	// Counted gives the distribution of a question's column in a subgroup from where it is
	// remembered; nil where every question is counted anew.
	Counted func(key, subgroup Key) (*survey.Distribution, error)
	// KeyOf is the key of the question that a derivation names; nil where nothing is derived.
	KeyOf func(id uint64) Key
	// Design is the design in force; nil counts respondents. Sampled remembers what build reads of
	// it; nil where it is read anew.
	Design  *Drawn
	Sampled func(build func() (*design.Sample, error)) (*design.Sample, error)
}

var _ Source = Columns{}

// NewTable makes a source of the columns of one file, which go by their names. counts
// names the column of numbers that says how many respondents a row stands for; "" for none.
// It has no subgroups.
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
		if !c.Question.Kind.Measured() {
			return Columns{}, fmt.Errorf("analysis: %q holds no counts", counts)
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

// counted gives a question with the distribution of its column.
func (c Columns) counted(q, subgroup Key) (survey.Question, *survey.Distribution, error) {
	if c.Counted != nil {
		question, err := c.Question(context.Background(), q)
		if err != nil {
			return question, nil, err
		}
		d, err := c.Counted(q, subgroup)
		return question, d, err
	}
	s, of, err := c.asked(q, subgroup)
	if err != nil {
		return s.Question, nil, err
	}
	d, err := distribute(s, of)
	return s.Question, d, err
}

func distribute(s survey.Source, of survey.Sample) (*survey.Distribution, error) {
	d, err := survey.Distribute(s.Column, s.Question.Slots(), of)
	if err != nil {
		return nil, fmt.Errorf("analysis: question %q: %w", s.Question.Name, err)
	}
	return d, nil
}

// Frequencies implements Source.
func (c Columns) Frequencies(_ context.Context, q, subgroup Key) (*tally.Frequency, error) {
	question, d, err := c.counted(q, subgroup)
	if err != nil {
		return nil, err
	}
	if question.Kind == survey.Summarised {
		return nil, fmt.Errorf("%w: nobody's answer to %q is known", ErrUnknownKey, q)
	}
	return tally.FrequencyOf(question, d), nil
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
	question, d, err := c.counted(q, subgroup)
	if err != nil {
		return nil, err
	}
	return tally.MultipleOf(question, d), nil
}

// by counts a question within each proper answer of the question of the groups.
func by[T any](c Columns, q, groups, subgroup Key, read func(q survey.Question, d *survey.Distribution) (T, error)) ([]T, error) {
	s, of, err := c.asked(q, subgroup)
	if err != nil {
		return nil, err
	}
	g, err := c.Get(groups)
	if err != nil {
		return nil, err
	}
	samples, err := tally.Groups(g, of)
	if err != nil {
		return nil, err
	}
	out := make([]T, len(samples))
	for i, within := range samples {
		d, err := distribute(s, within)
		if err != nil {
			return nil, err
		}
		if out[i], err = read(s.Question, d); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// MultipleResponseBy implements Source.
func (c Columns) MultipleResponseBy(_ context.Context, q, groups, subgroup Key) ([]*tally.MultipleResponse, error) {
	return by(c, q, groups, subgroup, func(q survey.Question, d *survey.Distribution) (*tally.MultipleResponse, error) {
		return tally.MultipleOf(q, d), nil
	})
}

func describe(q survey.Question, d *survey.Distribution) (*tally.Summary, error) {
	return tally.Describe(q.Numbers(d), UsualConfidence)
}

// DescriptivesBy implements Source.
func (c Columns) DescriptivesBy(_ context.Context, q, groups, subgroup Key) ([]*tally.Summary, error) {
	if s, err := c.Get(q); err == nil && s.Question.Kind == survey.Summarised {
		return c.summarised(s.Question, groups, subgroup)
	}
	return by(c, q, groups, subgroup, describe)
}

// Descriptives implements Source.
func (c Columns) Descriptives(_ context.Context, q, subgroup Key) (*tally.Summary, error) {
	question, d, err := c.counted(q, subgroup)
	if err != nil {
		return nil, err
	}
	return describe(question, d)
}

// summarised gives what is known of a number within the answers of the question that its
// summaries are of; of other groups, and of some of the respondents, nothing is.
func (c Columns) summarised(q survey.Question, groups, subgroup Key) (out []*tally.Summary, err error) {
	if subgroup != "" || c.KeyOf == nil || c.KeyOf(q.Derivation.Sources[0]) != groups {
		return nil, fmt.Errorf("%w: of %q only summaries within one question are known", ErrUnknownKey, q.Name)
	}
	g, err := c.Get(groups)
	if err != nil {
		return nil, err
	}
	for _, a := range g.Question.Proper() {
		var known *tally.Summary
		for _, s := range q.Derivation.Summaries {
			if s.Answer == a.Slot {
				known = &tally.Summary{N: s.N, Mean: s.Mean, SD: &s.SD}
			}
		}
		out = append(out, known)
	}
	return out, nil
}
