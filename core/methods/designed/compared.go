package designed

import (
	"context"
	"math"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/prob"
)

// groups are two groups of rows, which may overlap.
type groups struct {
	// A and B hold 1 for the rows of each, otherwise 0.
	A []int `json:"a"`
	B []int `json:"b"`
	Drawn
	// Level is the confidence of intervals.
	Level Number `json:"level,omitempty"`
}

// in reads the groups.
func (g groups) in(rows int) (a, b func(row int) bool, confidence float64, err error) {
	for _, column := range [][]int{g.A, g.B} {
		if err := zeroOrOne(column, rows); err != nil {
			return nil, nil, 0, err
		}
	}
	confidence, err = g.Level.between(0, 1, infer.LevelRange)
	return func(row int) bool { return g.A[row] == 1 }, func(row int) bool { return g.B[row] == 1 }, confidence, err
}

// Difference is the difference of two estimates of one sample.
type Difference struct {
	Difference    float64 `json:"difference"`
	StandardError float64 `json:"standardError"`
	DF            int     `json:"df"`
	infer.TTest
	Interval Ends `json:"interval"`
}

func difference(t *design.Two, confidence float64) Difference {
	d, df := t.Difference, float64(t.DF)
	return Difference{
		d.Value,
		d.SE(),
		t.DF,
		infer.ComputeTTest(d.Value, d.SE(), df),
		confident(d.Value, d.SE(), t.DF, confidence),
	}
}

// Times is a ratio of two estimates, tested by its logarithm; null where it is not defined.
type Times struct {
	Log              *float64 `json:"log"`
	LogStandardError *float64 `json:"logStandardError"`
	infer.TTest
	Ends
}

func times(e *design.Estimate, df int, confidence float64) (ratio *float64, t Times) {
	if e == nil {
		return nil, t
	}
	x, se := math.Exp(e.Value), e.SE()
	t = Times{Log: &e.Value, LogStandardError: &se, TTest: infer.ComputeTTest(e.Value, se, float64(df))}
	if i := infer.TInterval(e.Value, se, float64(df), confidence); i != nil {
		t.Ends = ends(&infer.Interval{Lower: math.Exp(i.Lower), Upper: math.Exp(i.Upper)})
	}
	return &x, t
}

// RelativeRisk is one share by another.
type RelativeRisk struct {
	RelativeRisk *float64 `json:"relativeRisk"`
	Times
}

// OddsRatio is the odds of one share by those of another.
type OddsRatio struct {
	OddsRatio *float64 `json:"oddsRatio"`
	Times
}

// domains are the sizes of two groups.
type domains struct {
	NA          int64   `json:"nA"`
	NB          int64   `json:"nB"`
	PSUs        int     `json:"psus"`
	Strata      int     `json:"strata"`
	SumWeightsA float64 `json:"sumWeightsA"`
	SumWeightsB float64 `json:"sumWeightsB"`
	KishA       float64 `json:"kishEffectiveNA"`
	KishB       float64 `json:"kishEffectiveNB"`
	// StandardErrorA and StandardErrorB are those of the two, with their covariance.
	StandardErrorA float64 `json:"standardErrorA"`
	StandardErrorB float64 `json:"standardErrorB"`
	Covariance     float64 `json:"covariance"`
}

func domainsOf(t *design.Two) domains {
	return domains{
		t.A.N, t.B.N, t.PSUs, t.Strata, t.A.Sum, t.B.Sum, t.A.KishN, t.B.KishN,
		root(t.A.Variance), root(t.B.Variance), t.Covariance,
	}
}

// DifferenceRequest compares the share of an answer in two groups.
type DifferenceRequest struct {
	Categories []*int `json:"categories"`
	Answer     int    `json:"answer"`
	groups
}

// DifferenceResult is A less B, and A by B.
type DifferenceResult struct {
	ShareA float64 `json:"shareA"`
	ShareB float64 `json:"shareB"`
	domains
	Difference
	// RelativeRisk holds nothing where a share is 0, OddsRatio where one is 0 or 1.
	RelativeRisk RelativeRisk `json:"relativeRisk"`
	OddsRatio    OddsRatio    `json:"oddsRatio"`
}

// answerIn is 1 for who gave an answer, within those for which in is true.
func answerIn(categories []*int, answer int, in func(row int) bool) func(row int) (float64, bool) {
	return func(row int) (float64, bool) {
		c := categories[row]
		if c == nil || !in(row) {
			return 0, false
		}
		if *c == answer {
			return 1, true
		}
		return 0, true
	}
}

// TwoShares compares two shares.
var TwoShares = analysis.Figures("design-difference", "The share of an answer in two groups of a designed sample", told,
	DifferenceRequest{groups: groups{Drawn: drawn, Level: "0.95"}},
	func(_ context.Context, in *DifferenceRequest) (*DifferenceResult, error) {
		a, b, confidence, err := in.in(len(in.Categories))
		if err != nil {
			return nil, err
		}
		s, err := in.sample(len(in.Categories))
		if err != nil {
			return nil, err
		}
		t, err := s.Two(s.Of(answerIn(in.Categories, in.Answer, a)), s.Of(answerIn(in.Categories, in.Answer, b)))
		if err != nil {
			return nil, err
		}
		out := &DifferenceResult{
			ShareA:     t.A.Mean,
			ShareB:     t.B.Mean,
			domains:    domainsOf(t),
			Difference: difference(t, confidence),
		}
		out.RelativeRisk.RelativeRisk, out.RelativeRisk.Times = times(t.LogRisk, t.DF, confidence)
		out.OddsRatio.OddsRatio, out.OddsRatio.Times = times(t.LogOdds, t.DF, confidence)
		return out, nil
	})

// MeanDifferenceRequest compares the means of two groups.
type MeanDifferenceRequest struct {
	Values []*Number `json:"values"`
	groups
}

// MeanDifferenceResult is A less B.
type MeanDifferenceResult struct {
	MeanA float64 `json:"meanA"`
	MeanB float64 `json:"meanB"`
	domains
	Difference
}

// TwoMeans compares two means.
var TwoMeans = analysis.Figures("design-mean-difference", "The means of two groups of a designed sample", told,
	MeanDifferenceRequest{groups: groups{Drawn: drawn, Level: "0.95"}},
	func(_ context.Context, in *MeanDifferenceRequest) (*MeanDifferenceResult, error) {
		a, b, confidence, err := in.in(len(in.Values))
		if err != nil {
			return nil, err
		}
		s, err := in.sample(len(in.Values))
		if err != nil {
			return nil, err
		}
		y, err := columnOf(in.Values)
		if err != nil {
			return nil, err
		}
		t, err := s.Two(s.Of(number(y, a)), s.Of(number(y, b)))
		if err != nil {
			return nil, err
		}
		return &MeanDifferenceResult{t.A.Mean, t.B.Mean, domainsOf(t), difference(t, confidence)}, nil
	})

// PairedBase is who two questions are compared among.
type PairedBase string

// Who they are compared among.
const (
	AnsweredBoth PairedBase = "both" // who answered both
	AnsweredEach PairedBase = "each" // each question among who answered it
)

// PairedRequest compares an answer to one question with one to another, of the same respondents.
type PairedRequest struct {
	First        []*int     `json:"first"`
	Second       []*int     `json:"second"`
	AnswerFirst  int        `json:"answerFirst"`
	AnswerSecond int        `json:"answerSecond"`
	Base         PairedBase `json:"base,omitempty"`
	Drawn
	Part
}

// PairedResult is the first less the second.
type PairedResult struct {
	NA             int64   `json:"nA"`
	NB             int64   `json:"nB"`
	PSUs           int     `json:"psus"`
	Strata         int     `json:"strata"`
	ShareA         float64 `json:"shareA"`
	ShareB         float64 `json:"shareB"`
	StandardErrorA float64 `json:"standardErrorA"`
	StandardErrorB float64 `json:"standardErrorB"`
	Covariance     float64 `json:"covariance"`
	Difference
}

// Paired compares two shares of the same respondents.
var Paired = analysis.Figures("design-paired", "Two answers of the same respondents in a designed sample", told,
	PairedRequest{Base: AnsweredBoth, Drawn: drawn, Part: part},
	func(_ context.Context, in *PairedRequest) (*PairedResult, error) {
		confidence, err := in.confidence()
		if err != nil {
			return nil, err
		}
		if len(in.Second) != len(in.First) {
			return nil, refuse(design.ColumnLength, -1)
		}
		if in.Base != AnsweredBoth && in.Base != AnsweredEach {
			return nil, refuse(analysis.UnknownName, -1)
		}
		s, err := in.sample(len(in.First))
		if err != nil {
			return nil, err
		}
		member, err := in.in(len(in.First))
		if err != nil {
			return nil, err
		}
		both := func(row int) bool {
			return member(row) && (in.Base == AnsweredEach || in.First[row] != nil && in.Second[row] != nil)
		}
		t, err := s.Two(
			s.Of(answerIn(in.First, in.AnswerFirst, both)),
			s.Of(answerIn(in.Second, in.AnswerSecond, both)),
		)
		if err != nil {
			return nil, err
		}
		return &PairedResult{
			t.A.N, t.B.N, t.PSUs, t.Strata, t.A.Mean, t.B.Mean, root(t.A.Variance), root(t.B.Variance), t.Covariance,
			difference(t, confidence),
		}, nil
	})

// WavesRequest compares the share of an answer in two waves, one row for each interview.
type WavesRequest struct {
	// Wave is 0 or 1.
	Wave       []int  `json:"wave"`
	Categories []*int `json:"categories"`
	Answer     int    `json:"answer"`
	// Overlap says that the waves share clusters, or respondents, whom IDs name where there are no
	// clusters.
	Overlap bool     `json:"overlap"`
	IDs     []*Label `json:"ids,omitempty"`
	Drawn
	Level Number `json:"level,omitempty"`
}

// WavesResult is wave 1 less wave 0.
type WavesResult struct {
	N1             int64   `json:"n1"`
	N0             int64   `json:"n0"`
	PSUs           int     `json:"psus"`
	Strata         int     `json:"strata"`
	Share1         float64 `json:"share1"`
	Share0         float64 `json:"share0"`
	StandardError1 float64 `json:"standardError1"`
	StandardError0 float64 `json:"standardError0"`
	Covariance     float64 `json:"covariance"`
	Difference
	// WelchDF are the degrees of freedom of Satterthwaite, with their p-value; null for waves that
	// overlap.
	WelchDF *float64   `json:"welchDf"`
	WelchP  *prob.Prob `json:"welchTwoSidedPValue" beside:"log10"`
}

// Waves compares two waves.
var Waves = analysis.Figures("waves", "The share of an answer in two waves of a designed survey", told,
	WavesRequest{Drawn: drawn, Level: "0.95"},
	func(_ context.Context, in *WavesRequest) (*WavesResult, error) {
		rows := len(in.Categories)
		confidence, err := in.Level.between(0, 1, infer.LevelRange)
		if err != nil {
			return nil, err
		}
		if len(in.Wave) != rows {
			return nil, refuse(design.ColumnLength, -1)
		}
		if in.Overlap && in.Clusters == nil {
			in.Clusters = in.IDs
		}
		c, err := in.columns(rows)
		if err != nil {
			return nil, err
		}
		w, err := design.NewWaves(
			c,
			in.Wave,
			in.Overlap,
			answerIn(in.Categories, in.Answer, func(int) bool { return true }),
		)
		if err != nil {
			return nil, err
		}
		out := &WavesResult{
			w.A.N, w.B.N, w.PSUs, w.Strata, w.A.Mean, w.B.Mean, root(w.A.Variance), root(w.B.Variance), w.Covariance,
			difference(&w.Two, confidence), w.WelchDF, nil,
		}
		if w.WelchDF != nil {
			out.WelchP = infer.ComputeTTest(w.Two.Difference.Value, w.Two.Difference.SE(), *w.WelchDF).TwoSided
		}
		return out, nil
	})
