package analysis

import (
	"context"
	"fmt"

	"widetally/core/design"
	"widetally/core/survey"
)

// Panel implements Source.
func (c Columns) Panel(
	ctx context.Context, question, waves, identifier, subgroup Key,
) (*design.Cells, [][]int64, error) {
	who, err := c.Get(identifier)
	if err != nil {
		return nil, nil, err
	}
	q, of, err := c.asked(question, subgroup)
	if err != nil {
		return nil, nil, err
	}
	w, err := c.Get(waves)
	if err != nil {
		return nil, nil, err
	}
	labels, err := labelsOf(who)
	if err != nil {
		return nil, nil, err
	}
	by := c
	by.Sampled = nil
	d := Drawn{}
	if c.Design != nil {
		d = *c.Design
	}
	if d.Cluster == "" && d.Replicates == nil {
		d.Cluster = identifier
		by.Get = func(key Key) (survey.Source, error) {
			if key == identifier {
				return recognised(who, labels), nil
			}
			return c.Get(key)
		}
	}
	by.Design = &d
	cells, err := by.Cells(ctx, []Key{question, waves}, subgroup)
	if err != nil {
		return nil, nil, err
	}
	return cells, overlapOf(len(w.Question.Proper()), labels, answerAt(q), answerAt(w), of), nil
}

// recognised is a column of identifiers in which who has none is somebody of his own.
func recognised(who survey.Source, labels []int) survey.Source {
	out := survey.Source{Question: who.Question}
	for row, label := range labels {
		text := fmt.Sprintf("%d", label)
		if label < 0 {
			text = fmt.Sprintf("row %d", row)
		}
		out.Column.Text = append(out.Column.Text, text)
	}
	return out
}

// overlapOf counts who answered a question in each pair of waves.
func overlapOf(waves int, labels []int, answer, wave func(row int) int, of survey.Sample) [][]int64 {
	out := make([][]int64, waves)
	for i := range out {
		out[i] = make([]int64, waves)
	}
	in := map[int]map[int]bool{}
	for row, label := range labels {
		if at := wave(row); label >= 0 && at >= 0 && answer(row) >= 0 && of.Counts(row) > 0 {
			if in[label] == nil {
				in[label] = map[int]bool{}
			}
			in[label][at] = true
		}
	}
	for _, waves := range in {
		for i := range waves {
			for j := range waves {
				out[i][j]++
			}
		}
	}
	return out
}

// Panel implements Source: of typed counts nobody is recognised.
func (Typed) Panel(context.Context, Key, Key, Key, Key) (*design.Cells, [][]int64, error) {
	return nil, nil, ErrUnknownKey
}
