package claim

import (
	"maps"
	"math"
	"math/big"
	"strings"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/prob"
	"widetally/core/say"
)

// Direction says which departure from a claimed share is asked about.
type Direction string

// The directions.
const (
	Less      Direction = "less"
	Different Direction = "different"
	Greater   Direction = "greater"
)

// Directions lists the directions in the order in which they are offered.
var Directions = []Direction{Less, Different, Greater}

// Stated is what claims have in common whose two hypotheses are clauses of one sentence: its
// direction ("" where there is none), which of the two is the claim, and the level.
type Stated struct {
	Direction Direction
	Role      Role
	Level     float64
}

// side names the texts of a kind of claim and of its direction.
func (s Stated) side(id string) string {
	if s.Direction == "" {
		return id
	}
	return id + "." + string(s.Direction)
}

// Clauses puts both hypotheses, as clauses, and the level among the values of a kind of claim.
func (s Stated) Clauses(id string, v document.Values) document.Values {
	out := maps.Clone(v)
	for _, role := range Roles {
		name := "claim." + id + "." + string(role)
		if s.Direction != "" {
			name += "." + string(s.Direction)
		}
		clause := document.Say(name, v)
		out[string(role)] = document.Value{Kind: document.Said, Message: &clause}
	}
	out["clause"], out["level"] = out[string(s.Role)], document.Of(document.Level, s.Level)
	if _, told := v["where"]; !told {
		out["where"] = document.Term("claim.where.one")
	}
	out["direction"] = document.Term("direction." + string(s.Direction))
	return out
}

// OfGroups names behind a group what the groups are of, where that has a name.
func OfGroups(q Question) document.Value {
	if q == (Question{}) {
		return document.Text("")
	}
	said := say.ClaimOfGroups(q.Called())
	return document.Value{Kind: document.Said, Message: &said}
}

// GroupsHead is the heading over groups.
func GroupsHead(q Question) document.Message {
	if q == (Question{}) {
		return say.ColumnGroup()
	}
	return q.Name()
}

// StatementOf is what the claim says.
func StatementOf(v document.Values) document.Message { return document.Say("claim.stated", v) }

// Finding is what the decision comes to, in words that fit the role of the claim.
func (s Stated) Finding(rejected bool, v document.Values) document.Message {
	return document.Say("finding.stated."+string(s.Role)+"."+Outcome(rejected), v)
}

// Hypotheses are both, with which of them is the claim.
func (s Stated) Hypotheses(id string, v document.Values) document.Block {
	return Hypotheses(s.side(id), s.Role, v)
}

// LookedAgain offers to look at the other directions, which is then noted.
func (s Stated) LookedAgain(already []Direction) *document.Choice {
	out := &document.Choice{Label: say.ChoiceDirections()}
	for _, d := range Directions {
		if d == s.Direction {
			continue
		}
		seen := false
		all := append([]Direction{}, already...)
		for _, l := range already {
			seen = seen || l == d
		}
		if !seen {
			all = append(all, d)
		}
		out.Options = append(
			out.Options,
			document.Option{
				Label:  document.Say("choice.direction."+string(d), nil),
				Chosen: seen,
				Change: Patch(map[string]any{"looked": all}),
			},
		)
	}
	return out
}

// Bell is a density around 0 with a statistic, the critical value and the tails of a direction.
func (s Stated) Bell(n infer.Curve, statistic, critical float64, p prob.Prob, letter string) *document.Picture {
	v := document.Values{
		"z":         document.Of(document.Statistic, statistic),
		"critical":  document.Of(document.Statistic, critical),
		"p":         document.P(document.PEqual, p, s.Level),
		"direction": document.Term("direction." + string(s.Direction)),
		"letter":    document.Text(letter),
	}
	label := "chart.curve.bell"
	if n.StatisticOutside {
		label = "chart.curve.bell_outside"
	}
	curve := &document.Curve{
		X:         n.X,
		Density:   n.Density,
		Top:       n.Top,
		Statistic: statistic,
		Outside:   n.StatisticOutside,
		Label:     document.Say(label, v),
	}
	end := math.Inf(1)
	mark := func(at float64) {
		curve.Critical = append(curve.Critical, document.Line{At: at, Label: say.ChartCurveCritical(at)})
	}
	switch s.Direction {
	case Less:
		curve.Tails, curve.Rejection = []document.Span{{From: -end, To: statistic}}, []document.Span{{From: -end, To: critical}}
		mark(critical)
	case Greater:
		curve.Tails, curve.Rejection = []document.Span{{From: statistic, To: end}}, []document.Span{{From: critical, To: end}}
		mark(critical)
	default:
		far := math.Abs(statistic)
		curve.Tails = []document.Span{{From: -end, To: -far}, {From: far, To: end}}
		curve.Rejection = []document.Span{{From: -end, To: -critical}, {From: critical, To: end}}
		mark(-critical)
		mark(critical)
	}
	return &document.Picture{
		Kind:  document.CurvePicture,
		Alt:   document.Say("chart.curve.alt_bell", v),
		Axis:  document.Say("chart.curve.axis_bell", v),
		Curve: curve,
	}
}

// TheseAnswers names answers of a question within a sentence.
func TheseAnswers(q Question, labels []string) document.Value {
	id := "claim.answers.of"
	if q == (Question{}) {
		id = "claim.answers.plain"
	}
	said := document.Say(id, document.Values{"question": q.Called(), "answers": document.Quotes(document.AnyOf, labels)})
	return document.Value{Kind: document.Said, Message: &said}
}

// PointsText writes an exact part of 1 as percentage points, as percentText does.
func PointsText(share *big.Rat) string { return strings.TrimSuffix(PercentText(share), "\u00a0%") }

// TailOf is the p of a direction.
func TailOf(t infer.Tails, d Direction) prob.Prob {
	switch d {
	case Less:
		return t.Less
	case Greater:
		return t.Greater
	}
	return t.TwoSided
}

// CriticalText is a critical value as a fact.
func CriticalText(d Direction, critical float64) document.Message {
	id := "value"
	if d == Different {
		id = "fact.both_sides"
	}
	return document.Say(id, document.Values{"value": document.Of(document.Statistic, critical)})
}

// UsualPower is that of the smallest departure which a result names.
const UsualPower = 0.8

// Nearest is how far the nearest share lies from one that would be found with the usual power,
// of the sides that the direction asks about; ok is false where none is.
func (s Stated) Nearest(from float64, detectable func(d plan.Direction) (below, above *float64)) (away float64, ok bool) {
	if s.Level >= UsualPower/2 {
		return 0, false
	}
	below, above := detectable(planned(s.Direction))
	away = math.Inf(1)
	for _, x := range []*float64{below, above} {
		if x != nil {
			away, ok = math.Min(away, math.Abs(*x-from)), true
		}
	}
	return away, ok
}
