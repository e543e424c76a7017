package dissimilarity

import (
	"cmp"
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Crossing describes how differently groups answered a question; nothing is tested.
type Crossing struct {
	claim.About
	Question, Groups    claim.Question
	Labels, GroupLabels []string
}

// confidences are offered.
var confidences = []float64{0.9, 0.95, 0.99}

// Statement says what is described.
func (c Crossing) Statement() document.Message {
	return say.ClaimDissimilarityDescribed(c.Groups.Groups())
}

func percent(x float64) document.Value { return document.Of(document.Percent, 100*x) }

func rangeOf(i infer.Interval) document.Value {
	return document.Value{Kind: document.Range, Number: 100 * i.Lower, Upper: 100 * i.Upper}
}

// Document says of the group that differs most beyond chance what its index means, and what
// chance alone adds.
func (c Crossing) Document(r *Result) document.Document {
	most := slices.MaxFunc(r.Indices, func(a, b Index) int {
		return cmp.Or(cmp.Compare(a.Interval.Lower, b.Interval.Lower), cmp.Compare(a.Estimate-a.ByChance, b.Estimate-b.ByChance))
	})
	v := document.Values{
		"units":      c.Units,
		"question":   c.Question.Called(),
		"groups":     c.Groups.Groups(),
		"group":      document.Text(c.GroupLabels[most.Group]),
		"confidence": document.Of(document.Level, r.Confidence),
		"replicates": document.N(int64(r.Replicates)),
		"index": percent(
			most.Estimate,
		),
		"chance":    percent(most.ByChance),
		"corrected": percent(most.Corrected),
		"lower":     percent(most.Interval.Lower),
		"upper":     percent(most.Interval.Upper),
		"n":         document.N(most.N),
		"others":    document.N(most.Others),
	}
	index := "read.dissimilarity.index"
	if most.Against >= 0 {
		index, v["other"] = "read.dissimilarity.pair", document.Text(c.GroupLabels[most.Against])
	}
	said := []document.Message{document.Say(index, v), document.Say("read.dissimilarity.interval", v)}
	d := document.Document{Blocks: []document.Block{
		{
			Kind: document.Choices,
			Choices: claim.Choice(
				"confidence",
				"confidence",
				confidences,
				r.Confidence,
				func(x float64) document.Message { return claim.Plain(document.Of(document.Level, x)) },
			),
		},
		{Kind: document.Sentence, Said: said},
		{Kind: document.Figures, Table: c.table(r, v)},
		{Kind: document.Chart, Chart: c.whiskers(r, v)},
		{
			Kind: document.Working,
			Said: []document.Message{
				say.WorkingDissimilarityIndex(),
				document.Say("working.dissimilarity.chance", v),
				document.Say("working.dissimilarity.interval", v),
			},
		},
		{Kind: document.WriteUp, Said: said},
	}}
	var notes claim.NotesOf
	if most.Interval.Lower == 0 {
		notes.Caution(document.Figures, "dissimilarity.chance", v)
	}
	if len(r.Indices) > 1 {
		notes.Add(document.Figures, "dissimilarity.others", v)
	}
	notes.LeftOut(c.About, r.N)
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// name says who is compared.
func (c Crossing) name(x Index) document.Message {
	if x.Against < 0 {
		return claim.Plain(document.Text(c.GroupLabels[x.Group]))
	}
	return say.ColumnDissimilarityPair(c.GroupLabels[x.Group], c.GroupLabels[x.Against])
}

func (c Crossing) table(r *Result, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column.dissimilarity."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.dissimilarity", v),
		Stub:    claim.Plain(c.Groups.Called()),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{say.ColumnRespondents(), head("index"), head("chance"), head("corrected"), head("interval")},
	}
	for _, x := range r.Indices {
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: c.name(x),
				Cells: []document.Cell{
					document.One(document.N(x.N)),
					document.One(percent(x.Estimate)),
					document.One(percent(x.ByChance)),
					document.One(percent(x.Corrected)),
					document.One(rangeOf(x.Interval)),
				},
			},
		)
	}
	return t
}

func (c Crossing) whiskers(r *Result, v document.Values) *document.Picture {
	w := &document.Whiskers{From: 0, To: 0}
	for _, x := range r.Indices {
		w.To = math.Max(w.To, 100*x.Interval.Upper)
		w.Rows = append(
			w.Rows,
			document.Whisker{
				Name:     c.name(x),
				Lower:    100 * x.Interval.Lower,
				Estimate: 100 * x.Estimate,
				Upper:    100 * x.Interval.Upper,
				Text:     claim.Plain(rangeOf(x.Interval)),
			},
		)
	}
	w.To = math.Min(100, 1.06*w.To)
	return &document.Picture{
		Kind:     document.WhiskersPicture,
		Alt:      document.Say("chart.dissimilarity.alt", v),
		Axis:     say.ChartDissimilarityAxis(),
		Whiskers: w,
	}
}
