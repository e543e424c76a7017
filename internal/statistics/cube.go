// Package statistics reads tables of open statistics, JSON-stat 2.0 and SDMX-CSV, from files
// and from a statistics office, and takes shares out of them. Everything that comes is held
// for hostile until it has been read.
package statistics

import (
	"errors"
	"strconv"

	"widetally/core/shares"
)

// Cube is a table of figures over its dimensions.
type Cube struct {
	Title, Publisher, Updated, Note string
	Dims                            []Dim
	// values holds the figures as they are written, by place; "" where there is none.
	values []string
	// status is what is said of a figure, or of its lacking, by place; allStatus is that of all.
	status    map[int]string
	allStatus string
}

// Dim is one dimension with its categories.
type Dim struct {
	ID, Label  string
	Categories []Category
}

// Category is one value of a dimension. A parent holds others, so that it counts them again.
type Category struct {
	Code, Label string
	Parent      bool
}

// Bounds of a table.
const (
	MaxBytes   = 8 << 20
	maxDims    = 20
	maxCells   = 5_000_000
	maxPerDim  = 20_000
	maxAnswers = shares.MaxSetAnswers
)

// ErrUnreadable says that something is no table that can be read; a *TableError says why.
var ErrUnreadable = errors.New("statistics: not readable")

// TableError is a reason of ErrUnreadable; its text is in the catalogue under office.table.
type TableError struct {
	Why    string
	Values map[string]string
}

func (e *TableError) Error() string { return "statistics: not readable: " + e.Why }

// Unwrap makes it an ErrUnreadable.
func (e *TableError) Unwrap() error { return ErrUnreadable }

// unreadable makes a TableError of its reason and the names and values of its text.
func unreadable(why string, values ...string) error {
	e := &TableError{Why: why, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		e.Values[values[i]] = values[i+1]
	}
	return e
}

// checkSizes refuses dimensions that cannot be, before any memory is spent on them.
func checkSizes(ids []string, sizes []int) error {
	if len(ids) == 0 || len(ids) > maxDims {
		return unreadable("dimensions", "n", strconv.Itoa(len(ids)), "most", strconv.Itoa(maxDims))
	}
	cells := 1
	for i, n := range sizes {
		if n < 1 || n > maxPerDim {
			return unreadable("size", "name", ids[i], "n", strconv.Itoa(n), "most", strconv.Itoa(maxPerDim))
		}
		if cells *= n; cells > maxCells {
			return unreadable("cells", "most", strconv.Itoa(maxCells))
		}
	}
	return nil
}

// cells is how many the dimensions make.
func (c *Cube) cells() int {
	n := 1
	for _, d := range c.Dims {
		n *= len(d.Categories)
	}
	return n
}

// ErrChoice says that a dimension or a category was named that the table lacks, or that one is
// not chosen yet.
var ErrChoice = errors.New("statistics: choose a category of every other dimension")

// Taken is the categories of a dimension with their figures.
type Taken struct {
	Answers []shares.SetAnswer
	// Totals count everybody again: by their code, their name and size, or as parents of others.
	Totals []shares.SetAnswer
	// Lacking have no figure; Flagged have one of which something is said.
	Lacking, Flagged []Flagged
}

// Flagged is a category and what the table says of its figure, "" for nothing.
type Flagged struct{ Label, Status string }

// Take gives the categories of a dimension with their figures, the others fixed by the code of
// one category each; a dimension with a single category needs none.
func (c *Cube) Take(dim string, fixed map[string]string) (*Taken, error) {
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
				return nil, ErrChoice
			}
			offset += at * stride
		}
		stride *= len(d.Categories)
	}
	if along < 0 {
		return nil, ErrChoice
	}
	out, all, parents := &Taken{}, []shares.SetAnswer{}, map[string]bool{}
	for k, category := range c.Dims[along].Categories {
		at := offset + k*step
		status := c.status[at]
		if status == "" {
			status = c.allStatus
		}
		figure := c.values[at]
		switch {
		case figure == "":
			out.Lacking = append(out.Lacking, Flagged{category.Label, status})
			continue
		case status != "":
			out.Flagged = append(out.Flagged, Flagged{category.Label, status})
		}
		parents[category.Code] = category.Parent
		all = append(all, shares.SetAnswer{Label: category.Label, Code: category.Code, Figure: figure})
	}
	out.Answers, out.Totals = withoutTotals(all, parents)
	out.Answers = out.Answers[:min(len(out.Answers), maxAnswers)]
	return out, nil
}
