package claim

import (
	"math/big"

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
	Labels   []string // the answers, in the order of the result's rows
	Source   string   // the name of the reference
	Kind     ReferenceKind
	Mode     shares.Mode
	Role     Role
	Aligned  *shares.Aligned
	Everyone int64 // respondents, answered or not
}

// ReadGoodnessOfFit says what a result means: the finding, the journal line, the
// shown working, and the margin notes. The finding speaks of the population that
// the respondents stand for; it never says that a hypothesis is accepted or
// proved.
func ReadGoodnessOfFit(r *infer.GoodnessOfFit, c GoodnessOfFitContext) Reading {
	return Reading{
		Sentence: c.sentence(r),
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
	Journal  Finding
	Working  []Finding
	Notes    []Finding
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
	return Finding{ID: id, Beside: BesideReading, Values: map[string]Value{
		"level": of(Level, r.Level), "units": words(c.Units), "question": words(c.Question), "source": source}}
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
	say("p", map[string]Value{"df": df, "statistic": statistic, "p": pvalue(PValue, r.P, r.Level)})
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
	out = append(out, c.conditionsNote(r))
	// The test as a whole and the answers one by one ask different things; where
	// they seem to disagree the page says why.
	switch anyStandsOut := r.Rows[r.FurthestAt].StandsOut; {
	case r.Reject && !anyStandsOut:
		out = append(out, Finding{ID: "note.gof.none_stands", Beside: BesideDecision})
	case !r.Reject && anyStandsOut:
		out = append(out, Finding{ID: "note.gof.one_stands", Beside: BesideDecision, Caution: true})
	}
	if r.Reject {
		out = append(out, Finding{ID: "note.gof.size", Beside: BesideDecision, Values: map[string]Value{
			"w": of(Effect, r.CohensW), "largest": of(Effect, r.LargestW)}})
	} else {
		out = append(out, Finding{ID: "note.gof.not_proving", Beside: BesideDecision, Values: map[string]Value{
			"level": of(Level, r.Level), "n": count(r.N), "w": of(Effect, r.DetectableW)}})
	}
	return out
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
	case c.Mode == shares.Counts && c.Kind != Register:
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

// conditionsNote follows the rule of Cochran (1954): no expected count below 1
// and at most a fifth of them below 5.
func (c GoodnessOfFitContext) conditionsNote(r *infer.GoodnessOfFit) Finding {
	f := Finding{Beside: BesideConditions, Values: map[string]Value{
		"thinnest": of(Amount, r.SmallestExpected), "answer": words(c.Labels[r.SmallestExpectedAt]), "units": words(c.Units),
		"thin": count(int64(r.ThinCells)), "answers": count(int64(r.Answers)), "percent": of(Percent, r.ThinPercent)}}
	switch {
	case r.ThinCells == 0:
		f.ID = "note.conditions.good"
	case r.SmallestExpected >= 1 && r.ThinPercent <= 20:
		f.ID = "note.conditions.fair"
	default:
		f.ID, f.Caution = "note.conditions.poor", true
	}
	return f
}
