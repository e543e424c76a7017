package claim

import (
	"math"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/say"
	"widetally/core/tally"
)

// MeanDoubt is said behind a finding on means whose conditions do not hold.
func MeanDoubt(r *infer.Means) []document.Message {
	id := ""
	for _, k := range r.Conditions {
		switch {
		case k.Met:
		case k.Name == infer.ManyForSkewness:
			return []document.Message{say.FindingDoubtSkewed()}
		default:
			id = "finding.doubt.few_numbers"
		}
	}
	if id == "" {
		return nil
	}
	return []document.Message{document.Say(id, nil)}
}

// Shapes say what the numbers at hand look like, and whether there are enough of them for a test
// of means; names are those of the groups, known whether the numbers themselves are.
func (n *NotesOf) Shapes(r *infer.Means, names []string, units document.Value, known bool) {
	few := false
	for _, k := range r.Conditions {
		if k.Name != infer.ManyForSkewness {
			if few = !k.Met; few {
				id := "means.few"
				if known {
					id = "means.few_known"
				}
				n.Caution(
					document.Conditions,
					id,
					document.Values{"n": document.N(int64(k.Found)), "needed": document.N(int64(k.Needed)), "units": units},
				)
			}
		}
	}
	if !known {
		if !few {
			n.Add(document.Conditions, "means.unseen", document.Values{"units": units})
		}
		return
	}
	for i, s := range []*infer.Sample{&r.First, r.Second} {
		if s == nil || s.Skewness == nil {
			continue
		}
		needed := infer.NeededForSkewness(*s.Skewness)
		id := "means.shape"
		if float64(s.N) < needed {
			id = "means.skewed"
		}
		if names[min(i, len(names)-1)] != "" {
			id += "_group"
		}
		v := document.Values{
			"skewness": document.Of(document.Effect, *s.Skewness),
			"n":        document.N(s.N),
			"needed":   document.N(int64(math.Ceil(needed))),
			"units":    units,
			"group":    document.Text(names[min(i, len(names)-1)]),
		}
		if float64(s.N) < needed {
			n.Caution(document.Conditions, id, v)
		} else if !few {
			n.Add(document.Conditions, id, v)
		}
	}
}

// MedianFact is the median with an interval that rests on no shape.
func MedianFact(key string, group document.Values, s *tally.Summary) document.Fact {
	id := "median_interval"
	v := document.Values{"confidence": document.Of(document.Level, s.Confidence)}
	if group != nil {
		id, v["group"] = "median_interval_group", group["group"]
	}
	return Fact(
		key,
		id,
		v,
		say.FactWithIntervalOf(Measure(s.Median), Measure(s.MedianInterval.Lower), Measure(s.MedianInterval.Upper)),
	)
}

// MeanNotes say how large a difference of means is, or which would have been found; test is the
// one that decides.
func (s Stated) MeanNotes(n *NotesOf, rejected bool, test *infer.MeanTest, d *infer.Effect, v document.Values) {
	if rejected {
		if d != nil && d.Value != nil {
			n.Add(document.Decision, "means.size", document.Values{"d": document.Of(document.Effect, *d.Value)})
		}
		return
	}
	if s.Level >= UsualPower/2 {
		return
	}
	df := math.Inf(1)
	if test.DF != nil {
		df = *test.DF
	}
	away := plan.DetectableMean(df, s.Level, UsualPower, planned(s.Direction)) * test.StandardError
	n.Add(
		document.Decision,
		"means.detectable",
		document.Values{"away": Rounded(away), "question": v["question"], "level": v["level"]},
	)
}

// planned is a direction as plans name it.
func planned(d Direction) plan.Direction {
	return map[Direction]plan.Direction{Less: plan.Less, Greater: plan.Greater}[d]
}
