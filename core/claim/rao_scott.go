package claim

import (
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// RaoScottVerdict decides by the second-order F, whose level holds where the design has few degrees of
// freedom too; r must have it.
func RaoScottVerdict(r *infer.RaoScott, level float64) Verdict {
	critical := prob.FUpperQuantile(level, r.SecondFDF[0], r.SecondFDF[1])
	return Verdict{Level: level, Ways: []Way{
		ByP("rao_scott_p", *r.SecondFP, level),
		By(
			"rao_scott_f",
			document.Of(document.Statistic, *r.SecondF),
			document.Of(document.Statistic, critical),
			r.SecondFP.AtMost(level),
		),
	}}
}

// RaoScottJournal is the line in the style of a journal; effect is said behind it.
func RaoScottJournal(r *infer.RaoScott, n int64, level float64, effect document.Message) document.Message {
	return document.Say("finding.designed.journal", document.Values{
		"df1": document.Of(
			document.Effect,
			r.SecondFDF[0],
		), "df2": document.Of(document.Effect, r.SecondFDF[1]), "n": document.N(n),
		"f": document.Of(document.Statistic, *r.SecondF), "p": document.P(document.PEqual, *r.SecondFP, level),
		"effect": {Kind: document.Said, Message: &effect},
	})
}

// RaoScottFacts are the figures of the test: what decides, its degrees of freedom, and what the design
// did.
func RaoScottFacts(r *infer.RaoScott, level float64) []document.Fact {
	return []document.Fact{
		Fact("statistic", "rao_scott", nil, Plain(document.Of(document.Statistic, *r.SecondF))),
		Fact("df", "df", nil, say.FactDfTwo(r.SecondFDF[0], r.SecondFDF[1])),
		PFact(*r.SecondFP, level),
		Fact("design_effect", "mean_design_effect", nil, Plain(document.Of(document.Effect, r.MeanDesignEffect))),
		Fact("cv", "cv_design_effect", nil, Plain(document.Of(document.Effect, *r.CVDesignEffect))),
		Fact(
			"unadjusted",
			"unadjusted_name",
			nil,
			say.FactUnadjusted(int64(r.DF), r.Statistic, document.P(document.PExact, r.P, level)),
		),
	}
}

// RaoScottWorking shows where the F comes from, and what Wald's test says beside it.
func RaoScottWorking(r *infer.RaoScott, by Sampled, level float64) []document.Message {
	out := []document.Message{
		by.Variance(),
		say.WorkingDesignedStatistic(r.Statistic, int64(r.DF)),
		say.WorkingDesignedDelta(r.MeanDesignEffect, *r.ASquared),
		say.WorkingDesignedF(r.Statistic, r.MeanDesignEffect, int64(r.DF), *r.SecondF),
		say.WorkingDesignedDf(int64(r.DF), r.SecondFDF[0], int64(by.Base.DF), r.SecondFDF[1]),
		say.WorkingDesignedP(*r.SecondF, document.P(document.PEqual, *r.SecondFP, level)),
		say.WorkingDesignedFirst(int64(r.DF), r.FirstFDF[1], document.P(document.PEqual, *r.FirstFP, level)),
	}
	if r.FP != nil {
		return append(
			out,
			say.WorkingDesignedWald(int64(r.WaldDF), int64(*r.FDF), *r.F, document.P(document.PEqual, *r.FP, level)),
		)
	}
	return append(out, say.WorkingDesignedNoWald())
}

// MarkOfEstimate marks what stands out among all, over or below what was expected.
func MarkOfEstimate(stands bool, away float64) document.Mark {
	switch {
	case !stands:
		return ""
	case away > 0:
		return document.More
	}
	return document.Fewer
}
