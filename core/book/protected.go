package book

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/disclosure"
)

// Withheld says why a figure is not told; "" where it is.
type Withheld string

// The reasons.
const (
	// FewBehind is a base of fewer respondents than the rule allows.
	FewBehind Withheld = "base"
	// SmallCount is a count below the smallest one that is told.
	SmallCount Withheld = "small"
	// ByTheOthers is a figure by which one that is not told could be had.
	ByTheOthers Withheld = "others"
)

// pair is a question and one of its answers.
type pair struct {
	key  analysis.Key
	code string
}

// Protect notes on every figure of the table whether it may leave by a rule. Sums are those of the answers, of nets,
// and of columns: a break's columns add to everyone, those nested to the ones that they stand in, also where
// these stand in another break; how many are in none of them is taken to be known.
func (t *Made) Protect(r disclosure.Rule, l *Layout) {
	if r.Least <= 1 && r.Fewest <= 1 {
		return
	}
	p := &protecting{made: t, layout: l, width: len(l.Columns) + 1}
	p.read()
	primary := p.counts.Small(r.Fewest)
	why := make([]Withheld, len(p.counts.N))
	for i := range primary {
		if primary[i] {
			why[i] = SmallCount
		}
	}
	for column := range p.width {
		if n := p.counts.N[p.at(len(p.rows), column)]; n < r.Least && n > 0 {
			for row := range len(p.rows) + 1 {
				primary[p.at(row, column)], why[p.at(row, column)] = true, FewBehind
			}
		}
	}
	s := disclosure.Suppress(p.counts, primary, r.Width())
	for i, out := range s.Secondary {
		if out && i < p.width*(len(p.rows)+1) {
			why[i] = ByTheOthers
		}
	}
	t.WithheldBases = make([]Withheld, len(l.Columns))
	for c := range l.Columns {
		at := c
		if l.Columns[c].part < 0 {
			at = len(l.Columns)
		}
		t.WithheldBases[c] = why[p.at(len(p.rows), at)]
		for k, row := range p.rows {
			cell := &t.Rows[row].Cells[c]
			if cell.Withheld = why[p.at(k, at)]; cell.Withheld != "" && s.Could != nil && t.Sampled == nil && r.Rounding < 2 {
				cell.Could = &s.Could[p.at(k, at)]
			}
		}
		for i := range t.Rows {
			cell := &t.Rows[i].Cells[c]
			kind := t.Rows[i].Kind
			few := !kind.Shares() && cell.N < r.Least || kind == MedianRow && !r.Middle(cell.N)
			if t.WithheldBases[c] == FewBehind || few {
				cell.Withheld = FewBehind
			}
			if cell.Withheld != "" {
				cell.Compared = nil
			}
		}
	}
	for i := range t.Rows {
		t.Rows[i].All.Withheld = ""
		if k := slices.Index(p.rows, i); k >= 0 {
			t.Rows[i].All.Withheld = why[p.at(k, len(l.Columns))]
		}
		for c := range t.Rows[i].Cells { // neither side of a comparison tells of what is withheld
			t.Rows[i].Cells[c].Compared = slices.DeleteFunc(t.Rows[i].Cells[c].Compared, func(one Comparison) bool {
				return one.Other >= 0 && t.Rows[i].Cells[one.Other].Withheld != ""
			})
		}
	}
}

// protecting is the counts of a table: its rows of shares and, last, its bases, by its columns and, last, everyone.
type protecting struct {
	made   *Made
	layout *Layout
	rows   []int // of the table
	width  int
	counts disclosure.Counts
}

func (p *protecting) at(row, column int) int { return row*p.width + column }

func (p *protecting) read() {
	t := p.made
	for i, row := range t.Rows {
		if row.Kind.Shares() {
			p.rows = append(p.rows, i)
		}
	}
	n := (len(p.rows) + 1) * p.width
	p.counts = disclosure.Counts{N: make([]int64, n), Hidden: make([]bool, n), Margin: make([]bool, n)}
	for c := range p.width {
		for k, row := range p.rows {
			p.counts.N[p.at(k, c)] = p.cell(row, c).Count
		}
		base := t.All.N
		if c < len(t.Bases) {
			base = t.Bases[c].N
		}
		p.counts.N[p.at(len(p.rows), c)], p.counts.Margin[p.at(len(p.rows), c)] = base, true
	}
	for k := range len(p.rows) + 1 {
		p.counts.Margin[p.at(k, len(t.Bases))] = true
		for c, column := range p.layout.Columns {
			if column.part < 0 { // everyone, told twice
				p.counts.Hidden[p.at(k, c)] = true
			}
		}
	}
	p.down()
	for row := range len(p.rows) + 1 {
		p.across(row)
	}
}

func (p *protecting) cell(row, column int) Cell {
	if column == len(p.layout.Columns) {
		return p.made.Rows[row].All
	}
	return p.made.Rows[row].Cells[column]
}

// rest is a count that nobody is told of: what is left of a whole.
func (p *protecting) rest(whole, part int) {
	p.counts.N = append(p.counts.N, p.counts.N[whole]-p.counts.N[part])
	p.counts.Hidden, p.counts.Margin = append(p.counts.Hidden, true), append(p.counts.Margin, false)
	p.counts.Sums = append(p.counts.Sums, disclosure.Sum{Whole: whole, Parts: []int{part, len(p.counts.N) - 1}})
}

// down are the sums of the answers of a column.
func (p *protecting) down() {
	q := p.made.Questions[0]
	adds := p.made.Battery == nil && q.Kind.Coded()
	var answers []int
	holds := map[int]int{} // the row of each answer by its place, which the ends of a number share
	for k, row := range p.rows {
		if p.made.Rows[row].Kind == AnswerRow {
			answers = append(answers, k)
			for _, place := range p.made.Rows[row].Net {
				holds[place] = k
			}
		}
	}
	for c := range p.width {
		base := p.at(len(p.rows), c)
		if p.counts.Hidden[base] {
			continue
		}
		if adds && len(answers) > 0 {
			sum := disclosure.Sum{Whole: base}
			for _, k := range answers {
				sum.Parts = append(sum.Parts, p.at(k, c))
			}
			p.counts.Sums = append(p.counts.Sums, sum)
		}
		for k, row := range p.rows {
			switch {
			case !adds:
				if p.cell(row, c).N == p.counts.N[base] { // of a battery each row has a base of its own
					p.rest(base, p.at(k, c))
				}
			case p.made.Rows[row].Kind == NetRow:
				sum, whole := disclosure.Sum{Whole: p.at(k, c)}, true
				for _, answer := range p.made.Rows[row].Net {
					at, is := holds[answer]
					if whole = whole && is; is && !slices.Contains(sum.Parts, p.at(at, c)) {
						sum.Parts = append(sum.Parts, p.at(at, c))
					}
				}
				if whole {
					p.counts.Sums = append(p.counts.Sums, sum)
				} else {
					p.rest(base, p.at(k, c))
				}
			}
		}
	}
}

// across are the sums of a row over the columns.
func (p *protecting) across(row int) {
	columns := p.layout.Columns
	place := func(pairs []pair) int {
		if len(pairs) == 0 {
			return len(columns)
		}
		return slices.IndexFunc(
			columns, func(c Column) bool { return !c.Overlaps && len(c.pairs) == len(pairs) && holdsAll(c.pairs, pairs) },
		)
	}
	sums := map[[3]int]*disclosure.Sum{}
	var order [][3]int
	for c, column := range columns {
		switch {
		case column.part < 0:
			continue
		case len(column.pairs) == 0, column.Overlaps: // a subgroup, or an answer of several
			outer := []pair{}
			if len(column.pairs) > 0 {
				outer = column.pairs[:len(column.pairs)-1]
			}
			if whole := place(outer); whole >= 0 {
				p.rest(p.at(row, whole), p.at(row, c))
			}
			continue
		}
		for i := range column.pairs {
			whole := place(slices.Concat(column.pairs[:i], column.pairs[i+1:]))
			if whole < 0 {
				continue
			}
			key := [3]int{column.Break, whole, i}
			if sums[key] == nil {
				sums[key] = &disclosure.Sum{Whole: p.at(row, whole), Rest: p.counts.N[p.at(row, whole)]}
				order = append(order, key)
			}
			sums[key].Parts = append(sums[key].Parts, p.at(row, c))
			sums[key].Rest -= p.counts.N[p.at(row, c)]
		}
	}
	for _, key := range order {
		p.counts.Sums = append(p.counts.Sums, *sums[key])
	}
}

func holdsAll(pairs, all []pair) bool {
	for _, one := range all {
		if !slices.Contains(pairs, one) {
			return false
		}
	}
	return true
}
