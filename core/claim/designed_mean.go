package claim

import (
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// MeanByDesign is a mean, or a difference of two, with its t test by the design.
type MeanByDesign struct {
	Stated
	Estimate, SE, Claimed float64
	DF                    int
	Test                  infer.TTest
	Interval              infer.Interval
}

// P is that of the direction.
func (m MeanByDesign) P() prob.Prob {
	return TailOf(infer.Tails{Less: *m.Test.Less, Greater: *m.Test.Greater, TwoSided: *m.Test.TwoSided}, m.Direction)
}

// Verdict decides by the t test.
func (m MeanByDesign) Verdict() Verdict {
	critical := m.Critical(func(a float64) float64 { return prob.StudentUpperQuantile(a, float64(m.DF)) })
	return Verdict{Level: m.Level, Ways: []Way{
		ByP("designed_t_p", m.P(), m.Level),
		By(
			"designed_t",
			document.Of(document.Statistic, *m.Test.T),
			m.AgainstCritical(critical),
			m.Beyond(*m.Test.T, critical),
		),
	}}
}

// Values puts the figures among those of a claim.
func (m MeanByDesign) Values(v document.Values) document.Values {
	v["se"], v["t"], v["statistic"] = document.Of(
		document.Exact,
		m.SE,
	), document.Of(
		document.Statistic,
		*m.Test.T,
	), document.Of(
		document.Statistic,
		*m.Test.T,
	)
	v["df"], v["p"] = document.N(int64(m.DF)), document.P(document.PEqual, m.P(), m.Level)
	v["lower"], v["upper"], v["confidence"] = Rounded(
		m.Interval.Lower,
	), Rounded(
		m.Interval.Upper,
	), document.Of(
		document.Level,
		1-m.Level,
	)
	return v
}

// Facts are the figures, the estimate called by a name.
func (m MeanByDesign) Facts(name string, v document.Values) []document.Fact {
	direction := document.Values{
		"direction": document.Term("direction." + string(m.Direction)),
		"level":     document.Of(document.Level, m.Level),
	}
	return []document.Fact{
		Fact(
			"mean",
			name,
			document.Values{"confidence": v["confidence"]},
			say.FactWithIntervalOf(Rounded(m.Estimate), v["lower"], v["upper"]),
		),
		Fact("se", "standard_error_plain", nil, Plain(Rounded(m.SE))),
		Fact("statistic", "t", nil, Plain(v["t"])),
		Fact("df", "df", nil, Plain(v["df"])),
		Fact("p", "p_direction", direction, Plain(document.P(document.PExact, m.P(), m.Level))),
	}
}
