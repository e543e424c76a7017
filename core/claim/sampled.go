package claim

import (
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Sampled says how a sample was drawn by which a population is estimated.
type Sampled struct {
	// Weight, Strata and Cluster name the questions of the design; "" and nil for none.
	Weight, Cluster string
	Strata          []string
	// Fraction is the share of the clusters of each stratum that were drawn, as text; "" for none known.
	Fraction string
	// Single says what becomes of a stratum with one cluster; "" refuses it.
	Single design.SinglePSU
	Base   design.Base
	// Largest is the largest weight as a part of those of the base.
	Largest float64
}

// Basis says of whom an estimate speaks, and by which design.
func (s Sampled) Basis(a About) document.Block {
	id := "basis.designed.some"
	if a.Everyone == s.Base.N {
		id = "basis.designed.all"
	}
	said := []document.Message{document.Say(id, document.Values{
		"units": a.Units, "n": document.N(s.Base.N), "everyone": document.N(a.Everyone),
	})}
	return document.Block{Kind: document.Basis, Said: append(append(said, s.Drawn()...), s.Freedom())}
}

// Drawn says how the sample was drawn.
func (s Sampled) Drawn() (said []document.Message) {
	if s.Weight != "" {
		said = append(said, say.BasisDesignedWeight(s.Weight))
	}
	strata := document.Quotes(document.Listed, s.Strata)
	switch {
	case s.Cluster != "" && s.Strata != nil:
		said = append(said, say.BasisDesignedStrataClusters(strata, s.Cluster))
	case s.Cluster != "":
		said = append(said, say.BasisDesignedClusters(s.Cluster))
	case s.Strata != nil:
		said = append(said, say.BasisDesignedStrata(strata))
	}
	if s.Fraction != "" {
		said = append(said, say.BasisDesignedFraction(s.Fraction))
	}
	if s.Single == design.CentreSingle || s.Single == design.ZeroSingle {
		said = append(said, document.Say("basis.designed.single_"+string(s.Single), nil))
	}
	return said
}

// Freedom says how many were drawn, and the degrees of freedom that this leaves.
func (s Sampled) Freedom() document.Message {
	df := "basis.designed.df_each"
	if s.Cluster != "" {
		df = "basis.designed.df_clusters"
	}
	return document.Say(df, document.Values{
		"psus": document.N(
			int64(s.Base.PSUs),
		), "strata": document.N(int64(s.Base.Strata)), "df": document.N(int64(s.Base.DF)),
	})
}

// What is said in the margin of estimates.
const (
	fewDF       = 12
	heavyWeight = 0.05
	largeEffect = 3
)

// Notes tells what of the design weakens an estimate; effect is its design effect, nil where there is
// none.
func (s Sampled) Notes(out *NotesOf, a About, effect *float64) {
	out.LeftOut(a, s.Base.N)
	if s.Base.DF < fewDF {
		out.Caution(document.Conditions, "designed.few_df", document.Values{"df": document.N(int64(s.Base.DF))})
	}
	if held := s.Base.BasePSUs - s.Base.BaseStrata; s.Base.BasePSUs < s.Base.PSUs && held < fewDF && s.Cluster != "" {
		out.Caution(document.Conditions, "designed.few_clusters", document.Values{
			"held": document.N(
				int64(s.Base.BasePSUs),
			), "psus": document.N(int64(s.Base.PSUs)), "df": document.N(int64(s.Base.DF)),
		})
	}
	if s.Largest >= heavyWeight && s.Weight != "" {
		out.Caution(
			document.Conditions,
			"designed.heavy",
			document.Values{"percent": document.Of(document.Percent, 100*s.Largest)},
		)
	}
	if effect != nil && *effect > largeEffect {
		out.Add(document.Conditions, "designed.effect", document.Values{
			"effect": document.Of(document.Effect, *effect), "n": document.N(s.Base.N),
			"effective": document.Of(document.Amount, float64(s.Base.N)/(*effect)),
		})
	}
}

// RangeOf is an interval of a share in percent; an empty text where there is none.
func RangeOf(i *infer.Interval) document.Value {
	if i == nil {
		return document.Text("")
	}
	return document.Value{Kind: document.Range, Number: 100 * i.Lower, Upper: 100 * i.Upper}
}

// OrNothing is a number by its kind; an empty text where there is none.
func OrNothing(kind document.ValueKind, x *float64) document.Value {
	if x == nil {
		return document.Text("")
	}
	return document.Of(kind, *x)
}
