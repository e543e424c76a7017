package goodnessoffit

import (
	"encoding/json"
	"math"
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/shares"
)

func (c Claim) notes(r *infer.GoodnessOfFit, decided claim.Verdict) []document.Note {
	var out claim.NotesOf
	c.sharesNote(&out, r)
	c.referenceNote(&out)
	c.placedNote(&out, r)
	for _, code := range c.Gaps {
		out.Caution(document.Shares, "shares.gap", document.Values{"code": document.Text(code), "first": document.Text(c.Codes[0]), "last": document.Text(c.Codes[len(c.Codes)-1]), "answers": document.N(int64(r.Answers)), "df": document.N(int64(r.DF))}).
			Remedy = &document.Remedy{
			Label:  say.RemedyAnswer(code),
			Answer: code,
		}
	}
	c.furthestNote(&out, r)
	out.LeftOut(c.About, r.N)
	for i, row := range r.Rows {
		if row.LeftOut {
			out.Add(
				document.Figures,
				"zero_share_left_out",
				document.Values{"answer": document.Text(c.Labels[i]), "df": document.N(int64(r.DF))},
			)
		}
	}
	c.conditionNote(&out, r)
	out.Exact(c.Exact, r.Level)
	decided.Differ(&out, "chi_square")
	out.Unweighted(c.About)
	// The test as a whole and the answers one by one ask different things; where
	// they seem to disagree the page says why. Two answers are one and the same question.
	switch anyStandsOut := r.Rows[r.FurthestAt].Significant; {
	case r.DF == 1:
	case decided.Rejected() && !anyStandsOut:
		out.Add(document.Decision, "goodness_of_fit.none_stands", nil)
	case !decided.Rejected() && anyStandsOut:
		out.Caution(document.Decision, "goodness_of_fit.one_stands", nil)
	}
	switch {
	case decided.Rejected():
		out.Size(
			"goodness_of_fit",
			r.Effects,
			r.DF,
			r.N,
			r.Level,
			document.Values{"largest": document.Of(document.Effect, r.LargestW)},
		)
	case r.DetectableW > r.LargestW:
		out.Add(document.Decision, "goodness_of_fit.not_proving.none", document.Values{"level": document.Of(document.Level, r.Level), "n": document.N(r.N)}).Remedy = c.nearEnough()
	default:
		out.Add(document.Decision, "goodness_of_fit.not_proving."+claim.SizeOf(r.DetectableW), document.Values{
			"level": document.Of(document.Level, r.Level), "n": document.N(r.N), "w": document.Of(document.Effect, r.DetectableW)}).Remedy = c.nearEnough()
	}
	return out
}

func (c Claim) sharesNote(out *claim.NotesOf, r *infer.GoodnessOfFit) {
	v := document.Values{"answers": document.N(int64(len(c.Labels)))}
	if c.Scale == shares.Equal {
		v["percent"] = document.Of(document.Percent, 100*r.Rows[0].Share)
		out.Add(document.Shares, "shares.equal", v)
		return
	}
	a := c.Aligned
	v["sum"] = document.Text(shares.Format(a.Sum))
	if a.Target != nil {
		v["target"], v["gap"] = document.Text(shares.Format(a.Target)), document.Text(shares.Format(new(big.Rat).Abs(a.Gap)))
	}
	switch {
	case a.Rescaled:
		out.Caution(document.Shares, "shares.rescaled", v)
	case a.Rounded:
		out.Add(document.Shares, "shares.rounded", v)
	case a.Target != nil:
		out.Add(document.Shares, "shares.matched", v)
	default:
		out.Add(document.Shares, "shares.divided", v)
	}
}

func (c Claim) referenceNote(out *claim.NotesOf) {
	kind := string(c.Kind)
	switch {
	case c.Scale == shares.Equal && c.Kind != claim.Target:
		kind = string(claim.Theory) // equal shares come from no publication
	case c.Scale == shares.Counts && c.Kind != claim.Register: // those of a register are a full count
		kind = claim.OwnSample
	}
	n := out.Add(document.Shares, "reference."+kind, document.Values{"source": document.Text(c.Source)})
	n.Caution = kind == claim.OwnSample || kind == string(claim.Survey)
	if kind == claim.OwnSample && c.Asked != nil {
		n.Remedy = &document.Remedy{Label: say.RemedyTwoSamples(), Ask: &document.Ask{Method: "homogeneity", Settings: c.asked()}}
	}
}

// fitsBetter is how much smaller χ² has to be in another order for it to be named.
const fitsBetter = 4

// placedNote says that the figures went in by their place, and when another usual order of the
// answers would fit them far better: the alphabet's, or the list turned round.
func (c Claim) placedNote(out *claim.NotesOf, r *infer.GoodnessOfFit) {
	if !c.Placed || c.Scale == shares.Equal {
		return
	}
	n := len(r.Rows)
	chiSquare := func(figureOf func(i int) int) (x float64) {
		for i, row := range r.Rows {
			share := r.Rows[figureOf(i)].Share
			if share == 0 {
				return math.Inf(1)
			}
			expected := share * float64(r.N)
			x += (float64(row.Observed) - expected) * (float64(row.Observed) - expected) / expected
		}
		return x
	}
	alphabet := make([]int, n) // the answers in the alphabet's order
	for i := range alphabet {
		alphabet[i] = i
	}
	slices.SortStableFunc(alphabet, func(a, b int) int {
		return strings.Compare(strings.ToLower(c.Labels[a]), strings.ToLower(c.Labels[b]))
	})
	place := make([]int, n)
	for at, i := range alphabet {
		place[i] = at
	}
	best, x := "", r.Statistic/fitsBetter
	for id, figureOf := range map[string]func(i int) int{"alphabet": func(i int) int { return place[i] }, "turned": func(i int) int { return n - 1 - i }} {
		if other := chiSquare(figureOf); other < x {
			best, x = id, other
		}
	}
	v := document.Values{
		"first":     document.Text(c.Labels[0]),
		"last":      document.Text(c.Labels[n-1]),
		"statistic": document.Of(document.Statistic, r.Statistic),
		"other":     document.Of(document.Statistic, x),
	}
	if best == "" {
		out.Add(document.Shares, "shares.placed", v)
		return
	}
	out.Caution(document.Shares, "shares.placed_"+best, v)
}

func (c Claim) asked() json.RawMessage {
	return claim.Patch(map[string]any{"shares": c.Asked, "role": c.Role})
}

// nearEnough asks for evidence of agreement, where the claim is that the shares hold.
func (c Claim) nearEnough() *document.Remedy {
	if c.Role != claim.ClaimIsNull || c.Asked == nil {
		return nil
	}
	return &document.Remedy{
		Label: say.RemedyNear(),
		Ask: &document.Ask{
			Method:   "equivalence/distribution",
			Settings: claim.Patch(map[string]any{"shares": c.Asked, "role": claim.ClaimIsAlternative}),
		},
	}
}

func (c Claim) furthestNote(out *claim.NotesOf, r *infer.GoodnessOfFit) {
	row := r.Rows[r.FurthestAt]
	points := 100 * (row.ObservedShare - row.Share)
	id := "furthest."
	switch {
	case row.Difference == 0:
		out.Add(document.Figures, id+"none", nil)
		return
	case points > 0:
		id += "more"
	default:
		id, points = id+"fewer", -points
	}
	switch {
	case r.DF == 1: // the other answer is as far out, the other way: one question, asked once
		id += "_two"
	case row.Significant:
		id += "_stands"
	}
	out.Add(
		document.Figures,
		id,
		document.Values{"answer": document.Text(c.Labels[r.FurthestAt]), "points": document.Of(document.Points, points),
			"answers": document.N(int64(r.Answers)), "level": document.Of(document.Level, r.Level)},
	)
}

// conditionNote follows the rule of Cochran (1954): no expected count below 1 and at
// most a fifth of them below 5; and beside it what is known for nearly equal shares.
func (c Claim) conditionNote(out *claim.NotesOf, r *infer.GoodnessOfFit) {
	v := document.Values{
		"thinnest": document.Of(document.Amount, r.SmallestExpected),
		"answer":   document.Text(c.Labels[r.SmallestExpectedAt]),
		"units":    c.Units,
		"n":        document.N(r.N),
		"thin": document.N(
			int64(r.LowCells),
		),
		"answers": document.N(int64(r.Answers)),
		"percent": document.Of(document.Percent, r.LowPercent),
	}
	switch {
	case r.LowCells == 0:
		out.Add(document.Conditions, "conditions.good", v)
	case r.Advice.Because == infer.BecauseWithinRule:
		out.Add(document.Conditions, "conditions.fair", v)
	case r.Advice.Because == infer.BecauseEqualShares:
		out.Add(document.Conditions, "conditions.equal", v)
	default:
		out.Caution(document.Conditions, "conditions.poor", v).Remedy = claim.Merging
	}
}
