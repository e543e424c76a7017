package claim

import (
	"math"
	"math/big"
	"strconv"

	"widetally/core/infer"
	"widetally/core/shares"
)

// Role says which hypothesis the claim is: that the shares hold (the null), or
// that they do not (the alternative). The final sentence depends on it.
type Role string

// The roles.
const (
	ClaimIsNull        Role = "null"
	ClaimIsAlternative Role = "alternative"
)

// ReferenceKind says where expected shares come from, which decides whether they
// may be taken as known.
type ReferenceKind string

// The kinds of reference.
const (
	Register  ReferenceKind = "register" // official register or census, a full count
	Report    ReferenceKind = "report"   // published report
	Survey    ReferenceKind = "survey"   // an earlier or another survey, itself a sample
	Target    ReferenceKind = "target"   // a policy target
	Theory    ReferenceKind = "theory"   // shares that a theory gives
	ownSample               = "sample"   // counts of another group entered as shares
)

// ReferenceKinds lists the kinds in the order in which they are offered.
var ReferenceKinds = []ReferenceKind{Register, Report, Survey, Target, Theory}

// GoodnessOfFitContext is what the sentences need beyond the numbers.
type GoodnessOfFitContext struct {
	Units    string   // what a row is, in the plural: "households"
	Question string   // the question's wording
	Short    string   // what it asks, within a sentence: "tenure"; "" for none
	Labels   []string // the answers, in the order of the result's rows
	Source   string   // the name of the reference
	Kind     ReferenceKind
	Mode     shares.Mode
	Role     Role
	Aligned  *shares.Aligned
	Everyone int64 // respondents, answered or not
	// Exact is the test that does not rest on the chi-square distribution, where one of
	// the expected counts is thin; nil where it was not carried out.
	Exact *infer.ExactTest
	// Weights names a question of weights that the figures do not use; "" for none.
	Weights string
}

// ReadGoodnessOfFit says what a result means: the finding, the journal line, the
// shown working, and the margin notes. The finding speaks of the population that
// the respondents stand for; it never says that a hypothesis is accepted or
// proved.
func ReadGoodnessOfFit(r *infer.GoodnessOfFit, c GoodnessOfFitContext) Reading {
	return Reading{
		Sentence: c.sentence(r),
		Doubt:    c.doubt(r),
		Journal: Finding{ID: "finding.gof.journal", Beside: BesideReading, Values: map[string]Value{
			"df": count(int64(r.DF)), "n": count(r.N), "statistic": {Kind: Statistic, Number: r.Statistic},
			"p": pvalue(PEqual, r.P, r.Level), "w": of(Effect, r.CohensW)}},
		Working: c.working(r),
		Notes:   c.notes(r),
	}
}

// Reading is everything that is said about one result.
type Reading struct {
	Sentence Finding
	// Doubt belongs behind the sentence where the chi-square distribution is not to be
	// relied on; nil elsewhere.
	Doubt   *Finding
	Journal Finding
	Working []Finding
	Notes   []Finding
}

func (c GoodnessOfFitContext) sentence(r *infer.GoodnessOfFit) Finding {
	id := "finding.gof." + string(c.Role)
	if r.Reject {
		id += ".rejected"
	} else {
		id += ".kept"
	}
	source := words(c.Source)
	if c.Mode == shares.Equal {
		id += "_equal"
	}
	if c.Short != "" {
		id += "_short"
	}
	return Finding{ID: id, Beside: BesideReading, Values: map[string]Value{
		"short": words(c.Short), "level": of(Level, r.Level), "units": words(c.Units), "question": words(c.Question), "source": source}}
}

func (c GoodnessOfFitContext) working(r *infer.GoodnessOfFit) []Finding {
	var out []Finding
	say := func(id string, v map[string]Value) {
		out = append(out, Finding{ID: "working.gof." + id, Values: v, Beside: BesideTable})
	}
	for i, row := range r.Rows {
		v := map[string]Value{"answer": words(c.Labels[i]), "observed": count(row.Observed), "n": count(r.N),
			"share": of(Exact, row.Share), "expected": of(Statistic, row.Expected), "contribution": of(Statistic, row.Contribution)}
		if row.LeftOut {
			say("left_out", v)
			continue
		}
		say("row", v)
	}
	n, k := count(r.N), count(int64(r.Answers))
	statistic, df := of(Statistic, r.Statistic), count(int64(r.DF))
	say("statistic", map[string]Value{"statistic": statistic})
	say("df", map[string]Value{"answers": k, "df": df})
	say("p", map[string]Value{"df": df, "statistic": statistic, "p": pvalue(PEqual, r.P, r.Level)})
	compare := map[string]Value{"p": pvalue(PEqual, r.P, r.Level), "level": of(Level, r.Level), "statistic": statistic, "critical": of(Statistic, r.CriticalValue), "df": df}
	if r.Reject {
		say("reject", compare)
	} else {
		say("keep", compare)
	}
	say("effect", map[string]Value{"statistic": statistic, "n": n, "w": of(Statistic, r.CohensW)})
	say("likelihood", map[string]Value{"g": of(Statistic, r.G), "p": pvalue(PEqual, r.GP, r.Level)})
	return out
}

func (c GoodnessOfFitContext) notes(r *infer.GoodnessOfFit) []Finding {
	out := []Finding{c.sharesNote(r), c.referenceNote(), c.furthestNote(r)}
	if missing := c.Everyone - r.N; missing > 0 {
		out = append(out, Finding{ID: "note.missing_left_out", Beside: BesideTable, Values: map[string]Value{
			"missing": count(missing), "everyone": count(c.Everyone), "percent": of(Percent, 100*float64(missing)/float64(c.Everyone)), "units": words(c.Units)}})
	}
	for i, row := range r.Rows {
		if row.LeftOut {
			out = append(out, Finding{ID: "note.zero_share_left_out", Beside: BesideTable, Values: map[string]Value{"answer": words(c.Labels[i]), "df": count(int64(r.DF))}})
		}
	}
	out = append(out, c.conditionNotes(r)...)
	// The test as a whole and the answers one by one ask different things; where
	// they seem to disagree the page says why.
	switch anyStandsOut := r.Rows[r.FurthestAt].StandsOut; {
	case r.Reject && !anyStandsOut:
		out = append(out, Finding{ID: "note.gof.none_stands", Beside: BesideDecision})
	case !r.Reject && anyStandsOut:
		out = append(out, Finding{ID: "note.gof.one_stands", Beside: BesideDecision, Caution: true})
	}
	size := sizeOf(r.CohensW)
	if r.Reject {
		out = append(out, Finding{ID: "note.gof.size." + size, Beside: BesideDecision, Values: map[string]Value{
			"w": of(Effect, r.CohensW), "largest": of(Effect, r.LargestW), "n": count(r.N)}})
	} else {
		out = append(out, Finding{ID: "note.gof.not_proving." + sizeOf(r.DetectableW), Beside: BesideDecision, Values: map[string]Value{
			"level": of(Level, r.Level), "n": count(r.N), "w": of(Effect, r.DetectableW)}})
	}
	return out
}

// sizeOf names a w by the benchmarks of Cohen (1988): from 0.1 small, from 0.3 medium,
// from 0.5 large; below the first it is tiny. It goes by the digits that are shown, so that
// no word contradicts its number.
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

func (c GoodnessOfFitContext) sharesNote(r *infer.GoodnessOfFit) Finding {
	f := Finding{Beside: BesideShares, Values: map[string]Value{"answers": count(int64(len(c.Labels)))}}
	switch {
	case c.Mode == shares.Equal:
		f.ID = "note.shares.equal"
		f.Values["percent"] = of(Percent, 100*r.Rows[0].Share)
	case c.Aligned.Rescaled:
		f.ID, f.Caution = "note.shares.rescaled", true
		f.Values["sum"], f.Values["target"] = words(shares.Format(c.Aligned.Sum)), words(shares.Format(c.Aligned.Target))
		f.Values["gap"] = words(shares.Format(new(big.Rat).Abs(c.Aligned.Gap)))
	case c.Aligned.Rounded:
		f.ID = "note.shares.rounded"
		f.Values["sum"], f.Values["target"] = words(shares.Format(c.Aligned.Sum)), words(shares.Format(c.Aligned.Target))
	case c.Aligned.Target != nil:
		f.ID = "note.shares.matched"
		f.Values["sum"] = words(shares.Format(c.Aligned.Sum))
	default:
		f.ID = "note.shares.divided"
		f.Values["sum"] = words(shares.Format(c.Aligned.Sum))
	}
	return f
}

func (c GoodnessOfFitContext) referenceNote() Finding {
	kind := string(c.Kind)
	switch {
	case c.Mode == shares.Equal && c.Kind != Target:
		kind = string(Theory) // equal shares come from no publication
	case c.Mode == shares.Counts:
		kind = ownSample
	}
	return Finding{ID: "note.reference." + kind, Beside: BesideShares, Values: map[string]Value{"source": words(c.Source)},
		Caution: kind == ownSample || kind == string(Survey)}
}

func (c GoodnessOfFitContext) furthestNote(r *infer.GoodnessOfFit) Finding {
	row := r.Rows[r.FurthestAt]
	points := 100 * (row.ObservedShare - row.Share)
	id := "note.furthest."
	switch {
	case row.Difference == 0:
		return Finding{ID: id + "none", Beside: BesideTable}
	case points > 0:
		id += "more"
	default:
		id, points = id+"fewer", -points
	}
	if row.StandsOut {
		id += "_stands"
	}
	return Finding{ID: id, Beside: BesideTable, Values: map[string]Value{
		"answer": words(c.Labels[r.FurthestAt]), "points": of(Points, points), "answers": count(int64(r.Answers)), "level": of(Level, r.Level)}}
}

// conditionNotes follow the rule of Cochran (1954): no expected count below 1 and at
// most a fifth of them below 5; and beside it what is known for nearly equal shares.
func (c GoodnessOfFitContext) conditionNotes(r *infer.GoodnessOfFit) []Finding {
	f := Finding{Beside: BesideConditions, Values: map[string]Value{
		"thinnest": of(Amount, r.SmallestExpected), "answer": words(c.Labels[r.SmallestExpectedAt]), "units": words(c.Units), "n": count(r.N),
		"thin": count(int64(r.ThinCells)), "answers": count(int64(r.Answers)), "percent": of(Percent, r.ThinPercent)}}
	switch {
	case r.ThinCells == 0:
		f.ID = "note.conditions.good"
	case r.Advice.Because == infer.BecauseWithinRule:
		f.ID = "note.conditions.fair"
	case r.Advice.Because == infer.BecauseEqualShares:
		f.ID = "note.conditions.equal"
	default:
		f.ID, f.Caution = "note.conditions.poor", true
	}
	out := []Finding{f}
	if e := c.exactNote(r); e != nil {
		out = append(out, *e)
	}
	if c.Weights != "" {
		out = append(out, Finding{ID: "note.conditions.unweighted", Beside: BesideConditions, Caution: true, Values: map[string]Value{"name": words(c.Weights), "units": words(c.Units)}})
	}
	return out
}

func (c GoodnessOfFitContext) exactNote(r *infer.GoodnessOfFit) *Finding {
	switch e := c.Exact; {
	case e == nil:
		return nil
	case e.Exact != nil:
		return &Finding{ID: "note.exact.exact", Beside: BesideConditions, Values: map[string]Value{"p": pvalue(PEqual, e.Exact.P, r.Level)}}
	case e.Simulated != nil:
		s := e.Simulated
		return &Finding{ID: "note.exact.simulated", Beside: BesideConditions, Values: map[string]Value{"p": pvalue(PEqual, s.ByProbability.P, r.Level),
			"lower": of(Exact, s.ByProbability.Lower), "upper": of(Exact, s.ByProbability.Upper), "replicates": count(int64(s.Replicates)), "seed": words(strconv.FormatUint(s.Seed, 10))}}
	}
	return nil
}

// doubt says behind the sentence that the chi-square distribution is not to be relied on,
// and what the exact or simulated test says instead.
func (c GoodnessOfFitContext) doubt(r *infer.GoodnessOfFit) *Finding {
	if r.Advice.Use != infer.UseExact && r.Advice.Use != infer.UseSimulation {
		return nil
	}
	f := &Finding{ID: "finding.gof.doubt.", Beside: BesideReading, Values: map[string]Value{}}
	e := c.Exact
	switch {
	case e == nil || e.Reject == nil:
		f.ID += "alone"
		return f
	case e.Exact != nil:
		f.ID += "exact"
		f.Values["p"] = pvalue(PEqual, e.Exact.P, r.Level)
	default:
		f.ID += "simulated"
		f.Values["p"] = pvalue(PEqual, e.Simulated.ByProbability.P, r.Level)
	}
	switch {
	case !e.Settled:
		f.ID += "_unsettled"
	case *e.Reject == r.Reject:
		f.ID += "_agrees"
	default:
		f.ID += "_differs"
	}
	return f
}
