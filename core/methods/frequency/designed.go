package frequency

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// IntervalKind is a way to make the interval of an estimated share.
type IntervalKind string

// The kinds; that of Korn and Graubard (1998) is the one that keeps its confidence best.
const (
	KornGraubard IntervalKind = ""
	LogitT       IntervalKind = "logit"
	WilsonN      IntervalKind = "wilson"
	LinearT      IntervalKind = "linear"
)

// IntervalKinds lists them in the order in which they are offered.
var IntervalKinds = []IntervalKind{KornGraubard, LogitT, WilsonN, LinearT}

// Of is the interval of a share, nil where there is none.
func (k IntervalKind) Of(u infer.ShareUncertainty) *infer.Interval {
	switch {
	case k == LogitT:
		return u.Logit
	case k == WilsonN:
		return u.Wilson
	case k == LinearT && u.Linear != nil && u.StandardError > 0:
		return &u.Linear.Interval
	case k == LinearT:
		return nil
	}
	return u.Beta
}

func (k IntervalKind) name() string {
	if k == KornGraubard {
		return "beta"
	}
	return string(k)
}

// Estimate is the shares of the answers in a population.
type Estimate struct {
	Shares *design.Shares
	Of     []infer.ShareUncertainty
	// TotalSE are the standard errors of the sums of weights.
	TotalSE []float64
	// Missing is the share, by weight, of everybody who was asked and gave no answer; 0 for nobody.
	Missing float64
}

// EstimatesMissing implements analysis.EstimatesMissing.
func (*Settings) EstimatesMissing() {}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Shares: c.Cells.Shares()}
	for j := range e.Shares.Share {
		e.Of = append(e.Of, e.Shares.One(j).Uncertainty(analysis.UsualConfidence))
	}
	for _, v := range c.Cells.TotalVariance() {
		e.TotalSE = append(e.TotalSE, math.Sqrt(v))
	}
	if c.Whole != nil && c.Frequency.Missing > 0 {
		e.Missing = 1 - c.Cells.Sum/c.Whole.Sum
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	c := Frequency{
		About:    about,
		Question: analysis.Named(q),
		Labels:   analysis.LabelsOf(q),
		Ranked:   q.Kind.Ranked(),
		Order:    s.Order,
		Kind:     s.Kind,
		Weighted: s.Weighted,
		Frame:    s.Frame,
	}
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled, o.Counted.Frequency.Missing)
}

// estimated shows the shares with their intervals as a table and as a picture.
func (c Frequency) estimated(e *Estimate, by claim.Sampled, missing int64) document.Document {
	first, tied := 0, false
	for j, p := range e.Shares.Share {
		if p > e.Shares.Share[first] {
			first, tied = j, false
		} else if j != first && p == e.Shares.Share[first] {
			tied = true
		}
	}
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(),
		"n": document.N(by.Base.N), "answer": document.Text(c.Labels[first]),
		"percent": document.Of(document.Percent, 100*e.Shares.Share[first]),
		"confidence": document.Of(
			document.Level,
			analysis.UsualConfidence,
		), "interval": claim.RangeOf(c.Kind.Of(e.Of[first])),
	}
	id := "read.frequency.estimated"
	if tied {
		id += "_tied"
	}
	if c.Kind.Of(e.Of[first]) == nil {
		id += "_alone"
	}
	sentence := document.Say(id, v)
	at := claim.Arranged(c.Order, c.Labels, e.Shares.Count)
	d := document.Document{Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Sentence, Said: []document.Message{sentence}},
		{Kind: document.Choices, Choices: claim.OrderChoice(c.Order)},
		{Kind: document.Choices, Choices: claim.Choice("interval_kind", "kind", IntervalKinds, c.Kind, func(k IntervalKind) document.Message {
			return document.Say("choice.interval_of."+k.name(), nil)
		})},
		{Kind: document.Choices, Choices: claim.Choice("weighted", "weighted", []bool{false, true}, c.Weighted, func(is bool) document.Message {
			return document.Say(map[bool]string{false: "choice.weighted_no", true: "choice.weighted_yes"}[is], nil)
		})},
		{Kind: document.Figures, Table: c.estimates(e, at, v, missing)},
	}}
	if w := c.whiskers(e, at, v); w != nil {
		d.Blocks = append(d.Blocks, c.Frame.Drawn(w, document.Bare)...)
	}
	d.Blocks = append(d.Blocks,
		document.Block{Kind: document.Working, Said: append(working(e, c.Labels, by), by.ByStratum(
			e.Shares.Cells, say.WorkingDesignedOfShare(c.Labels[first]), e.Shares.ShareSlope(first),
		)...)},
		document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}},
	)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.Of[first].DesignEffect)
	notes.Add(document.Figures, "designed."+c.Kind.name(), nil)
	d.Notes = notes
	return d
}

func (c Frequency) estimates(e *Estimate, at []int, v document.Values, missing int64) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say(
			"caption.frequency_estimated",
			v,
		), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), document.Say("column.interval", v), head("standard_error"),
			head("design_effect"), head("effective_n"),
		},
	}
	upTo := map[int]float64{}
	if c.Ranked {
		t.Columns = append(t.Columns, head("cumulative_estimated"))
		sum := 0.0
		for j, p := range e.Shares.Share {
			sum += p
			upTo[j] = sum
		}
	}
	if c.Weighted {
		t.Columns = append(t.Columns, head("weighted_count"), head("weighted_se"), head("scaled_count"))
	}
	none := document.One(document.Text(""))
	for _, j := range at {
		u := e.Of[j]
		row := document.Row{Name: claim.Plain(document.Text(c.Labels[j])), Cells: []document.Cell{
			document.One(document.N(e.Shares.Count[j])),
			document.One(document.Of(document.Percent, 100*e.Shares.Share[j])),
			document.One(claim.RangeOf(c.Kind.Of(u))),
			document.One(document.Of(document.Points, 100*u.StandardError)),
			document.One(claim.OrNothing(document.Effect, u.DesignEffect)),
			document.One(claim.OrNothing(document.Amount, u.EffectiveN)),
		}}
		if c.Ranked {
			row.Cells = append(row.Cells, document.One(document.Of(document.Percent, 100*upTo[j])))
		}
		if c.Weighted {
			row.Cells = append(row.Cells, document.One(document.Of(document.Amount, e.Shares.Total[j])),
				document.One(document.Of(document.Amount, e.TotalSE[j])),
				document.One(document.Of(document.Amount, float64(e.Shares.N)*e.Shares.Share[j])))
		}
		t.Rows = append(t.Rows, row)
	}
	sums := func(name string, n int64, percent, weight float64, total bool) {
		row := document.Row{Name: head(name), Total: total, Faint: !total, Cells: []document.Cell{
			document.One(document.N(n)), document.One(document.Of(document.Percent, percent)), none, none, none, none,
		}}
		for range len(t.Columns) - len(row.Cells) {
			row.Cells = append(row.Cells, none)
		}
		if c.Weighted {
			row.Cells[len(row.Cells)-3] = document.One(document.Of(document.Amount, weight))
			if total {
				row.Cells[len(row.Cells)-1] = document.One(document.Of(document.Amount, float64(n)))
			}
		}
		t.Rows = append(t.Rows, row)
	}
	sums("total", e.Shares.N, 100, e.Shares.Sum, true)
	if missing > 0 && e.Missing > 0 {
		sums("missing_of_all", missing, 100*e.Missing, e.Shares.Sum*e.Missing/(1-e.Missing), false)
	}
	return t
}

// whiskers are the intervals one under the other; nil without degrees of freedom.
func (c Frequency) whiskers(e *Estimate, at []int, v document.Values) *document.Picture {
	w := &document.Whiskers{}
	for _, j := range at {
		i := c.Kind.Of(e.Of[j])
		if i == nil {
			return nil
		}
		w.Rows = append(w.Rows, claim.WhiskerOf(claim.Plain(document.Text(c.Labels[j])), e.Shares.Share[j], i))
	}
	return &document.Picture{
		Kind: document.WhiskersPicture, Whiskers: claim.Fitted(w),
		Alt: document.Say("chart.whiskers.alt_estimated", v), Axis: document.Say("chart.whiskers.axis_estimated", v),
	}
}

// working shows where a share and its standard error come from.
func working(e *Estimate, labels []string, by claim.Sampled) []document.Message {
	s := e.Shares
	out := []document.Message{
		say.WorkingDesignedWeights(s.Sum, s.N),
		by.Variance(),
	}
	for j, label := range labels {
		out = append(out, say.WorkingDesignedShare(label, s.Total[j], s.Sum, s.Share[j], s.SE(j)))
	}
	return out
}
