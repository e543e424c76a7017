package book

import (
	"context"
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/disclosure"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Made is a table as it was counted or estimated.
type Made struct {
	Table
	// All and Bases are those who answered, of everyone and column by column; of a battery the smallest
	// of its rows.
	All   Base
	Bases []Base
	Rows  []Row
	// Tests is how many comparisons were tested, Untested how many were not since too few respondents
	// or answers stand behind them.
	Tests, Untested int
	// Own are the breaks that are made of the question itself, whose columns are not compared.
	Own []int
	// Sampled tells of the design by which the population is estimated; nil counts respondents.
	Sampled *claim.Sampled
	// WithheldBases say of each column why its respondents are not told; nil where no rule is in force.
	WithheldBases []Withheld
}

// Base is the respondents that a figure is about.
type Base struct {
	N int64
	// Sum is that of their weights, Kish the number that they are worth by their weights alone; both are
	// 0 where respondents are counted.
	Sum, Kish float64
}

// RowKind says what a row holds.
type RowKind string

// The rows.
const (
	AnswerRow RowKind = "answer"
	NetRow    RowKind = "net"
	MeanRow   RowKind = "mean"
	MedianRow RowKind = "median"
)

// Shares reports whether the cells of the row are shares.
func (k RowKind) Shares() bool { return k == AnswerRow || k == NetRow }

// Row is a row of a table.
type Row struct {
	Kind  RowKind
	Label string
	// Net are the answers of a net by their places, of a question of which one is given.
	Net   []int
	All   Cell
	Cells []Cell // column by column
}

// Cell is a figure of a column.
type Cell struct {
	Base
	// Count is the respondents of a share, Total the sum of their weights.
	Count int64
	Total float64
	// Value is a share, 0–1, a mean or a median; nil where nobody answered.
	Value *float64
	// SE is the standard error of a share or a mean: √(p(1 − p)/n) or s/√n where respondents are counted,
	// else by the design.
	SE       *float64
	Compared []Comparison
	// Withheld says why it may not leave; "" where it may, or no rule is in force.
	Withheld Withheld
	// Could is what can still be told of the count of a share that is withheld, from all that is published; nil where
	// nobody says.
	Could *disclosure.Range
}

// line is what rows are counted of: a question, or an answer to a choose-all question as one of two.
type line struct {
	survey.Source
	key  analysis.Key
	rows []lineRow
	// numbers are those of the proper answers, where a mean and a median are asked for; nil for none.
	numbers []float64
	// measured says that the column holds numbers.
	measured bool
}

// lineRow is some of the answers of a line, by their places.
type lineRow struct {
	kind    RowKind
	label   string
	answers []int
}

// Make counts tables of a book. nets gives those of a question. Errors: those of the source; a context that
// ends.
func Make(
	ctx context.Context, b Book, l *Layout, tables []Table, nets func(analysis.Key) []Net, from From,
) ([]*Made, error) {
	if b.Unweighted {
		from.Design = nil
	}
	m := &maker{ctx: ctx, book: b, layout: l, from: from}
	out := make([]*Made, len(tables))
	for i, t := range tables {
		out[i] = &Made{Table: t}
		lines, err := m.lines(t, nets)
		if err != nil {
			return nil, err
		}
		for _, one := range lines {
			m.ready = append(m.ready, placedLine{one, out[i]})
		}
	}
	if err := m.count(); err != nil {
		return nil, err
	}
	for _, made := range out {
		made.finish(b, l)
		if d := from.Drawn(); d != nil {
			by, err := m.sampled(*d)
			if err != nil {
				return nil, err
			}
			made.Sampled = &by
		}
	}
	return out, nil
}

// maker makes some tables at once.
type maker struct {
	ctx    context.Context
	book   Book
	layout *Layout
	from   From
	ready  []placedLine
}

// placedLine is a line of a table.
type placedLine struct {
	line
	made *Made
}

// sampled tells of the design.
func (m *maker) sampled(d analysis.Drawn) (claim.Sampled, error) {
	var failed error
	by := d.Sampled(func(key analysis.Key) string {
		s, err := m.from.Get(key)
		if err != nil {
			failed = err
		}
		return s.Question.Name
	})
	return by, failed
}

// lines are those of a table.
func (m *maker) lines(t Table, nets func(analysis.Key) []Net) (out []line, err error) {
	for _, q := range t.Questions {
		s, err := m.from.Get(q.Key)
		if err != nil {
			return nil, err
		}
		switch {
		case t.Battery != nil:
			out = append(out, t.Battery.line(s, q.Key))
		case s.Question.Kind == survey.ChooseAll:
			out = append(out, itemLines(s, q.Key, nets(q.Key))...)
		case s.Question.Kind.Coded():
			l := codedLine(s, q.Key, nets(q.Key))
			if err := m.codeEnds(&l); err != nil {
				return nil, err
			}
			out = append(out, l)
		default:
			out = append(out, line{Source: s, key: q.Key, measured: true})
		}
	}
	return out, nil
}

// codedLine is the answers of a question, its nets, and its mean where the answers are numbers or have scores.
func codedLine(s survey.Source, key analysis.Key, nets []Net) line {
	q := s.Question
	proper := q.Proper()
	l := line{Source: s, key: key}
	if q.Kind != survey.Discrete || len(proper) <= mostNumbers {
		for i, a := range proper {
			l.rows = append(l.rows, lineRow{AnswerRow, a.Label, []int{i}})
		}
	}
	for _, net := range nets {
		if at := placesOf(q, net.Codes); len(at) > 0 {
			l.rows = append(l.rows, lineRow{NetRow, net.Label, at})
		}
	}
	l.numbers = numbersOf(q)
	return l
}

// numbersOf are the numbers of the proper answers to a question, or their scores where each was given one;
// NaN for a word among numbers, nil where they have neither.
func numbersOf(q survey.Question) []float64 {
	if q.Kind != survey.Discrete {
		return analysis.ScoresOf(q)
	}
	values := q.Values()
	var out []float64
	for _, a := range q.Proper() {
		x, is := values[a.Slot]
		if !is {
			x = math.NaN()
		}
		out = append(out, x)
	}
	return out
}

func placesOf(q survey.Question, codes []string) (at []int) {
	for i, a := range q.Proper() {
		if slices.Contains(codes, a.Code) {
			at = append(at, i)
		}
	}
	return at
}

// line is a row of a battery.
func (t Battery) line(s survey.Source, key analysis.Key) line {
	q := s.Question
	l := line{Source: s, key: key}
	if t.Shows == MeanScores {
		l.numbers = numbersOf(q)
		return l
	}
	n := len(q.Proper())
	at := make([]int, min(t.Boxes, n))
	for i := range at {
		if at[i] = i; t.Shows == LastAnswers {
			at[i] = n - len(at) + i
		}
	}
	l.rows = []lineRow{{AnswerRow, q.Wording, at}}
	return l
}

// itemLines are the answers of a choose-all question, each chosen or not, and its nets: any of some.
func itemLines(s survey.Source, key analysis.Key, nets []Net) (out []line) {
	chosen := chosenOf(s)
	add := func(kind RowKind, label string, slots []survey.Slot) {
		c := survey.Column{U8: make([]uint8, len(s.Column.Sets))}
		for row := range c.U8 {
			for _, slot := range slots {
				is, answered := chosen(row, slot)
				if !answered {
					break
				}
				if c.U8[row] = 2; is {
					c.U8[row] = 1
					break
				}
			}
		}
		q := survey.Question{Name: s.Question.Name, Kind: survey.Single, Answers: []survey.Answer{
			{Slot: survey.Blank, Missing: "blank"}, {Slot: 1, Code: "1"}, {Slot: 2, Code: "2"},
		}}
		out = append(
			out, line{Source: survey.Source{Question: q, Column: c}, key: key, rows: []lineRow{{kind, label, []int{0}}}},
		)
	}
	for _, a := range s.Question.Proper() {
		add(AnswerRow, a.Label, []survey.Slot{a.Slot})
	}
	for _, net := range nets {
		var slots []survey.Slot
		for _, a := range s.Question.Proper() {
			if slices.Contains(net.Codes, a.Code) {
				slots = append(slots, a.Slot)
			}
		}
		if len(slots) > 0 {
			add(NetRow, net.Label, slots)
		}
	}
	return out
}

// count counts all lines by all partitions.
func (m *maker) count() error {
	if m.from.Drawn() != nil {
		return m.estimate()
	}
	of, err := m.from.Sample(m.book.Subgroup)
	if err != nil {
		return err
	}
	for _, l := range m.ready {
		if err := m.ctx.Err(); err != nil {
			return err
		}
		if l.measured {
			if err := m.describe(l); err != nil {
				return err
			}
			continue
		}
		crossings := make([]tally.Crossing, len(m.layout.packs))
		for i, p := range m.layout.packs {
			crossings[i] = tally.Crossing{Rows: l.Source, Columns: p.Source}
		}
		tables, err := tally.Cross(crossings, of)
		if err != nil {
			return err
		}
		m.counted(l, m.layout.unpacked(tables))
	}
	return nil
}

// grid is how many gave each proper answer, by the places of a partition.
type grid [][]int64

// unpacked are the counts of each partition, from those of the packs.
func (l *Layout) unpacked(tables []*tally.Crosstab) []grid {
	out := make([]grid, len(l.parts))
	for i, k := range l.packs {
		counts := tables[i].Proper(0)
		below := 1
		for j := len(k.parts) - 1; j >= 0; j-- {
			size := len(l.parts[k.parts[j]].columns) + 1
			g := make(grid, len(counts))
			for a, row := range counts {
				g[a] = make([]int64, size)
				for place, n := range row {
					g[a][place/below%size] += n
				}
			}
			out[k.parts[j]] = g
			below *= size
		}
	}
	return out
}

// finish says what holds for the whole table: its bases, its own breaks, and its differences once all are
// looked at.
func (t *Made) finish(b Book, l *Layout) {
	t.Bases = make([]Base, len(l.Columns))
	for i := range l.Columns {
		for r, row := range t.Rows {
			if base := row.Cells[i].Base; r == 0 || base.N < t.Bases[i].N {
				t.Bases[i] = base
			}
		}
	}
	for r, row := range t.Rows {
		if r == 0 || row.All.Base.N < t.All.N {
			t.All = row.All.Base
		}
	}
	for _, p := range l.parts {
		if t.own(p) && len(p.columns) > 0 {
			if at := l.Columns[p.columns[0]].Break; !slices.Contains(t.Own, at) {
				t.Own = append(t.Own, at)
			}
		}
	}
	t.adjust(b.Differences)
}

// own reports whether a partition is made of a question of the table.
func (t *Made) own(p part) bool {
	return slices.ContainsFunc(t.Questions, func(q Listed) bool { return slices.Contains(p.keys, q.Key) })
}

// empty reports whether an error says that nobody is in a base.
func empty(err error) bool { return analysis.Empty(err) }

// baseOf is the base of some cells.
func baseOf(c *design.Cells, in func(cell int) bool) (b Base) {
	var sum, squares design.Sum
	for cell, n := range c.Count {
		if n > 0 && in(cell) {
			b.N += n
			sum.Add(c.Total[cell])
			squares.Add(c.Squares[cell])
		}
	}
	if b.Sum = sum.Value(); b.N > 0 {
		b.Kish = b.Sum * b.Sum / squares.Value()
	}
	return b
}
