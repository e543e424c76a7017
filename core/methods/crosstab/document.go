package crosstab

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Reading says of whom the percents of a crossing are.
type Reading string

// The readings.
const (
	OfEachRow    Reading = "row"
	OfEachColumn Reading = "column"
	OfEveryone   Reading = "total"
	AsCounts     Reading = "count"
)

// Readings lists the readings in the order in which they are offered.
var Readings = []Reading{OfEachRow, OfEachColumn, OfEveryone, AsCounts}

// Beside lists what may be shown in the cells beside the reading, in order.
var Beside = []document.Role{
	document.Expected,
	document.ObservedLess,
	document.Pearson,
	document.AdjustedResidual,
	document.Contribution,
}

// Crossing is two questions crossed, with or without a claim about them.
type Crossing struct {
	claim.About
	Rows, Columns           claim.Question
	RowLabels, ColumnLabels []string
	RowCodes, ColumnCodes   []string
	// Counts holds the respondents who answered both, row by row.
	Counts [][]int64
	// NoRow and NoColumn left the question of the rows, or of the columns, without a
	// proper answer; who left both counts in both.
	NoRow, NoColumn int64
	Reading         Reading
	Show            []document.Role
	Swapped         bool
	Picture         CrossingPicture
	Frame           *claim.Frame
	// HideEmpty leaves rows and columns out in which nobody is.
	HideEmpty bool
	// Missing holds those without a proper answer to one or both, shown where ShowMissing says so.
	Missing     *CrossingMissing
	ShowMissing bool
	// Test is the claim; nil for a crossing that is only described.
	Test *CrossingTest
	// SameAnswers says that both questions have the same answers, as when the same people are
	// asked twice; Ordered holds by the places in the spec whether the answers have an order.
	SameAnswers bool
	Ordered     [2]bool
}

// CrossingTest is the claim of a crossing, and what was computed for it.
type CrossingTest struct {
	Role  claim.Role
	Level float64
	// TwoByTwo is set for two groups and two answers; its rows are the groups that the reading
	// compares.
	TwoByTwo *infer.TwoByTwo
	// Exact is set where it was asked for.
	Exact *infer.ExactTest
	// ExactAsked says that it was.
	ExactAsked bool
}

// CrossingMissing is what a crossing leaves out: respondents without a proper answer to one
// question or to both, by reason.
type CrossingMissing struct {
	RowLabels, ColumnLabels []string
	// Rows holds, for each missing answer of the rows, the counts of the proper columns and
	// then of the missing ones; Columns, for each proper row, those of the missing columns.
	Rows, Columns [][]int64
}

// Values are those that every sentence about the crossing may use.
func (c Crossing) Values() document.Values {
	return document.Values{"units": c.Units, "rows": c.Rows.Groups(), "columns": c.Columns.Called()}
}

// Statement is what the claim says, or with what the question is crossed.
func (c Crossing) Statement() document.Message {
	if c.Test == nil {
		with := c.Rows
		if c.Swapped {
			with = c.Columns
		}
		return say.ClaimCrosstabDescribed(with.Called())
	}
	return document.Say("claim.crosstab."+string(c.Test.Role), c.Values())
}

// Crossed adds up a table.
type Crossed struct {
	counts            [][]int64
	RowSum, ColumnSum []int64
	N                 int64
}

// AddUp adds the rows and columns of a table.
func AddUp(counts [][]int64, columns int) Crossed {
	t := Crossed{counts: counts, RowSum: make([]int64, len(counts)), ColumnSum: make([]int64, columns)}
	for i, row := range counts {
		for j, o := range row {
			t.RowSum[i] += o
			t.ColumnSum[j] += o
			t.N += o
		}
	}
	return t
}

// Document shows the crossing; r is its test, nil where the table admits none.
func (c Crossing) Document(r *infer.Independence) document.Document {
	t := AddUp(c.Counts, len(c.ColumnLabels))
	d := document.Document{}
	v := c.Values()
	v["n"], v["left"] = document.N(t.N), document.N(c.Everyone-t.N)
	basis := "basis.crossing"
	if c.Everyone == t.N {
		basis = "basis.crossing_all"
	}
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}},
		document.Block{
			Kind:    document.Choices,
			Choices: c.groups(),
		},
		document.Block{Kind: document.Choices, Choices: c.Readings()},
		document.Block{Kind: document.Choices, Choices: c.beside()},
	)
	reading := c.Sentence(t, nil)
	testing := c.Test != nil && r != nil
	var finding, journal []document.Message
	var decided claim.Verdict
	if testing {
		var doubt []document.Message
		decided, doubt = c.decided(r)
		finding = append([]document.Message{c.finding(decided)}, doubt...)
		journal = decided.InsteadInJournal(c.journal(r))
		d.Blocks = append(
			d.Blocks,
			claim.Hypotheses("crosstab", c.Test.Role, v),
			document.Block{Kind: document.Sentence, Said: finding},
		)
	}
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Sentence, Said: []document.Message{reading}},
		document.Block{Kind: document.Figures, Table: c.Table(t, r, decided)},
		document.Block{Kind: document.Choices, Choices: c.pictures()},
	)
	d.Blocks = append(
		d.Blocks,
		c.Frame.Drawn(
			c.picture(t),
			map[bool]document.ValueKind{true: document.Count, false: document.Bare}[c.Reading == AsCounts],
		)...)
	if c.Test == nil && t.N > 0 {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: c.takeUp(t)})
	}
	if testing {
		d.Blocks = append(
			d.Blocks,
			document.Block{Kind: document.Facts, Facts: c.facts(r, decided)},
			document.Block{
				Kind: document.Chart,
				Chart: claim.ChiSquarePicture(
					r.Statistic,
					r.CriticalValue,
					r.DF,
					r.Reject,
					document.P(document.PEqual, r.P, r.Level),
				),
			},
			decided.Block(),
			document.Block{Kind: document.Working, Said: append(c.working(r), decided.DecidesInstead()...)},
		)
		d.Outcome = decided.Outcome("null")
	}
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.WriteUp, Said: slices.Concat(finding, []document.Message{reading}, journal)},
	)
	d.Notes = c.notes(t, r, decided)
	return d
}

// decided are the ways to decide, of two groups with two answers also whether 0 lies in the
// interval of the difference. These have their exact test without being asked for it.
func (c Crossing) decided(r *infer.Independence) (claim.Verdict, []document.Message) {
	e, t := c.Test.Exact, c.Test.TwoByTwo
	if e == nil && t != nil && t.Fisher != nil {
		e = infer.ExactOf(t.Fisher.TwoSided, r.Level)
	}
	out, doubt := claim.ChiSquareVerdict(r.Statistic, r.CriticalValue, r.P, r.Level, r.Advice, e)
	if t != nil {
		n := t.Shares.Newcombe
		said := say.FactFromTo(document.Of(document.Difference, 100*n.Lower), document.Of(document.Difference, 100*n.Upper))
		out.Ways = append(
			out.Ways,
			claim.By(
				"newcombe_interval",
				document.Value{Kind: document.Said, Message: &said},
				document.Of(document.Difference, 0),
				!n.Contains(0),
			),
		)
	}
	return out, doubt
}

// groups asks which of the two questions has the groups that are compared; the table is then read
// along them.
func (c Crossing) groups() *document.Choice {
	second, first := c.Rows, c.Columns
	if c.Swapped {
		second, first = first, second
	}
	out := &document.Choice{Label: say.ChoiceGroups()}
	for i, q := range []claim.Question{second, first} {
		swapped := i == 1
		out.Options = append(
			out.Options,
			document.Option{Label: say.ChoiceGroupsOf(q.Called()), Chosen: c.Swapped == swapped && c.Reading == OfEachRow,
				Change: claim.Patch(map[string]any{"swapped": swapped, "reading": OfEachRow})},
		)
	}
	return out
}

// Readings offers the ways to read the table.
func (c Crossing) Readings() *document.Choice {
	return claim.Choice(
		"reading",
		"reading",
		Readings,
		c.Reading,
		func(r Reading) document.Message { return document.Say("choice.read."+string(r), c.Values()) },
	)
}

func (c Crossing) beside() *document.Choice {
	out := &document.Choice{Label: say.ChoiceAlso()}
	for _, role := range Beside {
		shown := slices.Contains(c.Show, role)
		next := []document.Role{}
		for _, other := range Beside {
			if slices.Contains(c.Show, other) != (other == role) {
				next = append(next, other)
			}
		}
		out.Options = append(
			out.Options,
			document.Option{
				Label:  document.Say("choice.show."+string(role), nil),
				Chosen: shown,
				Change: claim.Patch(map[string]any{"show": next}),
			},
		)
	}
	out.Options = append(
		out.Options,
		document.Option{Label: say.ChoiceSwap(), Change: claim.Patch(map[string]any{"swapped": !c.Swapped})},
	)
	if t := AddUp(c.Counts, len(c.ColumnLabels)); slices.Contains(t.RowSum, 0) || slices.Contains(t.ColumnSum, 0) {
		out.Options = append(
			out.Options,
			document.Option{
				Label:  say.ChoiceHideEmpty(),
				Chosen: c.HideEmpty,
				Change: claim.Patch(map[string]any{"hideEmpty": !c.HideEmpty}),
			},
		)
	}
	if c.Missing != nil {
		out.Options = append(
			out.Options,
			document.Option{
				Label:  say.ChoiceMissing(),
				Chosen: c.ShowMissing,
				Change: claim.Patch(map[string]any{"missing": !c.ShowMissing}),
			},
		)
	}
	return out
}

// places are those of the two questions in the spec.
func (c Crossing) places() (rows, columns int) {
	if c.Swapped {
		return 0, 1
	}
	return 1, 0
}

// takeUp offers to compare the sums of one side, all groups together, with shares. They are
// of those who answered both, which the tally of the question is not where some did not.
func (c Crossing) takeUp(t Crossed) *document.Choice {
	out := &document.Choice{Label: say.ChoiceTakeUp()}
	rows, columns := c.places()
	for _, side := range []struct {
		place, other int
		q            claim.Question
	}{{rows, columns, c.Rows}, {columns, rows, c.Columns}} {
		ask := &document.Ask{Method: sharesMethod, Question: side.place}
		if c.Everyone > t.N {
			ask.Among = []document.Who{{Question: side.other}}
		}
		out.Options = append(out.Options, document.Option{Label: say.ChoiceTakeUpSums(side.q.Called()), Ask: ask})
	}
	return out
}

// sharesMethod is the method that compares a tally with shares.
const sharesMethod = "goodness-of-fit"

// Swap offers to turn the table.
func (c Crossing) Swap() *document.Choice {
	return &document.Choice{
		Label:   say.ChoiceAlso(),
		Options: []document.Option{{Label: say.ChoiceSwap(), Change: claim.Patch(map[string]any{"swapped": !c.Swapped})}},
	}
}
