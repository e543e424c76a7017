package goodnessoffit

import (
	"encoding/json"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/shares"
)

// Claim is a claim about the shares of a question's answers.
type Claim struct {
	claim.About
	Question claim.Question
	// Labels and Codes are those of the answers, in the order of the result's rows.
	Labels, Codes []string
	// Gaps are codes that the list leaves out between others.
	Gaps []string
	// Placed says that the figures went in by their place.
	Placed  bool
	Source  string // the name of the reference
	Kind    claim.ReferenceKind
	Scale   shares.Scale
	Role    claim.Role
	Aligned *shares.Aligned
	Picture SharesPicture
	Frame   *claim.Frame
	// Asked are the expected shares as they were entered, for another method to take them up.
	Asked json.RawMessage
	// Exact is the test that does not rest on the chi-square distribution, where one of
	// the expected counts is low; nil where it was not carried out.
	Exact *infer.ExactTest
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	id := "claim.statement." + string(c.Role)
	if c.Scale == shares.Equal {
		id += "_equal"
	}
	return document.Say(id, document.Values{"units": c.Units, "source": document.Text(c.Source)})
}

// Document says what a result means: finding, table, curve, facts, hypotheses, working,
// write-up and margin notes.
func (c Claim) Document(r *infer.GoodnessOfFit) document.Document {
	decided, doubt := claim.ChiSquareVerdict(r.Statistic, r.CriticalValue, r.P, r.Level, r.Advice, c.Exact)
	sentence := c.sentence(r, decided.Rejected())
	said := append([]document.Message{sentence}, doubt...)
	journal := say.FindingGoodnessOfFitJournal(int64(r.DF), r.N, r.Statistic, document.P(document.PEqual, r.P, r.Level), r.CohensW)
	writeUp := slices.Concat(said, decided.InsteadInJournal(journal))
	for i, row := range r.Rows {
		writeUp = append(writeUp, say.WriteUpCount(c.Labels[i], row.Observed, row.Expected))
	}
	d := document.Document{
		Blocks: []document.Block{
			claim.Hypotheses(
				c.hypothesis(),
				c.Role,
				document.Values{"source": document.Text(c.Source), "answers": document.N(int64(r.Answers))},
			),
			{Kind: document.Sentence, Said: said},
			{Kind: document.Figures, Table: c.table(r, decided)},
			{
				Kind: document.Chart,
				Chart: claim.ChiSquarePicture(
					r.Statistic,
					r.CriticalValue,
					r.DF,
					r.Reject,
					document.P(document.PEqual, r.P, r.Level),
				),
			},
			{Kind: document.Facts, Facts: c.facts(r, decided)},
			decided.Block(),
			{Kind: document.Working, Said: append(c.working(r), decided.DecidesInstead()...)},
			{Kind: document.WriteUp, Said: writeUp},
		},
		Notes:   c.notes(r, decided),
		Outcome: decided.Outcome("shares"),
		Ticks:   &document.Ticks{Sum: r.SumShare},
	}
	d.Blocks = slices.Insert(d.Blocks, 6, c.pictures(r)...)
	if c.Scale != shares.Equal {
		d.Ticks.Source = c.Source
	}
	for i, row := range r.Rows {
		d.Ticks.Shares = append(
			d.Ticks.Shares,
			document.ShareTick{Code: c.Codes[i], Share: row.Share, Points: 100 * (row.ObservedShare - row.Share)},
		)
	}
	return d
}

// SharesPicture is a way to draw observed shares beside expected ones.
type SharesPicture string

// The pictures; "" is none.
const (
	NoShares    SharesPicture = ""
	SharesTicks SharesPicture = "ticks"
)

// SharesPictures lists the pictures in the order in which they are offered.
var SharesPictures = []SharesPicture{NoShares, SharesTicks}

// pictures offers to draw the observed shares as bars, each with a tick at its expected share.
func (c Claim) pictures(r *infer.GoodnessOfFit) []document.Block {
	out := []document.Block{
		{
			Kind: document.Choices,
			Choices: claim.Choice("drawing", "picture", SharesPictures, c.Picture, func(p SharesPicture) document.Message {
				if p == NoShares {
					return say.ChoiceDrawNone()
				}
				return document.Say("choice.draw."+string(p), nil)
			}),
		},
	}
	if c.Picture == NoShares {
		return out
	}
	v := document.Values{"question": c.Question.Called(), "n": document.N(r.N), "source": document.Text(c.Source)}
	tick := "chart.plot.tick"
	if c.Scale == shares.Equal {
		tick = "chart.plot.tick_equal"
	}
	d := &document.Plot{To: float64(len(r.Rows)), Up: say.ChartPlotUpShare(), Tick: document.Say(tick, v)}
	for i, row := range r.Rows {
		from, to, height, share := float64(i)+0.15, float64(i)+0.85, 100*row.ObservedShare, 100*row.Share
		d.Bars = append(d.Bars, document.Bar{From: from, To: to, Height: height})
		d.Ticks = append(d.Ticks, document.Tick{From: from - 0.07, To: to + 0.07, At: share})
		d.Names = append(d.Names, document.Line{At: float64(i) + 0.5, Label: claim.Plain(document.Text(c.Labels[i]))})
		d.Top = max(d.Top, height, share)
	}
	return append(
		out,
		c.Frame.Drawn(
			&document.Picture{
				Kind: document.PlotPicture,
				Alt:  document.Say("chart.plot.alt_ticks", v),
				Axis: document.Say("chart.plot.axis", v),
				Plot: d,
			},
			document.Bare,
		)...)
}

func (c Claim) hypothesis() string {
	if c.Scale == shares.Equal {
		return "goodness_of_fit_equal"
	}
	return "goodness_of_fit"
}

func (c Claim) sentence(r *infer.GoodnessOfFit, rejected bool) document.Message {
	id := "finding.goodness_of_fit." + string(c.Role) + "." + claim.Outcome(rejected)
	if c.Scale == shares.Equal {
		id += "_equal"
	}
	if c.Question.Short != "" {
		id += "_short"
	}
	return document.Say(
		id,
		document.Values{"short": document.Text(c.Question.Short), "level": document.Of(document.Level, r.Level), "units": c.Units,
			"question": document.Text(c.Question.Wording), "source": document.Text(c.Source)},
	)
}

func (c Claim) table(r *infer.GoodnessOfFit, decided claim.Verdict) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: say.CaptionGoodnessOfFit(), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("observed"), head("share"), head("expected"), head("difference"), head("contribution")}}
	none := document.One(document.Text(""))
	for i, row := range r.Rows {
		out := document.Row{Name: claim.Plain(document.Text(c.Labels[i])), Faint: row.LeftOut}
		observed := document.One(document.N(row.Observed))
		observed.Mark = decided.MarkOf(row.Significant, r.DF, row.Difference)
		out.Cells = []document.Cell{observed, document.One(document.Of(document.Share, row.Share))}
		if row.LeftOut {
			out.Cells = append(out.Cells, document.One(document.Term("claim.left_out")), none, none)
		} else {
			out.Cells = append(out.Cells, document.One(document.Of(document.Amount, row.Expected)), document.One(document.Of(document.Amount, row.Difference)), document.One(document.Of(document.Statistic, row.Contribution)))
		}
		t.Rows = append(t.Rows, out)
	}
	t.Rows = append(
		t.Rows,
		document.Row{
			Name:  head("total"),
			Total: true,
			Cells: []document.Cell{document.One(document.N(r.N)), document.One(document.Of(document.Share, r.SumShare)),
				document.One(
					document.Of(document.Amount, r.SumExpected),
				), document.One(document.Of(document.Amount, r.SumDifference)), document.One(document.Of(document.Statistic, r.Statistic))},
		},
	)
	return t
}

func (c Claim) facts(r *infer.GoodnessOfFit, decided claim.Verdict) []document.Fact {
	return slices.Concat([]document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactChiSquare(document.Of(document.Statistic, r.Statistic))),
		claim.Fact("df", "df", nil, say.FactDfAnswers(document.N(int64(r.Answers)), document.N(int64(r.DF)))),
	}, decided.Facts(claim.PFact(r.P, r.Level)), []document.Fact{
		claim.Fact(
			"critical",
			"critical",
			document.Values{"level": document.Of(document.Level, r.Level)},
			claim.Plain(document.Of(document.Statistic, r.CriticalValue)),
		),
		claim.EffectFact("w", infer.Measure(r.Effects, infer.CohensW), 1-r.Level),
		claim.LowExpected(r.LowExpectedCounts, "answers"),
	})
}

func (c Claim) working(r *infer.GoodnessOfFit) []document.Message {
	var out []document.Message
	say := func(id string, v document.Values) { out = append(out, document.Say("working.goodness_of_fit."+id, v)) }
	for i, row := range r.Rows {
		v := document.Values{
			"answer":       document.Text(c.Labels[i]),
			"observed":     document.N(row.Observed),
			"n":            document.N(r.N),
			"share":        document.Of(document.Exact, row.Share),
			"expected":     document.Of(document.Statistic, row.Expected),
			"contribution": document.Of(document.Statistic, row.Contribution),
		}
		if row.LeftOut {
			say("left_out", v)
			continue
		}
		say("row", v)
	}
	statistic, df := document.Of(document.Statistic, r.Statistic), document.N(int64(r.DF))
	say("statistic", document.Values{"statistic": statistic})
	say("df", document.Values{"answers": document.N(int64(r.Answers)), "df": df})
	say("p", document.Values{"df": df, "statistic": statistic, "p": document.P(document.PEqual, r.P, r.Level)})
	compare := document.Values{
		"p":         document.P(document.PEqual, r.P, r.Level),
		"level":     document.Of(document.Level, r.Level),
		"statistic": statistic,
		"critical":  document.Of(document.Statistic, r.CriticalValue),
		"df":        df,
	}
	if r.Reject {
		say("reject", compare)
	} else {
		say("keep", compare)
	}
	say("effect", document.Values{"statistic": statistic, "n": document.N(r.N), "w": document.Of(document.Statistic, r.CohensW)})
	say("likelihood", document.Values{"g": document.Of(document.Statistic, r.G), "p": document.P(document.PEqual, r.GP, r.Level)})
	return out
}
