package designed

import (
	"bytes"
	"context"
	"encoding/json"
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/weighting"
)

// KishRequest asks what weights cost.
type KishRequest struct {
	Weights []*Number `json:"weights"`
}

// Kish tells what weights cost.
var Kish = analysis.Figures("kish", "What weights cost: effective number and design effect by Kish", nil,
	KishRequest{},
	func(_ context.Context, in *KishRequest) (*weighting.Kish, error) {
		weights, err := columnOf(in.Weights)
		if err != nil {
			return nil, err
		}
		return weighting.ComputeKish(weights)
	})

// Total is what weights shall add to: "sum", the base weights of the rows kept; "n", their number; or a
// number.
type Total string

// UnmarshalJSON reads a text or a number.
func (t *Total) UnmarshalJSON(raw []byte) error {
	var n Number
	err := n.UnmarshalJSON(raw)
	*t = Total(n)
	return err
}

// Schema describes what is taken.
func (Total) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"string", "number"},
		"description": "\"sum\" of the base weights, \"n\" rows, or a number",
	}
}

// base is the rows that weights are made of.
type base struct {
	Weights []*Number         `json:"weights,omitempty"`
	Missing weighting.Missing `json:"missing,omitempty"`
	Total   Total             `json:"total,omitempty"`
}

var anyBase = base{Missing: weighting.MissingCategory, Total: Total(weighting.TotalSum)}

func (b base) read(rows int) (out weighting.Base, err error) {
	out = weighting.Base{Rows: rows, Missing: b.Missing, Total: weighting.TotalOf(b.Total)}
	if !slices.Contains(weighting.Missings, b.Missing) {
		return out, refuse(analysis.UnknownName, -1)
	}
	if out.Total != weighting.TotalSum && out.Total != weighting.TotalN {
		number, ok := Number(b.Total).float()
		if !ok || !(number > 0) {
			return out, refuse(weighting.TotalOutOfRange, -1)
		}
		out.Number = number
	}
	out.Weights, err = columnOf(b.Weights)
	return out, err
}

// Margin is a question whose categories have known shares of the population.
type Margin struct {
	// Categories is that of each row, from 0 on; null: not known.
	Categories []*int `json:"categories"`
	// Targets are the shares on any scale.
	Targets []Number `json:"targets"`
}

func (m Margin) read(at int) (out weighting.Margin, err error) {
	for _, t := range m.Targets {
		x, ok := t.float()
		if !ok {
			return out, refuse(weighting.TargetNotPositive, at)
		}
		out.Targets = append(out.Targets, x)
	}
	out.Categories, err = answers(m.Categories, len(m.Targets))
	return out, err
}

// Bounds are multiples of the mean weight.
type Bounds struct {
	Lower Number `json:"lower"`
	Upper Number `json:"upper"`
}

// RakeRequest asks for weights that hold margins.
type RakeRequest struct {
	Margins []Margin `json:"margins"`
	Bounds  *Bounds  `json:"bounds,omitempty"`
	base
}

// Weights is weights that were made.
type Weights struct {
	// Weight is that of each row; null for one that is left out or has no base weight.
	Weight        []*float64  `json:"weight"`
	N             int64       `json:"n"`
	SumWeights    float64     `json:"sumWeights"`
	EffectiveN    float64     `json:"effectiveN"`
	DesignEffect  float64     `json:"designEffect"`
	MinimumToMean float64     `json:"minimumToMean"`
	MaximumToMean float64     `json:"maximumToMean"`
	MarginShare   [][]float64 `json:"marginShare"`
}

func weightsOf(m *weighting.Made) Weights {
	w := Weights{nil, m.N, m.SumWeights, m.EffectiveN, m.DesignEffect, m.MinimumToMean, m.MaximumToMean, m.MarginShare}
	for i := range m.Weight {
		x := &m.Weight[i]
		if math.IsNaN(*x) {
			x = nil
		}
		w.Weight = append(w.Weight, x)
	}
	return w
}

// RakeResult is the weights, where they converged.
type RakeResult struct {
	Converged bool
	*Weights
}

// MarshalJSON writes the members of the weights beside converged, and none of them without.
func (r RakeResult) MarshalJSON() ([]byte, error) {
	head := []byte(`{"converged":false}`)
	if !r.Converged {
		return head, nil
	}
	raw, err := json.Marshal(r.Weights)
	return append([]byte(`{"converged":true,`), bytes.TrimPrefix(raw, []byte("{"))...), err
}

// Schema describes what is written.
func (RakeResult) Schema() map[string]any {
	number, numbers := map[string]any{"type": "number"}, func(of any) map[string]any {
		return map[string]any{"type": "array", "items": of}
	}
	return map[string]any{
		"type": "object", "additionalProperties": false, "required": []string{"converged"},
		"properties": map[string]any{
			"converged": map[string]any{"type": "boolean"},
			"weight": numbers(
				map[string]any{"type": []string{"number", "null"}},
			), "n": map[string]any{"type": "integer"}, "sumWeights": number,
			"effectiveN": number, "designEffect": number, "minimumToMean": number, "maximumToMean": number, "marginShare": numbers(numbers(number)),
		},
	}
}

// maxMargins bounds a request.
const maxMargins = 50

// Rake makes weights that hold margins.
var Rake = analysis.HeavyWhen(analysis.Figures("rake", "Weights that hold known margins, by raking", nil,
	RakeRequest{base: anyBase},
	func(ctx context.Context, in *RakeRequest) (RakeResult, error) {
		if len(in.Margins) == 0 || len(in.Margins) > maxMargins {
			return RakeResult{}, refuse(weighting.TargetsNeeded, -1)
		}
		b, err := in.read(len(in.Margins[0].Categories))
		if err != nil {
			return RakeResult{}, err
		}
		var margins []weighting.Margin
		for i, m := range in.Margins {
			margin, err := m.read(i)
			if err != nil {
				return RakeResult{}, err
			}
			margins = append(margins, margin)
		}
		bounds, err := in.Bounds.read()
		if err != nil {
			return RakeResult{}, err
		}
		made, err := weighting.Rake(ctx, b, margins, bounds)
		if err != nil || made == nil {
			return RakeResult{}, err
		}
		w := weightsOf(made)
		return RakeResult{true, &w}, nil
	}), func(*RakeRequest) bool { return true })

func (b *Bounds) read() (*weighting.Bounds, error) {
	if b == nil {
		return nil, nil
	}
	lower, ok1 := b.Lower.float()
	upper, ok2 := b.Upper.float()
	if !ok1 || !ok2 {
		return nil, refuse(weighting.BoundsOutOfRange, -1)
	}
	return &weighting.Bounds{Lower: lower, Upper: upper}, nil
}

// PoststratifyRequest asks for weights by cells, and for shares by these.
type PoststratifyRequest struct {
	// Cells is the cell of each row, from 0 on; null: not known.
	Cells   []*int   `json:"cells"`
	Targets []Number `json:"targets"`
	// Categories are the answers of K kinds; absent: no shares are asked for.
	Categories []*int `json:"categories,omitempty"`
	K          int    `json:"k,omitempty"`
	// Strata, Clusters, Fractions and SinglePSU say how the rows were drawn.
	Strata    []*Label         `json:"strata,omitempty"`
	Clusters  []*Label         `json:"clusters,omitempty"`
	Fractions *Fractions       `json:"fractions,omitempty"`
	SinglePSU design.SinglePSU `json:"singlePsu,omitempty"`
	base
	Part
}

// PoststratifyResult is the weights, and the shares where they were asked for.
type PoststratifyResult struct {
	Weights
	DF    *int      `json:"df"`
	BaseN *int64    `json:"baseN"`
	Share []float64 `json:"share"`
	// StandardError takes the cells as known; StandardErrorFixed takes the weights as given.
	StandardError      []float64 `json:"standardError"`
	StandardErrorFixed []float64 `json:"standardErrorFixedWeights"`
	LinearT            []CutEnds `json:"linearT"`
}

// Poststratify makes weights by cells.
var Poststratify = analysis.Figures("poststratify", "Weights by cells of known shares, and shares by these", nil,
	PoststratifyRequest{base: anyBase, SinglePSU: design.RefuseSingle, Part: part},
	func(_ context.Context, in *PoststratifyRequest) (*PoststratifyResult, error) {
		b, err := in.base.read(len(in.Cells))
		if err != nil {
			return nil, err
		}
		cells, err := Margin{in.Cells, in.Targets}.read(-1)
		if err != nil {
			return nil, err
		}
		p, err := weighting.Poststratify(b, cells)
		if err != nil {
			return nil, err
		}
		out := &PoststratifyResult{Weights: weightsOf(p.Made)}
		if in.Categories == nil {
			return out, nil
		}
		return out, in.shares(p, out)
	})

func (in *PoststratifyRequest) shares(p *weighting.Poststratified, out *PoststratifyResult) error {
	if len(in.Categories) != len(in.Cells) {
		return refuse(design.ColumnLength, -1)
	}
	if err := bounded(len(in.Cells), in.K); err != nil {
		return err
	}
	confidence, err := in.confidence()
	if err != nil {
		return err
	}
	given, err := answers(in.Categories, in.K)
	if err != nil {
		return err
	}
	member, err := in.in(len(given))
	if err != nil {
		return err
	}
	drawn := Drawn{Strata: in.Strata, Clusters: in.Clusters, Fractions: in.Fractions, SinglePSU: in.SinglePSU}
	c, err := drawn.columns(len(in.Cells))
	if err != nil {
		return err
	}
	s, err := p.Shares(c, in.K, func(row int) int {
		if !member(row) {
			return design.None
		}
		return given[row]
	})
	if err != nil {
		return err
	}
	out.DF, out.BaseN, out.Share, out.StandardError = &s.DF, &s.N, s.Share, roots(s.Variance)
	for j, share := range s.Share {
		out.StandardErrorFixed = append(out.StandardErrorFixed, s.SE(j))
		out.LinearT = append(out.LinearT, cut(share, out.StandardError[j], s.DF, confidence))
	}
	return nil
}
