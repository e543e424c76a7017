package analysis

import (
	"context"

	"widetally/core/design"
	"widetally/core/survey"
)

// Drawn implements Source.
func (c Columns) Drawn() *Drawn { return c.Design }

// Cells implements Source.
func (c Columns) Cells(_ context.Context, questions []Key, subgroup Key) (*design.Cells, error) {
	of, err := c.Sample(subgroup)
	if err != nil {
		return nil, err
	}
	if of.Frequency != nil {
		return nil, Refused("design.counted_rows", "/design", nil)
	}
	var codes []func(rows []int, at []int32, size int32)
	var only survey.Source
	sizes, cells, rows := []int{}, 1, 0
	for _, key := range questions {
		s, err := c.Get(key)
		if err != nil {
			return nil, err
		}
		only = s
		codes, sizes, rows = append(codes, answersOf(s)), append(sizes, len(s.Question.Proper())), s.Column.Rows()
		cells *= sizes[len(sizes)-1]
	}
	if len(questions) == 0 {
		s, err := c.Get(c.Design.Questions()[0])
		if err != nil {
			return nil, err
		}
		rows = s.Column.Rows()
	}
	if cells > MaxDesignedCells {
		return nil, Refused("compute."+string(TooManyCells), "/questions", nil)
	}
	sample, err := c.sampled(rows)
	if err != nil {
		return nil, err
	}
	if len(questions) == 1 && cells < design.NoByte {
		if code := bytesOf(only); code != nil {
			return sample.CellsByBytes(cells, func(rows []int, at []uint8) {
				code(rows, at)
				if of.Subset != nil {
					keepBytes(of.Subset, rows, at)
				}
			})
		}
	}
	return sample.CellsBy(cells, func(rows []int, at []int32) {
		if len(codes) == 0 {
			clear(at)
		}
		for i, code := range codes {
			if i == 0 {
				code(rows, at, first)
			} else {
				code(rows, at, int32(sizes[i]))
			}
		}
		if of.Subset != nil {
			keep(of.Subset, rows, at)
		}
	})
}

// MaxDesignedCells bounds the cells whose covariance is estimated.
const MaxDesignedCells = 400

// sampled reads the design in force, or remembers it.
func (c Columns) sampled(rows int) (*design.Sample, error) {
	build := func() (*design.Sample, error) { return c.Design.Sample(c.Get, rows) }
	if c.Sampled != nil {
		return c.Sampled(build)
	}
	return build()
}

// StrataNames implements Source.
func (c Columns) StrataNames(context.Context) ([]string, error) {
	if len(c.Design.Strata) == 0 || len(c.Design.Replicates) > 0 {
		return nil, nil
	}
	s, err := c.Get(c.Design.Strata[0])
	if err != nil {
		return nil, err
	}
	sample, err := c.sampled(s.Column.Rows())
	if err != nil {
		return nil, err
	}
	return c.Design.strataNames(c.Get, sample)
}

// Items implements Source.
func (c Columns) Items(_ context.Context, question, groups, subgroup Key) ([]*design.Items, error) {
	of, err := c.Sample(subgroup)
	if err != nil {
		return nil, err
	}
	if of.Frequency != nil {
		return nil, Refused("design.counted_rows", "/design", nil)
	}
	s, err := c.Get(question)
	if err != nil {
		return nil, err
	}
	sample, err := c.sampled(s.Column.Rows())
	if err != nil {
		return nil, err
	}
	chosen, parts := setAt(s), 1
	group := func(int) int { return 0 }
	if groups != "" {
		g, err := c.Get(groups)
		if err != nil {
			return nil, err
		}
		group, parts = answerAt(g), len(g.Question.Proper())
	}
	out := make([]*design.Items, parts)
	for i := range out {
		out[i], err = sample.Items(len(s.Question.Proper()), func(row int) (uint64, bool) {
			if of.Counts(row) == 0 || group(row) != i {
				return 0, false
			}
			return chosen(row)
		})
		if err = some(err); err != nil {
			return nil, err
		}
	}
	return out, nil
}
