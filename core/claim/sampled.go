package claim

import (
	"cmp"
	"math"
	"slices"
	"strconv"

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
	// Population names the question of the populations of the strata; "" for none.
	Population string
	// Replicates is how many replicate weights tell the variance, made by Method; 0 for none.
	Replicates int
	Method     string
	// Names are those of the strata; nil where they are not told.
	Names []string
	// Several says that the rows of a table have bases of their own.
	Several bool
	// Effect is a design effect that was told instead of a design; 0 for none.
	Effect float64
	// Largest is the largest weight as a part of those of the base.
	Largest float64
}

// Basis says of whom an estimate speaks, and by which design.
func (s Sampled) Basis(a About) document.Block {
	id := "basis.designed.some"
	switch {
	case s.Effect > 0:
		return document.Block{Kind: document.Basis, Said: []document.Message{
			say.BasisDesignedEffect(s.Effect, s.Base.N),
		}}
	case s.Several:
		id = "basis.designed.several"
	case a.Everyone == s.Base.N:
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
	if s.Replicates > 0 {
		said = append(said, document.Say("basis.designed.replicates", document.Values{
			"n": document.N(int64(s.Replicates)), "method": document.Term("replicates." + s.Method),
		}))
	}
	if s.Population != "" {
		said = append(said, say.BasisDesignedPopulation(s.Population))
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
	if s.Replicates > 0 {
		return say.BasisDesignedDfReplicates(int64(s.Base.DF))
	}
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

// Variance says where the variance comes from.
func (s Sampled) Variance() document.Message {
	switch {
	case s.Effect > 0:
		return say.WorkingDesignedEffect(s.Effect, int64(s.Base.DF))
	case s.Base.Replicates > 0:
		return say.WorkingDesignedReplicates(int64(s.Base.Replicates), int64(s.Base.DF))
	}
	return say.WorkingDesignedVariance(int64(s.Base.PSUs), int64(s.Base.Strata), int64(s.Base.DF))
}

// mostStrata is how many strata are told by themselves, those that add most.
const mostStrata = 20

// ByStratum parts the variance of an estimate by strata, called by what, its slopes at the totals of the
// cells; nothing for one stratum, and for replicates.
func (s Sampled) ByStratum(cells *design.Cells, what document.Message, slope []float64) (out []document.Message) {
	parts := cells.ByStratum(slope)
	if len(parts) < 2 {
		return nil
	}
	at, all := make([]int, len(parts)), 0.0
	for i, p := range parts {
		at[i] = i
		all += p.Variance
	}
	slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(parts[b].Variance, parts[a].Variance) })
	out = append(out, say.WorkingDesignedByStratum(int64(len(parts)), document.Value{Kind: document.Said, Message: &what}, all))
	rest := 0.0
	for n, i := range at {
		p := parts[i]
		if n >= mostStrata {
			rest += p.Variance
			continue
		}
		name := strconv.Itoa(i + 1)
		if s.Names != nil {
			name = s.Names[i]
		}
		out = append(out, say.WorkingDesignedStratum(name, int64(p.Units), p.Unsampled, p.Variance))
	}
	if len(at) > mostStrata {
		out = append(out, say.WorkingDesignedStrataRest(int64(len(at)-mostStrata), rest))
	}
	return out
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
	if s.Base.WholeWeights && s.Weight != "" {
		out.Caution(document.Conditions, "designed.frequencies", document.Values{
			"name": document.Text(s.Weight), "mean": document.Of(document.Effect, s.Base.Sum/float64(s.Base.N)),
		})
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

// Fitted sets the axis of whiskers in percent by what they hold, with some room, within 0 and 100.
func Fitted(w *document.Whiskers) *document.Whiskers {
	w.From, w.To = 100, 0
	if w.Reference != nil {
		w.From, w.To = w.Reference.At, w.Reference.At
	}
	for _, r := range w.Rows {
		w.From, w.To = math.Min(w.From, r.Lower), math.Max(w.To, r.Upper)
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	return w
}

// WhiskerOf is the interval of an estimated share, called by a name.
func WhiskerOf(name document.Message, share float64, i *infer.Interval) document.Whisker {
	return document.Whisker{
		Name: name, Lower: 100 * i.Lower, Estimate: 100 * share, Upper: 100 * i.Upper, Text: Plain(RangeOf(i)),
	}
}
