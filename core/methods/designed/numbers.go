package designed

import (
	"context"
	"math"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
)

func root(v float64) float64 { return math.Sqrt(v) }

// MeanRequest asks for the mean of numbers.
type MeanRequest struct {
	// Values is the number of each row; null: none.
	Values []*Number `json:"values"`
	// Mu0 is the claimed mean; absent: no test.
	Mu0 *Number `json:"mu0,omitempty"`
	Drawn
	Part
}

// MeanFigures are those of a mean.
type MeanFigures struct {
	Mean          float64 `json:"mean"`
	StandardError float64 `json:"standardError"`
	// DesignEffect is null without spread.
	DesignEffect *float64 `json:"designEffect"`
	Interval     Ends     `json:"interval"`
}

func meanFigures(m *design.Mean, confidence float64) MeanFigures {
	return MeanFigures{m.Mean, m.SE(), m.DesignEffect, confident(m.Mean, m.SE(), m.DF, confidence)}
}

// MeanResult is the mean with its test.
type MeanResult struct {
	design.Base
	MeanFigures
	SD *float64 `json:"sd"`
	// Difference and the test are null without a claimed mean.
	Difference *float64 `json:"difference"`
	infer.TTest
}

// number gives the part of numbers within a subgroup.
func number(values []float64, member func(row int) bool) func(row int) (float64, bool) {
	return func(row int) (float64, bool) { return values[row], !math.IsNaN(values[row]) && member(row) }
}

// numbers reads a design, numbers and the subgroup.
func numbers(
	values []*Number,
	d Drawn,
	p Part,
) (s *design.Sample, y []float64, member func(row int) bool, confidence float64, err error) {
	if confidence, err = p.confidence(); err != nil {
		return
	}
	if s, err = d.sample(len(values)); err != nil {
		return
	}
	if y, err = columnOf(values); err != nil {
		return
	}
	member, err = p.in(len(values))
	return
}

// Mean estimates a mean and tests it.
var Mean = analysis.Figures("design-mean", "The mean of numbers in a designed sample", told,
	MeanRequest{Drawn: drawn, Part: part},
	func(_ context.Context, in *MeanRequest) (*MeanResult, error) {
		s, y, member, confidence, err := numbers(in.Values, in.Drawn, in.Part)
		if err != nil {
			return nil, err
		}
		m, err := s.Mean(s.Of(number(y, member)))
		if err != nil {
			return nil, err
		}
		out := &MeanResult{Base: m.Base, MeanFigures: meanFigures(m, confidence), SD: m.SD}
		if in.Mu0 != nil {
			claimed, ok := in.Mu0.float()
			if !ok {
				return nil, refuse(infer.NotFinite, -1)
			}
			away := m.Mean - claimed
			out.Difference, out.TTest = &away, infer.ComputeTTest(away, m.SE(), float64(m.DF))
		}
		return out, nil
	})

// RatioRequest asks for a ratio of two sums.
type RatioRequest struct {
	Numerator   []*Number `json:"numerator"`
	Denominator []*Number `json:"denominator"`
	Drawn
	Part
}

// RatioResult is the combined ratio.
type RatioResult struct {
	design.Base
	Numerator     float64 `json:"weightedNumerator"`
	Denominator   float64 `json:"weightedDenominator"`
	Ratio         float64 `json:"ratio"`
	StandardError float64 `json:"standardError"`
	Interval      Ends    `json:"interval"`
}

// Ratio estimates a ratio.
var Ratio = analysis.Figures("design-ratio", "The ratio of two sums in a designed sample", told,
	RatioRequest{Drawn: drawn, Part: part},
	func(_ context.Context, in *RatioRequest) (*RatioResult, error) {
		s, y, member, confidence, err := numbers(in.Numerator, in.Drawn, in.Part)
		if err != nil {
			return nil, err
		}
		x, err := columnOf(in.Denominator)
		if err != nil {
			return nil, err
		}
		if len(x) != len(y) {
			return nil, refuse(design.ColumnLength, -1)
		}
		r, err := s.Ratio(func(row int) (float64, float64, bool) {
			return y[row], x[row], !math.IsNaN(y[row]) && !math.IsNaN(x[row]) && member(row)
		})
		if err != nil {
			return nil, err
		}
		se := root(r.Variance)
		return &RatioResult{
			r.Base,
			r.Numerator,
			r.Denominator,
			r.Ratio,
			se,
			confident(r.Ratio, se, r.DF, confidence),
		}, nil
	})

// QuantileRequest asks for quantiles.
type QuantileRequest struct {
	Values []*Number `json:"values"`
	// Probabilities are those of the quantiles; absent: the quartiles.
	Probabilities []Number `json:"probabilities,omitempty"`
	Drawn
	Part
}

// QuantileResult is the quantiles in the order in which they were asked for.
type QuantileResult struct {
	design.Base
	Quantiles []design.Quantile `json:"quantiles"`
}

// maxProbabilities bounds a request.
const maxProbabilities = 100

// Quantile estimates quantiles.
var Quantile = analysis.Figures("design-quantile", "Quantiles of numbers in a designed sample, by Woodruff", told,
	QuantileRequest{Drawn: drawn, Part: part},
	func(_ context.Context, in *QuantileRequest) (*QuantileResult, error) {
		s, y, member, confidence, err := numbers(in.Values, in.Drawn, in.Part)
		if err != nil {
			return nil, err
		}
		if in.Probabilities == nil { // a default list would be decoded into, and be another’s the next time
			in.Probabilities = []Number{"0.25", "0.5", "0.75"}
		}
		if len(in.Probabilities) > maxProbabilities {
			return nil, refuse(infer.TooMany, -1)
		}
		var at []float64
		for i, p := range in.Probabilities {
			q, err := p.between(0, 1, infer.ProbabilityRange)
			if err != nil {
				return nil, refuse(infer.ProbabilityRange, i)
			}
			at = append(at, q)
		}
		b, quantiles, err := s.Quantiles(s.Of(number(y, member)), at, confidence)
		if err != nil {
			return nil, err
		}
		return &QuantileResult{b, quantiles}, nil
	})

// TrendRequest asks for the trend of numbers, or of an answer as 0 and 1, over ordered groups.
type TrendRequest struct {
	Values []*Number `json:"values"`
	// Groups is that of each row, from 0 on; Scores are those of the groups.
	Groups []*int   `json:"groups"`
	Scores []Number `json:"scores"`
	Drawn
	Part
}

// TrendFigures are those of one slope.
type TrendFigures struct {
	Slope         float64 `json:"slope"`
	StandardError float64 `json:"standardError"`
	infer.TTest
	Interval Ends `json:"interval"`
}

// TrendResult is the slope of the regression, and that through the means of the groups.
type TrendResult struct {
	design.Base
	GroupN    []int64    `json:"groupN"`
	GroupMean []*float64 `json:"groupMean"`
	Intercept float64    `json:"intercept"`
	TrendFigures
	Contrast TrendFigures `json:"contrast"`
}

// Trend estimates a trend.
var Trend = analysis.Figures("design-trend", "A trend over ordered groups in a designed sample", told,
	TrendRequest{Drawn: drawn, Part: part},
	func(_ context.Context, in *TrendRequest) (*TrendResult, error) {
		s, y, member, confidence, err := numbers(in.Values, in.Drawn, in.Part)
		if err != nil {
			return nil, err
		}
		if len(in.Groups) != len(y) {
			return nil, refuse(design.ColumnLength, -1)
		}
		if len(in.Scores) > analysis.MaxAnswers {
			return nil, refuse(analysis.TooManyAnswers, -1)
		}
		group, err := answers(in.Groups, len(in.Scores))
		if err != nil {
			return nil, err
		}
		var scores []float64
		for i, text := range in.Scores {
			x, ok := text.float()
			if !ok {
				return nil, refuse(infer.ScoresNotFinite, i)
			}
			scores = append(scores, x)
		}
		t, err := s.Trend(func(row int) (float64, int, bool) {
			return y[row], group[row], !math.IsNaN(y[row]) && group[row] >= 0 && member(row)
		}, scores)
		if err != nil {
			return nil, err
		}
		figures := func(e design.Estimate) TrendFigures {
			df := float64(t.DF)
			return TrendFigures{
				e.Value,
				e.SE(),
				infer.ComputeTTest(e.Value, e.SE(), df),
				confident(e.Value, e.SE(), t.DF, confidence),
			}
		}
		return &TrendResult{t.Base, t.GroupN, t.GroupMean, t.Intercept, figures(t.Slope), figures(t.Contrast)}, nil
	})
