// Package statistics reads tables of open statistics, JSON-stat 2.0 and SDMX-CSV, from files
// and from a statistics office, and takes shares out of them. Everything that comes is held
// for hostile until it has been read.
package statistics

import (
	"errors"
	"fmt"

	"widetally/core/shares"
)

// Cube is a table of figures over its dimensions.
type Cube struct {
	Title, Publisher, Updated, Note string
	Dims                            []Dim
	// values holds the figures as they are written, by place; "" where there is none.
	values map[int]string
}

// Dim is one dimension with its categories.
type Dim struct {
	ID, Label  string
	Categories []Category
}

// Category is one value of a dimension.
type Category struct{ Code, Label string }

// Bounds of a table.
const (
	MaxBytes   = 8 << 20
	maxDims    = 20
	maxCells   = 5_000_000
	maxPerDim  = 20_000
	maxAnswers = shares.MaxSetAnswers
)

// ErrUnreadable says that something is no table that can be read.
var ErrUnreadable = errors.New("statistics: not readable")

func unreadable(format string, a ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrUnreadable}, a...)...)
}

// check refuses a table whose dimensions cannot be.
func (c *Cube) check() error {
	if len(c.Dims) == 0 || len(c.Dims) > maxDims {
		return unreadable("it has %d dimensions", len(c.Dims))
	}
	cells := 1
	for _, d := range c.Dims {
		if len(d.Categories) == 0 || len(d.Categories) > maxPerDim {
			return unreadable("the dimension %q has %d categories", d.ID, len(d.Categories))
		}
		if cells *= len(d.Categories); cells > maxCells {
			return unreadable("it has too many cells")
		}
	}
	return nil
}

// ErrChoice says that a dimension or a category was named that the table lacks, or that one is
// not chosen yet.
var ErrChoice = errors.New("statistics: choose a category of every other dimension")

// Take gives the categories of a dimension with their figures, the others fixed by the code of
// one category each; a dimension with a single category needs none. Categories without a
// figure are left out; those that count everybody again are given apart, as totals.
func (c *Cube) Take(dim string, fixed map[string]string) (answers, totals []shares.SetAnswer, err error) {
	along, offset, stride, step := -1, 0, 1, 0
	for i := len(c.Dims) - 1; i >= 0; i-- {
		d := c.Dims[i]
		if d.ID == dim {
			along, step = i, stride
		} else {
			at := -1
			for k, category := range d.Categories {
				if len(d.Categories) == 1 || category.Code == fixed[d.ID] {
					at = k
				}
			}
			if at < 0 {
				return nil, nil, ErrChoice
			}
			offset += at * stride
		}
		stride *= len(d.Categories)
	}
	if along < 0 {
		return nil, nil, ErrChoice
	}
	all := []shares.SetAnswer{}
	for k, category := range c.Dims[along].Categories {
		if figure := c.values[offset+k*step]; figure != "" {
			all = append(all, shares.SetAnswer{Label: category.Label, Code: category.Code, Figure: figure})
		}
	}
	answers, totals = withoutTotals(all)
	return answers[:min(len(answers), maxAnswers)], totals, nil
}
