package crosstab

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Estimate is a table of a population: rows and columns as they are shown.
type Estimate struct {
	Cells   *design.Cells
	Shares  *design.Shares
	Columns int
	// Test is about the rows and columns that hold a respondent; nil where fewer than two do, or
	// without variance.
	Test     *infer.RaoScott
	CramersV float64
	// HolmP are the p-values of the cells' adjusted residuals after Holm; nil outside of the test.
	// Away is their departure from independence.
	HolmP []*prob.Prob
	Away  []float64
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	// The cells run over the answers to the first question, which stands across unless swapped, and
	// within it over those of the second.
	first, second := len(c.Questions[0].Proper()), len(c.Questions[1].Proper())
	cells, columns := c.Cells, second
	if !s.Swapped {
		columns = first
		cells = c.Cells.Merged(first*second, func(cell int) int { return cell%second*first + cell/second })
	}
	level := describedLevel
	if s.Test != nil {
		level = float64(s.Test.Level)
	}
	e := NewEstimate(cells, columns, level)
	if s.Test != nil && e.Test == nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("crosstab", infer.OneRowOrColumn, -1)}, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// NewEstimate tests a table of so many columns, whose cells are counted row by row.
func NewEstimate(cells *design.Cells, columns int, level float64) *Estimate {
	e := &Estimate{Cells: cells, Columns: columns, Shares: cells.Shares()}
	e.HolmP, e.Away = make([]*prob.Prob, len(cells.Count)), make([]float64, len(cells.Count))
	e.test(level)
	return e
}

func (e *Estimate) test(level float64) {
	used := e.Cells.Used(e.Columns)
	if len(used.Rows) < 2 || len(used.Columns) < 2 {
		return
	}
	r := used.Cells.Independence(len(used.Columns))
	test := infer.ComputeRaoScott(r.RaoScott(used.N, used.DF, level))
	if test.SecondFP == nil {
		return
	}
	e.Test = test
	e.CramersV = infer.DesignedCramersV(test.Statistic, used.N, len(used.Rows), len(used.Columns))
	var at []int
	var tails []prob.Prob
	for k, h := range r.Departure {
		cell := used.Rows[k/len(used.Columns)]*e.Columns + used.Columns[k%len(used.Columns)]
		e.Away[cell] = h
		if t := infer.ComputeTTest(h, r.Covariance.SE(k), float64(used.DF)); t.TwoSided != nil {
			at, tails = append(at, cell), append(tails, *t.TwoSided)
		}
	}
	for i, p := range infer.Holm(tails) {
		e.HolmP[at[i]] = &p
	}
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	c := s.Claim(o.Counted.Questions, about)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	rows, columns := o.Counted.Questions[1], o.Counted.Questions[0]
	if s.Swapped {
		rows, columns = columns, rows
	}
	c.RowCodes, c.ColumnCodes = analysis.CodesOf(rows), analysis.CodesOf(columns)
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated shows the table of the population; the test goes by the second-order F of Rao and Scott.
func (c Crossing) estimated(e *Estimate, by claim.Sampled) document.Document {
	d := document.Document{Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Choices, Choices: c.groups()},
		{Kind: document.Choices, Choices: c.Readings()},
	}}
	var notes claim.NotesOf
	var effect *float64
	level := describedLevel
	if e.Test != nil {
		effect = &e.Test.MeanDesignEffect
	}
	reading := c.ReadEstimate(e)
	writeUp := []document.Message{reading}
	by.Notes(&notes, c.About, effect)
	tested := c.Test != nil && e.Test != nil
	var decided claim.Verdict
	if tested {
		level = c.Test.Level
		decided = claim.RaoScottVerdict(e.Test, level)
		v := c.Values()
		v["level"] = document.Of(document.Level, level)
		finding := document.Say("finding.crosstab."+string(c.Test.Role)+"."+claim.Outcome(decided.Rejected()), v)
		d.Blocks = append(
			d.Blocks,
			claim.Hypotheses("crosstab", c.Test.Role, v),
			document.Block{Kind: document.Sentence, Said: []document.Message{finding}},
		)
		writeUp = []document.Message{
			finding,
			reading,
			claim.RaoScottJournal(e.Test, by.Base.N, level, say.FindingDesignedV(e.CramersV)),
		}
		d.Outcome = decided.Outcome("null")
	}
	d.Blocks = append(d.Blocks,
		document.Block{Kind: document.Sentence, Said: []document.Message{reading}},
		document.Block{Kind: document.Figures, Table: c.Estimates(e, level)},
	)
	if tested {
		d.Blocks = append(d.Blocks,
			document.Block{Kind: document.Facts, Facts: append(claim.RaoScottFacts(e.Test, level),
				claim.Fact("v", "v", nil, claim.Plain(document.Of(document.Statistic, e.CramersV))))},
			decided.Block(),
			document.Block{Kind: document.Working, Said: append(claim.RaoScottWorking(e.Test, by, level), e.strata(c, by)...)},
		)
	}
	notes.Add(document.Figures, "designed.cells", nil)
	d.Notes = notes
	d.Blocks = append(d.Blocks, document.Block{
		Kind:    document.Choices,
		Choices: claim.Choice("drawing", "picture", []CrossingPicture{NoPicture, SideBySide}, c.Picture, Drawn),
	})
	if c.Picture == SideBySide {
		d.Blocks = append(d.Blocks, c.Frame.Drawn(c.bars(e), document.Bare)...)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: writeUp})
	return d
}

// strata parts the variance of the cell that lies furthest from independence.
func (e *Estimate) strata(c Crossing, by claim.Sampled) []document.Message {
	used := e.Cells.Used(e.Columns)
	r, furthest := used.Cells.Independence(len(used.Columns)), 0
	for k, h := range r.Departure {
		if math.Abs(h) > math.Abs(r.Departure[furthest]) {
			furthest = k
		}
	}
	row, column := used.Rows[furthest/len(used.Columns)], used.Columns[furthest%len(used.Columns)]
	what := say.WorkingDesignedOfCell(c.RowLabels[row], c.ColumnLabels[column])
	return by.ByStratum(used.Cells, what, r.Slope[furthest])
}

// bars draws the groups side by side with the interval of each share; a mosaic has no room for them.
func (c Crossing) bars(e *Estimate) *document.Picture {
	groups, answers, at := c.compared(e)
	of, what, across := c.Rows, c.Columns, e.Columns
	cell := func(g, a int) int { return g*across + a }
	base := func(cell, other int) bool { return cell/across == other/across }
	switch c.Reading {
	case OfEachColumn:
		of, what = what, of
		cell = func(g, a int) int { return a*across + g }
		base = func(cell, other int) bool { return cell%across == other%across }
	case OfEveryone, AsCounts:
		base = func(int, int) bool { return true }
		at = func(g, a int) *float64 { return &e.Shares.Share[g*across+a] }
	}
	return GroupedBars{
		Groups: groups, Answers: answers, Of: of, What: what, N: e.Cells.N,
		At: func(g, a int) float64 {
			if p := at(g, a); p != nil {
				return 100 * *p
			}
			return 0
		},
		Within: func(g, a int) *infer.Interval {
			p, k := at(g, a), cell(g, a)
			if p == nil {
				return nil
			}
			one := infer.DesignedShare{Share: *p, DF: e.Cells.DF}
			var sum, squares float64
			for other, n := range e.Cells.Count {
				if base(k, other) {
					one.N += n
					sum += e.Cells.Total[other]
					squares += e.Cells.Squares[other]
				}
			}
			one.KishN = sum * sum / squares
			r := e.Cells.Ratios(1, func(_, other int) float64 { return design.Indicator(other == k) }, func(_, other int) float64 { return design.Indicator(base(k, other)) })
			one.Variance = r.Covariance[0][0]
			return one.Uncertainty(analysis.UsualConfidence).Beta
		},
	}.Picture()
}

// part is the share of a cell in the reading that is chosen, 0–1; nil where nobody is in its base.
func (c Crossing) part(rows, columns [][]*float64, e *Estimate, i, j int) *float64 {
	switch c.Reading {
	case OfEachRow:
		return rows[i][j]
	case OfEachColumn:
		return columns[i][j]
	}
	return &e.Shares.Share[i*e.Columns+j]
}

// Whole is of what the percents are in a reading; counts are read as percents of everyone where they are
// estimated.
func (c Crossing) Whole() document.Role {
	switch c.Reading {
	case OfEachRow:
		return document.RowPercent
	case OfEachColumn:
		return document.ColumnPercent
	}
	return document.TotalPercent
}

// Estimates is the table of the population, with the cells marked that stand out at a level.
func (c Crossing) Estimates(e *Estimate, level float64) *document.Table {
	out := &document.Table{
		Caption: document.Say("caption.crosstab_estimated", c.Values()), Stub: claim.Plain(c.Rows.Called()),
		Shown: []document.Role{document.Main, document.Observed}, Whole: c.Whole(),
	}
	for _, l := range c.ColumnLabels {
		out.Columns = append(out.Columns, claim.Plain(document.Text(l)))
	}
	out.Columns = append(out.Columns, say.ColumnAll())
	rows, columns := e.Cells.Within(e.Columns)
	down := e.Cells.Merged(len(c.RowLabels), func(cell int) int { return cell / e.Columns }).Shares()
	across := e.Cells.Merged(e.Columns, func(cell int) int { return cell % e.Columns }).Shares()
	sum := func(s *design.Shares, at int, whole bool) document.Cell {
		p := s.Share[at]
		if whole {
			p = 1
		}
		value := document.Of(document.Percent, 100*p)
		if whole && s.Count[at] == 0 {
			value = document.Text("")
		}
		return document.Cell{
			Faint: true,
			Figures: []document.Figure{
				{Role: document.Main, Value: value},
				{Role: document.Observed, Value: document.N(s.Count[at])},
			},
		}
	}
	for i, label := range c.RowLabels {
		row := document.Row{Name: claim.Plain(document.Text(label))}
		for j := range c.ColumnLabels {
			k := i*e.Columns + j
			value := document.Text("")
			if p := c.part(rows, columns, e, i, j); p != nil {
				value = document.Of(document.Percent, 100**p)
			}
			cell := document.Cell{
				Figures: []document.Figure{
					{Role: document.Main, Value: value},
					{Role: document.Observed, Value: document.N(e.Cells.Count[k])},
				},
			}
			if p := e.HolmP[k]; p != nil && c.Test != nil && e.Test.DF > 1 {
				cell.Mark = claim.MarkOfEstimate(p.AtMost(level), e.Away[k])
			}
			row.Cells = append(row.Cells, cell)
		}
		row.Cells = append(row.Cells, sum(down, i, c.Reading == OfEachRow))
		out.Rows = append(out.Rows, row)
	}
	all := document.Row{Name: say.ColumnAll(), Total: true}
	for j := range c.ColumnLabels {
		all.Cells = append(all.Cells, sum(across, j, c.Reading == OfEachColumn))
	}
	everybody := document.Cell{Faint: true, Figures: []document.Figure{
		{
			Role:  document.Main,
			Value: document.Of(document.Percent, 100),
		}, {Role: document.Observed, Value: document.N(e.Cells.N)},
	}}
	all.Cells = append(all.Cells, everybody)
	out.Rows = append(out.Rows, all)
	return out
}

// ReadEstimate reads the answer in which two groups lie furthest apart, or the largest cell.
func (c Crossing) ReadEstimate(e *Estimate) document.Message {
	v := c.Values()
	groups, answers, at := c.compared(e)
	v["of"], v["what"] = v["rows"], v["columns"]
	switch c.Reading {
	case OfEachColumn:
		v["of"], v["what"] = v["columns"], v["rows"]
	case OfEveryone, AsCounts:
		most := 0
		for k, p := range e.Shares.Share {
			if p > e.Shares.Share[most] {
				most = k
			}
		}
		v["row"], v["column"] = document.Text(
			c.RowLabels[most/e.Columns],
		), document.Text(
			c.ColumnLabels[most%e.Columns],
		)
		v["percent"] = document.Of(document.Percent, 100*e.Shares.Share[most])
		return document.Say("read.estimated.total", v)
	}
	furthest := c.Furthest(e)
	if furthest.First == furthest.Second {
		v["group"], v["answer"] = document.Text(groups[furthest.First]), document.Text(answers[furthest.Answer])
		v["percent"] = document.Of(document.Percent, 100**at(furthest.First, furthest.Answer))
		return document.Say("read.estimated.one_group", v)
	}
	return c.readPair("groups", furthest, groups, answers, at, v)
}

// Apart is an answer, and two groups that give it with unlike shares.
type Apart struct {
	Answer, First, Second int
	Points                float64 // by how much, 0–1
}

// Furthest is the answer in which two groups lie furthest apart; the same group twice where only one holds
// somebody.
func (c Crossing) Furthest(e *Estimate) Apart {
	groups, answers, at := c.compared(e)
	out := Apart{Points: -1}
	for a := range answers {
		h, l := -1, -1
		for g := range groups {
			if p := at(g, a); p != nil && (h < 0 || *p > *at(h, a)) {
				h = g
			}
			if p := at(g, a); p != nil && (l < 0 || *p < *at(l, a)) {
				l = g
			}
		}
		if h >= 0 && *at(h, a)-*at(l, a) > out.Points {
			out = Apart{a, h, l, *at(h, a) - *at(l, a)}
		}
	}
	return out
}

// compared are the groups and the answers of the reading that is chosen, with the share of a group that
// gave an answer.
func (c Crossing) compared(e *Estimate) (groups, answers []string, at func(g, a int) *float64) {
	rows, columns := e.Cells.Within(e.Columns)
	if c.Reading == OfEachColumn {
		return c.ColumnLabels, c.RowLabels, func(g, a int) *float64 { return columns[a][g] }
	}
	return c.RowLabels, c.ColumnLabels, func(g, a int) *float64 { return rows[g][a] }
}

// ReadPair reads the same answer of the same two groups as another table does, so that a reversal can be
// read off; what stands out in this one where nobody is in either.
func (c Crossing) ReadPair(e *Estimate, of Apart) document.Message {
	groups, answers, at := c.compared(e)
	if c.Reading != OfEachRow && c.Reading != OfEachColumn || at(of.First, of.Answer) == nil || at(of.Second, of.Answer) == nil {
		return c.ReadEstimate(e)
	}
	v := c.Values()
	v["of"], v["what"] = v["rows"], v["columns"]
	if c.Reading == OfEachColumn {
		v["of"], v["what"] = v["columns"], v["rows"]
	}
	return c.readPair("pair", of, groups, answers, at, v)
}

func (c Crossing) readPair(
	id string, of Apart, groups, answers []string, at func(g, a int) *float64, v document.Values,
) document.Message {
	v["group"], v["group2"], v["answer"] = document.Text(groups[of.First]), document.Text(groups[of.Second]),
		document.Text(answers[of.Answer])
	v["percent"] = document.Of(document.Percent, 100**at(of.First, of.Answer))
	v["percent2"] = document.Of(document.Percent, 100**at(of.Second, of.Answer))
	return document.Say("read.estimated."+id, v)
}
