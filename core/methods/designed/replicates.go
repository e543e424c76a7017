package designed

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
)

// Centre is what the departures of replicates are taken from.
type Centre string

// What they are taken from.
const (
	CentreEstimate Centre = "estimate"
	CentreMean     Centre = "mean" // that of the replicates
)

// replicated is the weights of a file with those of its replicates.
type replicated struct {
	// Weights are the full ones, ReplicateWeights a column for each replicate.
	Weights          []*Number              `json:"weights,omitempty"`
	ReplicateWeights [][]*Number            `json:"replicateWeights"`
	Method           design.ReplicateMethod `json:"method"`
	// Fraction is f of jk1; ReplicateStrata names the stratum of each replicate of jkn, Fractions are
	// theirs.
	Fraction        Number     `json:"fraction,omitempty"`
	ReplicateStrata []*Label   `json:"replicateStrata,omitempty"`
	Fractions       *Fractions `json:"fractions,omitempty"`
	// Fay is ρ of fay, Factors are those of factors.
	Fay     Number   `json:"fay,omitempty"`
	Factors []Number `json:"factors,omitempty"`
	// DF are the degrees of freedom where they are known; 0: replicates less 1, or less their strata.
	DF     int    `json:"df,omitempty"`
	Centre Centre `json:"centre,omitempty"`
	Part
}

var replicates = replicated{Fraction: "0", Fay: "0", Centre: CentreEstimate, Part: part}

func (in *replicated) read(rows int) (*design.Sample, error) {
	r := design.Replicates{Rows: rows, Method: in.Method, DF: in.DF, AroundMean: in.Centre == CentreMean}
	if in.Centre != CentreEstimate && in.Centre != CentreMean || in.DF < 0 {
		return nil, refuse(analysis.UnknownName, -1)
	}
	var err error
	if r.Weights, err = columnOf(in.Weights); err != nil {
		return nil, err
	}
	for _, column := range in.ReplicateWeights {
		weights, err := columnOf(column)
		if err != nil {
			return nil, err
		}
		r.Replicate = append(r.Replicate, weights)
	}
	for _, n := range []struct {
		text Number
		into *float64
		why  infer.Reason
	}{{in.Fraction, &r.Fraction, design.FractionOutOfRange}, {in.Fay, &r.Fay, design.FayOutOfRange}} {
		x, ok := n.text.float()
		if !ok {
			return nil, refuse(n.why, -1)
		}
		*n.into = x
	}
	for i, f := range in.Factors {
		x, ok := f.float()
		if !ok || x < 0 {
			return nil, refuse(analysis.OutOfDomain, i)
		}
		r.Factors = append(r.Factors, x)
	}
	strata := map[Label]int{}
	r.Strata = codes(in.ReplicateStrata, strata)
	for i, h := range r.Strata {
		if h < 0 {
			return nil, refuse(design.MissingStratum, i)
		}
	}
	if in.Fractions != nil {
		if r.Fractions, err = in.Fractions.read(strata); err != nil {
			return nil, err
		}
	}
	return design.NewReplicated(r)
}

// ReplicatedBase is the respondents an estimate is about, by replicates.
type ReplicatedBase struct {
	N          int64 `json:"n"`
	Design     int64 `json:"nDesign"`
	Replicates int   `json:"replicates"`
	DF         int   `json:"df"`
	design.Weight
}

func replicatedBase(b design.Base) ReplicatedBase {
	return ReplicatedBase{b.N, b.Design, b.Replicates, b.DF, b.Weight}
}

// ReplicateSharesRequest asks for the shares of the answers to a question.
type ReplicateSharesRequest struct {
	Categories []*int `json:"categories"`
	// K is how many answers there are.
	K int `json:"k"`
	replicated
}

// ReplicateSharesResult is the shares.
type ReplicateSharesResult struct {
	ReplicatedBase
	ShareFigures
}

// ReplicateShares estimates shares by replicate weights.
var ReplicateShares = analysis.Figures(
	"replicate-shares",
	"Shares of a question, with the variance of replicate weights",
	told,
	ReplicateSharesRequest{replicated: replicates},
	func(_ context.Context, in *ReplicateSharesRequest) (*ReplicateSharesResult, error) {
		if err := bounded(len(in.Categories), in.K); err != nil {
			return nil, err
		}
		confidence, err := in.confidence()
		if err != nil {
			return nil, err
		}
		r, err := in.read(len(in.Categories))
		if err != nil {
			return nil, err
		}
		given, err := answers(in.Categories, in.K)
		if err != nil {
			return nil, err
		}
		member, err := in.in(len(given))
		if err != nil {
			return nil, err
		}
		c, err := r.Cells(in.K, func(row int) int {
			if !member(row) {
				return design.None
			}
			return given[row]
		})
		if err != nil {
			return nil, err
		}
		return &ReplicateSharesResult{replicatedBase(c.Base), shareFigures(c.Shares(), confidence)}, nil
	},
)

// ReplicateMeanRequest asks for the mean of numbers.
type ReplicateMeanRequest struct {
	Values []*Number `json:"values"`
	replicated
}

// ReplicateMeanResult is the mean.
type ReplicateMeanResult struct {
	ReplicatedBase
	MeanFigures
}

// ReplicateMean estimates a mean by replicate weights.
var ReplicateMean = analysis.Figures(
	"replicate-mean",
	"The mean of numbers, with the variance of replicate weights",
	told,
	ReplicateMeanRequest{replicated: replicates},
	func(_ context.Context, in *ReplicateMeanRequest) (*ReplicateMeanResult, error) {
		confidence, err := in.confidence()
		if err != nil {
			return nil, err
		}
		r, err := in.read(len(in.Values))
		if err != nil {
			return nil, err
		}
		y, err := columnOf(in.Values)
		if err != nil {
			return nil, err
		}
		member, err := in.in(len(y))
		if err != nil {
			return nil, err
		}
		m, err := r.Mean(r.Of(number(y, member)))
		if err != nil {
			return nil, err
		}
		return &ReplicateMeanResult{replicatedBase(m.Base), meanFigures(m, confidence)}, nil
	},
)
