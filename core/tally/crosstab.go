package tally

import (
	"errors"
	"fmt"

	"widetally/core/survey"
)

// Cell is one cell of a crosstab. The weighted sum will join it.
type Cell struct {
	N int64 // respondents
}

// Axis is one side of a crosstab: every answer under which the question counts, the
// missing ones too, in the question's order.
type Axis struct{ Answers []survey.Answer }

// axisOf gives the axis of a question, and per slot the position at which it counts.
func axisOf(q survey.Question) (Axis, []int) {
	var axis Axis
	at := make([]int, q.Slots())
	for i := range at {
		at[i] = -1
	}
	for _, a := range q.Answers {
		if a.SameAs == nil {
			at[a.Slot] = len(axis.Answers)
			axis.Answers = append(axis.Answers, a)
		}
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			at[a.Slot] = at[*a.SameAs]
		}
	}
	return axis, at
}

// Proper lists the positions of the proper answers.
func (a Axis) Proper() (at []int) {
	for i, answer := range a.Answers {
		if answer.Missing == "" {
			at = append(at, i)
		}
	}
	return at
}

// Crosstab holds two questions crossed, within the answers of a third where there are
// layers. Empty rows and columns and the missing are kept.
type Crosstab struct {
	Rows, Columns Axis
	Layers        *Axis  // nil for none
	Cells         []Cell // layer by layer, row by row
}

// At returns a cell; layer is 0 where there are none.
func (t *Crosstab) At(layer, row, column int) Cell {
	return t.Cells[(layer*len(t.Rows.Answers)+row)*len(t.Columns.Answers)+column]
}

// Pooled returns the crosstab without its layers: all together, those without a proper
// answer to the question of the layers too.
func (t *Crosstab) Pooled() *Crosstab {
	if t.Layers == nil {
		return t
	}
	size := len(t.Rows.Answers) * len(t.Columns.Answers)
	out := &Crosstab{Rows: t.Rows, Columns: t.Columns, Cells: make([]Cell, size)}
	for i, c := range t.Cells {
		out.Cells[i%size].N += c.N
	}
	return out
}

// Proper returns the counts of the respondents who gave proper answers to both questions,
// row by row, in one layer.
func (t *Crosstab) Proper(layer int) [][]int64 {
	columns := t.Columns.Proper()
	var out [][]int64
	for _, i := range t.Rows.Proper() {
		row := make([]int64, len(columns))
		for k, j := range columns {
			row[k] = t.At(layer, i, j).N
		}
		out = append(out, row)
	}
	return out
}

// Everyone returns all respondents of a crosstab, and how many of them lack a proper
// answer to the question of the rows, and to that of the columns.
func (t *Crosstab) Everyone() (n, noRow, noColumn int64) {
	for i, c := range t.Cells {
		n += c.N
		column := i % len(t.Columns.Answers)
		row := i / len(t.Columns.Answers) % len(t.Rows.Answers)
		if t.Rows.Answers[row].Missing != "" {
			noRow += c.N
		}
		if t.Columns.Answers[column].Missing != "" {
			noColumn += c.N
		}
	}
	return n, noRow, noColumn
}

// MostCells bounds the slots of the questions of one crosstab, multiplied.
const MostCells = 4_000_000

// ErrTooManyCells says that the questions have too many answers to be crossed.
var ErrTooManyCells = errors.New("tally: too many cells")

// Crossing names the questions of one crosstab; Layers may be nil.
type Crossing struct {
	Rows, Columns survey.Source
	Layers        *survey.Source
}

// Cross counts crosstabs in one pass over the respondents. The questions must be coded,
// each respondent having one answer. Errors: ErrTooManyCells; a column that is damaged, of
// another length, or of another kind.
func Cross(crossings []Crossing, of survey.Sample) ([]*Crosstab, error) {
	counters := make([]*counter, len(crossings))
	for i, x := range crossings {
		sides := []survey.Source{x.Rows, x.Columns}
		if x.Layers != nil {
			sides = append([]survey.Source{*x.Layers}, sides...)
		}
		c, err := newCounter(sides)
		if err != nil {
			return nil, err
		}
		counters[i] = c
	}
	if err := count(counters, of); err != nil {
		return nil, err
	}
	out := make([]*Crosstab, len(crossings))
	for i, x := range crossings {
		out[i] = fold(x, counters[i])
	}
	return out, nil
}

// fold brings counts by slot to answers, spellings to the answer that they count under.
func fold(x Crossing, c *counter) *Crosstab {
	t := &Crosstab{}
	var rowAt, columnAt, layerAt []int
	t.Rows, rowAt = axisOf(x.Rows.Question)
	t.Columns, columnAt = axisOf(x.Columns.Question)
	layers := 1
	layerAt = []int{0}
	if x.Layers != nil {
		var axis Axis
		axis, layerAt = axisOf(x.Layers.Question)
		t.Layers, layers = &axis, len(axis.Answers)
	}
	t.Cells = make([]Cell, layers*len(t.Rows.Answers)*len(t.Columns.Answers))
	for key, n := range c.total() {
		if n == 0 {
			continue
		}
		column := columnAt[key%len(columnAt)]
		row := rowAt[key/len(columnAt)%len(rowAt)]
		layer := layerAt[key/len(columnAt)/len(rowAt)]
		t.Cells[(layer*len(t.Rows.Answers)+row)*len(t.Columns.Answers)+column].N += n
	}
	return t
}

func newCounter(sides []survey.Source) (*counter, error) {
	c := &counter{size: 1}
	for _, s := range sides {
		if s.Column.U8 == nil && s.Column.U16 == nil && s.Column.Rows() > 0 {
			return nil, fmt.Errorf("tally: question %q is not one with one answer each", s.Question.Name)
		}
		slots := s.Question.Slots()
		c.sides = append(c.sides, side{s.Question.Name, s.Column.U8, s.Column.U16, slots})
		if c.size *= slots; c.size > MostCells {
			return nil, ErrTooManyCells
		}
	}
	c.rows = sides[0].Column.Rows()
	for _, s := range sides {
		if s.Column.Rows() != c.rows {
			return nil, fmt.Errorf("tally: question %q has %d rows, not %d", s.Question.Name, s.Column.Rows(), c.rows)
		}
	}
	c.prepare()
	return c, nil
}
