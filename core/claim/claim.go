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

// called is the question by the shortest name that it has; one without any is the question.
func (q Question) called() document.Value {
	switch {
	case q.Short != "":
		return document.Text(q.Short)
	case q.Wording == "":
		return document.Term("claim.unnamed")
	}
	return document.Text("“" + q.Wording + "”")
}

// groups is the question as what parts respondents into groups.
func (q Question) groups() document.Value {
	if q == (Question{}) {
		return document.Term("claim.unnamed_groups")
	}
	return q.called()
}

// Name is the question as the name of a row.
func (q Question) Name() document.Message { return plain(q.called()) }

func outcome(rejected bool) string {
	if rejected {
		return "rejected"
	}
	return "kept"
}

// hypotheses are the two in words and symbols, and which of them the claim is.
func hypotheses(id string, role Role, v document.Values) document.Block {
	said := func(which string) document.Message { return document.Say("hypotheses."+id+"."+which, v) }
	return document.Block{Kind: document.Hypotheses, Said: []document.Message{said("null"), said("alternative"), document.Say("hypotheses.claim."+string(role), nil)}}
}

func fact(key, name string, nameValues document.Values, value document.Message) document.Fact {
	return document.Fact{Key: key, Name: document.Say("fact."+name, nameValues), Value: value}
}

// pFact is the p-value of a test without a direction.
func pFact(p prob.Prob, level float64) document.Fact {
	return fact("p", "p", nil, plain(document.P(document.PExact, p, level)))
}

// plain is a message that is one value alone.
func plain(v document.Value) document.Message {
	return document.Say("value", document.Values{"value": v})
}

// notesOf collects notes.
type notesOf []document.Note

func (n *notesOf) add(beside document.Place, id string, v document.Values) *document.Note {
	*n = append(*n, document.Note{Message: document.Say("note."+id, v), Beside: beside})
	return &(*n)[len(*n)-1]
}

func (n *notesOf) caution(beside document.Place, id string, v document.Values) *document.Note {
	note := n.add(beside, id, v)
	note.Caution = true
	return note
}

// leftOut says how many gave no answer, and that weights are not used.
func (n *notesOf) leftOut(a About, counted int64) {
	if missing := a.Everyone - counted; missing > 0 {
		n.add(document.Figures, "missing_left_out", document.Values{"missing": document.N(missing), "everyone": document.N(a.Everyone),
			"percent": document.Of(document.Percent, 100*float64(missing)/float64(a.Everyone)), "units": a.Units})
	}
}

func (n *notesOf) unweighted(a About) {
	if a.Weights != "" {
		n.caution(document.Conditions, "conditions.unweighted", document.Values{"name": document.Text(a.Weights), "units": a.Units})
	}
}

// sizeOf names a w or a V by the benchmarks of Cohen (1988): from 0.1 small, from 0.3
// medium, from 0.5 large; below the first it is tiny. It goes by the digits that are shown,
// so that no word contradicts its number.
func sizeOf(w float64) string {
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

// size says how large a departure or a connection is, or that chance alone makes it look so: w of
// a sample is about √(df/n) where the population's is 0.
func (n *notesOf) size(what string, effects []infer.Effect, df int, of int64, level float64, v document.Values) {
	w := infer.Measure(effects, infer.CohensW)
	v["w"], v["n"] = document.Of(document.Effect, *w.Value), document.N(of)
	if !w.AboveInterval() {
		n.add(document.Decision, what+".size."+sizeOf(*w.Value), v)
		return
	}
	v["df"], v["chance"] = document.N(int64(df)), document.Of(document.Effect, math.Sqrt(float64(df)/float64(of)))
	v["lower"], v["upper"], v["confidence"] = document.Of(document.Effect, w.Interval.Lower), document.Of(document.Effect, w.Interval.Upper), document.Of(document.Level, 1-level)
	n.add(document.Decision, what+".size.chance", v)
}

// exact says what a test says that does not rest on the chi-square distribution.
func (n *notesOf) exact(e *infer.ExactTest, level float64) {
	switch {
	case e == nil:
	case e.Exact != nil:
		n.add(document.Conditions, "exact.exact", document.Values{"p": document.P(document.PEqual, e.Exact.P, level)})
	case e.Simulated != nil:
		s := e.Simulated
		n.add(document.Conditions, "exact.simulated", document.Values{"p": document.P(document.PEqual, s.ByProbability.P, level),
			"lower": document.Of(document.Exact, s.ByProbability.Lower), "upper": document.Of(document.Exact, s.ByProbability.Upper),
			"replicates": document.N(int64(s.Replicates)), "seed": document.Text(strconv.FormatUint(s.Seed, 10))})
	}
}

// patch is a change of settings.
func patch(change map[string]any) json.RawMessage {
	raw, _ := json.Marshal(change) // texts, lists and numbers only
	return raw
}

// markOf marks a cell that stands out; with one degree of freedom all cells ask the same as the
// test itself, so they stand out where it rejects.
func (d verdict) markOf(significant bool, df int, difference float64) document.Mark {
	if df == 1 {
		significant = d.rejected()
	}
	switch {
	case !significant || difference == 0:
		return ""
	case difference > 0:
		return document.More
	}
	return document.Fewer
}

// chiSquarePicture is the claim line of a chi-square test.
func chiSquarePicture(statistic, critical float64, df int, rejected bool, p document.Value) *document.Picture {
	c := infer.ChiSquareCurve(statistic, critical, float64(df))
	side := "below"
	if rejected {
		side = "beyond"
	}
	v := document.Values{"df": document.N(int64(df)), "statistic": document.Of(document.Statistic, statistic), "critical": document.Of(document.Statistic, critical),
		"p": p, "side": document.Term("chart.curve." + side)}
	label := "chart.curve.chi_square"
	if c.StatisticOutside {
		label = "chart.curve.chi_square_outside"
	}
	return &document.Picture{Kind: document.CurvePicture, Alt: document.Say("chart.curve.alt", v), Axis: document.Say("chart.curve.axis", v),
		Curve: &document.Curve{X: c.X, Density: c.Density, Top: c.Top, Statistic: statistic, Outside: c.StatisticOutside, Label: document.Say(label, v),
			Critical: []document.Line{{At: critical, Label: document.Say("chart.curve.critical", v)}},
			Tails:    []document.Span{{From: statistic, To: math.Inf(1)}}, Rejection: []document.Span{{From: critical, To: math.Inf(1)}}}}
}

// choice offers values of one setting.
func choice[T comparable](label, member string, values []T, chosen T, name func(T) document.Message) *document.Choice {
	out := &document.Choice{Label: document.Say("choice."+label, nil)}
	for _, x := range values {
		out.Options = append(out.Options, document.Option{Label: name(x), Chosen: x == chosen, Change: patch(map[string]any{member: x})})
	}
	return out
}
