// Package claim turns results into what may be said about them: hypotheses, decisions,
// findings, cautions and the shown working. It says it as a document of message ids with
// values; the words are in the catalogue (locales/), one file per language.
//
// A finding speaks of the population that the respondents stand for. It never says that a
// hypothesis is accepted or proved.
package claim

import (
	"encoding/json"
	"math"
	"strconv"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Role says which hypothesis the claim is. The final sentence depends on it.
type Role string

// The roles.
const (
	ClaimIsNull        Role = "null"
	ClaimIsAlternative Role = "alternative"
)

// Roles lists the roles in the order in which they are offered.
var Roles = []Role{ClaimIsNull, ClaimIsAlternative}

// About is what the sentences need beyond the numbers.
type About struct {
	Units document.Value // what a row is, in the plural: "households"
	// Everyone are the respondents asked about, whether they answered or not.
	Everyone int64
	// Weights names a question of weights that the figures do not use; "" for none.
	Weights string
}

// Question names a question within sentences.
type Question struct {
	Wording string
	Short   string // what it asks, within a sentence: "tenure"; "" for none
}

// Called is the question by the shortest name that it has; one without any is the question.
func (q Question) Called() document.Value {
	switch {
	case q.Short != "":
		return document.Text(q.Short)
	case q.Wording == "":
		return document.Term("claim.unnamed")
	}
	return document.Quote(q.Wording)
}

// Groups is the question as what parts respondents into groups.
func (q Question) Groups() document.Value {
	if q == (Question{}) {
		return document.Term("claim.unnamed_groups")
	}
	return q.Called()
}

// Name is the question as the name of a row.
func (q Question) Name() document.Message { return Plain(q.Called()) }

// Outcome is the word of the catalogue for rejected or not.
func Outcome(rejected bool) string {
	if rejected {
		return "rejected"
	}
	return "kept"
}

// Hypotheses are the two in words and symbols, and which of them the claim is.
func Hypotheses(id string, role Role, v document.Values) document.Block {
	said := func(which string) document.Message { return document.Say("hypotheses."+id+"."+which, v) }
	return document.Block{
		Kind: document.Hypotheses,
		Said: []document.Message{said("null"), said("alternative"), document.Say("hypotheses.claim."+string(role), nil)},
	}
}

// Fact is a figure with its name.
func Fact(key, name string, nameValues document.Values, value document.Message) document.Fact {
	return document.Fact{Key: key, Name: document.Say("fact."+name, nameValues), Value: value}
}

// PFact is the p-value of a test without a direction.
func PFact(p prob.Prob, level float64) document.Fact {
	return Fact("p", "p", nil, Plain(document.P(document.PExact, p, level)))
}

// Plain is a message that is one value alone.
func Plain(v document.Value) document.Message {
	return say.Value(v)
}

// NotesOf collects notes.
type NotesOf []document.Note

// Add adds a note beside a place of the document.
func (n *NotesOf) Add(beside document.Place, id string, v document.Values) *document.Note {
	*n = append(*n, document.Note{Message: document.Say("note."+id, v), Beside: beside})
	return &(*n)[len(*n)-1]
}

// Caution adds a note that one should not pass over.
func (n *NotesOf) Caution(beside document.Place, id string, v document.Values) *document.Note {
	note := n.Add(beside, id, v)
	note.Caution = true
	return note
}

// LeftOut says how many gave no answer, and that weights are not used.
func (n *NotesOf) LeftOut(a About, counted int64) {
	if missing := a.Everyone - counted; missing > 0 {
		n.Add(
			document.Figures,
			"missing_left_out",
			document.Values{"missing": document.N(missing), "everyone": document.N(a.Everyone),
				"percent": document.Of(document.Percent, 100*float64(missing)/float64(a.Everyone)), "units": a.Units},
		)
	}
}

// Unweighted says that there are weights, which are not in force.
func (n *NotesOf) Unweighted(a About) {
	if a.Weights != "" {
		n.Caution(document.Conditions, "conditions.unweighted", document.Values{"name": document.Text(a.Weights), "units": a.Units})
	}
}

// SizeOf names a w or a V by the benchmarks of Cohen (1988): from 0.1 small, from 0.3
// medium, from 0.5 large; below the first it is tiny. It goes by the digits that are shown,
// so that no word contradicts its number.
func SizeOf(w float64) string {
	switch w = math.Round(100*w) / 100; {
	case w < 0.1:
		return "tiny"
	case w < 0.3:
		return "small"
	case w < 0.5:
		return "medium"
	}
	return "large"
}

// Size says how large a departure or a connection is, or that chance alone makes it look so: w of
// a sample is about √(df/n) where the population's is 0.
func (n *NotesOf) Size(what string, effects []infer.Effect, df int, of int64, level float64, v document.Values) {
	w := infer.Measure(effects, infer.CohensW)
	v["w"], v["n"] = document.Of(document.Effect, *w.Value), document.N(of)
	if !w.AboveInterval() {
		n.Add(document.Decision, what+".size."+SizeOf(*w.Value), v)
		return
	}
	v["df"], v["chance"] = document.N(int64(df)), document.Of(document.Effect, math.Sqrt(float64(df)/float64(of)))
	v["lower"], v["upper"], v["confidence"] = document.Of(
		document.Effect,
		w.Interval.Lower,
	), document.Of(
		document.Effect,
		w.Interval.Upper,
	), document.Of(
		document.Level,
		1-level,
	)
	n.Add(document.Decision, what+".size.chance", v)
}

// Exact says what a test says that does not rest on the chi-square distribution.
func (n *NotesOf) Exact(e *infer.ExactTest, level float64) {
	switch {
	case e == nil:
	case e.Exact != nil:
		n.Add(document.Conditions, "exact.exact", document.Values{"p": document.P(document.PEqual, e.Exact.P, level)})
	case e.Simulated != nil:
		s := e.Simulated
		n.Add(document.Conditions, "exact.simulated", document.Values{"p": document.P(document.PEqual, s.ByProbability.P, level),
			"lower": document.Of(
				document.Exact,
				s.ByProbability.Lower,
			), "upper": document.Of(document.Exact, s.ByProbability.Upper),
			"replicates": document.N(int64(s.Replicates)), "seed": document.Text(strconv.FormatUint(s.Seed, 10))})
	}
}

// Patch is a change of settings.
func Patch(change map[string]any) json.RawMessage {
	raw, _ := json.Marshal(change) // texts, lists and numbers only
	return raw
}

// MarkOf marks a cell that stands out; with one degree of freedom all cells ask the same as the
// test itself, so they stand out where it rejects.
func (d Verdict) MarkOf(significant bool, df int, difference float64) document.Mark {
	if df == 1 {
		significant = d.Rejected()
	}
	switch {
	case !significant || difference == 0:
		return ""
	case difference > 0:
		return document.More
	}
	return document.Fewer
}

// ChiSquarePicture is the claim line of a chi-square test.
func ChiSquarePicture(statistic, critical float64, df int, rejected bool, p document.Value) *document.Picture {
	c := infer.ChiSquareCurve(statistic, critical, float64(df))
	side := "below"
	if rejected {
		side = "beyond"
	}
	v := document.Values{
		"df":        document.N(int64(df)),
		"statistic": document.Of(document.Statistic, statistic),
		"critical":  document.Of(document.Statistic, critical),
		"p":         p,
		"side":      document.Term("chart.curve." + side),
	}
	label := "chart.curve.chi_square"
	if c.StatisticOutside {
		label = "chart.curve.chi_square_outside"
	}
	return &document.Picture{
		Kind: document.CurvePicture,
		Alt:  document.Say("chart.curve.alt", v),
		Axis: document.Say("chart.curve.axis", v),
		Curve: &document.Curve{
			X:         c.X,
			Density:   c.Density,
			Top:       c.Top,
			Statistic: statistic,
			Outside:   c.StatisticOutside,
			Label:     document.Say(label, v),
			Critical:  []document.Line{{At: critical, Label: document.Say("chart.curve.critical", v)}},
			Tails:     []document.Span{{From: statistic, To: math.Inf(1)}},
			Rejection: []document.Span{{From: critical, To: math.Inf(1)}},
		},
	}
}

// Choice offers values of one setting.
func Choice[T comparable](label, member string, values []T, chosen T, name func(T) document.Message) *document.Choice {
	out := &document.Choice{Label: document.Say("choice."+label, nil)}
	for _, x := range values {
		out.Options = append(
			out.Options,
			document.Option{Label: name(x), Chosen: x == chosen, Change: Patch(map[string]any{member: x})},
		)
	}
	return out
}

// EffectFact is the size of an effect, with its interval where it has one.
func EffectFact(key string, e infer.Effect, confidence float64) document.Fact {
	if e.Value == nil {
		return Fact(key, key, nil, say.FactNone())
	}
	v := document.Values{"value": document.Of(document.Statistic, *e.Value), "confidence": document.Of(document.Level, confidence)}
	if e.Interval == nil {
		return Fact(key, key, nil, document.Say("value", v))
	}
	v["lower"], v["upper"] = document.Of(document.Statistic, e.Interval.Lower), document.Of(document.Statistic, e.Interval.Upper)
	if e.AboveInterval() {
		return Fact(key, key, nil, document.Say("fact.above_interval", v))
	}
	return Fact(key, key, nil, document.Say("fact.with_interval", v))
}

// FewInGroup is the number of respondents below which a percent of a group is said to
// rest on few.
const FewInGroup = 30

// LowExpected counts the expected counts below 5.
func LowExpected(t infer.LowExpectedCounts, of string) document.Fact {
	v := document.Values{
		"n":        document.N(int64(t.LowCells)),
		"of":       document.N(int64(t.CellsInTest)),
		"smallest": document.Of(document.Amount, t.SmallestExpected),
	}
	id := "fact.low_some"
	if t.LowCells == 0 {
		id = "fact.low_none"
	}
	return Fact("thin", "low_expected", nil, document.Say(id, v))
}

// Merging opens the answers of the question to be merged.
var Merging = &document.Remedy{Label: say.RemedyMerge(), Merge: true}
