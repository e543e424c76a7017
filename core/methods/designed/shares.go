package designed

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
)

var told = []analysis.Assumption{analysis.DesignTold}

// answered is a question of which the answers are counted.
type answered struct {
	// Categories is the answer of each row, from 0 on; null: none.
	Categories []*int `json:"categories"`
	Drawn
	Part
}

// read gives the sample and of each row the cell of the base, with the confidence.
func (in answered) read(k int) (s *design.Sample, cell func(row int) int, confidence float64, err error) {
	if err = bounded(len(in.Categories), k); err != nil {
		return
	}
	if confidence, err = in.confidence(); err != nil {
		return
	}
	if s, err = in.sample(len(in.Categories)); err != nil {
		return
	}
	given, err := answers(in.Categories, k)
	if err != nil {
		return
	}
	member, err := in.in(len(given))
	return s, func(row int) int {
		if !member(row) {
			return design.None
		}
		return given[row]
	}, confidence, err
}

// SharesRequest asks for the shares of the answers to a question.
type SharesRequest struct {
	// K is how many answers there are.
	K int `json:"k"`
	answered
}

// ShareFigures are those of the answers, in their order.
type ShareFigures struct {
	Count         []int64   `json:"count"`
	WeightedCount []float64 `json:"weightedCount"`
	// ScaledCount is n times the share.
	ScaledCount   []float64     `json:"scaledCount"`
	Share         []float64     `json:"share"`
	StandardError []float64     `json:"standardError"`
	Covariance    design.Matrix `json:"covariance"`
	// DesignEffect is null for shares of 0 and 1, EffectiveN where it is infinite.
	DesignEffect []*float64 `json:"designEffect"`
	EffectiveN   []*float64 `json:"effectiveN"`
	BetaN        []*float64 `json:"betaN"`
	// LinearT, LogitT, Wilson and Beta are intervals; Beta is the one to show.
	LinearT []CutEnds `json:"linearT"`
	LogitT  []Ends    `json:"logitT"`
	Wilson  []Ends    `json:"wilson"`
	Beta    []Ends    `json:"beta"`
}

func shareFigures(s *design.Shares, confidence float64) ShareFigures {
	f := ShareFigures{Count: s.Count, WeightedCount: s.Total, Share: s.Share, Covariance: s.Covariance}
	for j, p := range s.Share {
		u := estimated(s, j).Uncertainty(confidence)
		f.ScaledCount = append(f.ScaledCount, float64(s.N)*p)
		f.StandardError = append(f.StandardError, u.StandardError)
		f.DesignEffect, f.EffectiveN, f.BetaN = append(
			f.DesignEffect,
			u.DesignEffect,
		), append(
			f.EffectiveN,
			u.EffectiveN,
		), append(
			f.BetaN,
			u.BetaN,
		)
		f.LinearT, f.LogitT = append(f.LinearT, cutEnds(u.Linear)), append(f.LogitT, ends(u.Logit))
		f.Wilson, f.Beta = append(f.Wilson, ends(u.Wilson)), append(f.Beta, ends(u.Beta))
	}
	return f
}

// estimated is the share of one answer for inference.
func estimated(s *design.Shares, j int) infer.DesignedShare {
	return infer.DesignedShare{Share: s.Share[j], Variance: s.Covariance[j][j], N: s.N, KishN: s.KishN, DF: s.DF}
}

// SharesResult is the shares of a designed sample.
type SharesResult struct {
	design.Base
	ShareFigures
	WeightedCountStandardError []float64 `json:"weightedCountStandardError"`
}

// Shares estimates the shares of answers.
var Shares = analysis.Figures("design-shares", "Shares of a question in a designed sample, with their intervals", told,
	SharesRequest{answered: answered{Drawn: drawn, Part: part}},
	func(_ context.Context, in *SharesRequest) (*SharesResult, error) {
		s, cell, confidence, err := in.read(in.K)
		if err != nil {
			return nil, err
		}
		c, err := s.Cells(in.K, cell)
		if err != nil {
			return nil, err
		}
		out := &SharesResult{Base: c.Base, ShareFigures: shareFigures(c.Shares(), confidence)}
		out.WeightedCountStandardError = roots(c.TotalVariance())
		return out, nil
	})

// OneShareRequest tests the share of one answer.
type OneShareRequest struct {
	Answer int    `json:"answer"`
	P0     Number `json:"p0"`
	answered
}

// OneShareResult is its share with the tests.
type OneShareResult struct {
	design.Base
	Share         float64  `json:"share"`
	StandardError float64  `json:"standardError"`
	EffectiveN    *float64 `json:"effectiveN"`
	// Difference is the share less the claimed one; the test is by its standard error.
	Difference float64 `json:"difference"`
	infer.TTest
	Interval CutEnds `json:"interval"`
	// Score is by the standard error under the claim, the better near 0 and 1; Logit is that of
	// ln(p/(1 − p)).
	Score infer.TTest `json:"score"`
	Logit infer.TTest `json:"logit"`
}

// OneShare tests a share against a claimed one.
var OneShare = analysis.Figures("design-one-share", "A share of a designed sample against a claimed one", told,
	OneShareRequest{answered: answered{Drawn: drawn, Part: part}},
	func(_ context.Context, in *OneShareRequest) (*OneShareResult, error) {
		claimed, err := in.P0.between(0, 1, P0OutOfRange)
		if err != nil {
			return nil, err
		}
		if in.Answer < 0 {
			return nil, refuse(UnknownAnswer, -1)
		}
		s, cell, confidence, err := in.read(in.most())
		if err != nil {
			return nil, err
		}
		c, err := s.Cells(2, func(row int) int { return meant(cell(row), in.Answer) })
		if err != nil {
			return nil, err
		}
		share := estimated(c.Shares(), 1)
		u := share.Uncertainty(confidence)
		tests := share.Test(claimed)
		return &OneShareResult{
			c.Base, share.Share, u.StandardError, u.EffectiveN,
			tests.Difference, tests.Linear, cutEnds(u.Linear), tests.Score, tests.Logit,
		}, nil
	})

// most is how many answers there are where nobody says.
func (in answered) most() int {
	k := 1
	for _, c := range in.Categories {
		if c != nil {
			k = max(k, *c+1)
		}
	}
	return min(k, maxCells)
}

// meant is 1 for the answer, 0 for another.
func meant(cell, answer int) int {
	switch cell {
	case design.None:
		return design.None
	case answer:
		return 1
	}
	return 0
}

// FitRequest compares the answers to a question with claimed shares.
type FitRequest struct {
	// Shares are the claimed ones on any scale, above 0.
	Shares []Number `json:"shares"`
	Alpha  Number   `json:"alpha,omitempty"`
	answered
}

// FitResult is the test.
type FitResult struct {
	design.Base
	Share         []float64 `json:"share"`
	Claimed       []float64 `json:"claimed"`
	StandardError []float64 `json:"standardError"`
	// AnswerT is the departure of each answer by its standard error, null where that is 0.
	AnswerT []*float64 `json:"answerT"`
	infer.RaoScott
}

// Fit tests goodness of fit.
var Fit = analysis.Figures("design-gof", "Goodness of fit of a designed sample, by Rao and Scott", told,
	FitRequest{Alpha: "0.05", answered: answered{Drawn: drawn, Part: part}},
	func(_ context.Context, in *FitRequest) (*FitResult, error) {
		k := len(in.Shares)
		claimed, err := claimedShares(in.Shares)
		if err != nil {
			return nil, err
		}
		level, err := in.Alpha.between(0, 1, infer.LevelRange)
		if err != nil {
			return nil, err
		}
		s, cell, _, err := in.read(k)
		if err != nil {
			return nil, err
		}
		c, err := s.Cells(k, cell)
		if err != nil {
			return nil, err
		}
		shares := c.Shares()
		ask := infer.RaoScottInput{N: c.N, Expected: claimed, Covariance: shares.Covariance, DF: c.DF, Level: level}
		out := &FitResult{Base: c.Base, Share: shares.Share, Claimed: claimed}
		for j, p := range shares.Share {
			ask.Departure = append(ask.Departure, p-claimed[j])
			if j < k-1 {
				ask.Free = append(ask.Free, j)
			}
			out.StandardError = append(out.StandardError, shares.SE(j))
			out.AnswerT = append(out.AnswerT, infer.ComputeTTest(p-claimed[j], shares.SE(j), float64(c.DF)).T)
		}
		out.RaoScott = *infer.ComputeRaoScott(ask)
		return out, nil
	})

func claimedShares(figures []Number) (out []float64, err error) {
	if len(figures) < 2 {
		return nil, refuse(infer.OneAnswer, -1)
	}
	var sum design.Sum
	for i, f := range figures {
		x, ok := f.float()
		if !ok || !(x > 0) {
			return nil, refuse(NotPositive, i)
		}
		out = append(out, x)
		sum.Add(x)
	}
	for i := range out {
		out[i] /= sum.Value()
	}
	return out, nil
}

// TableRequest asks whether two questions are independent.
type TableRequest struct {
	// Rows and Columns are the answers of each respondent, from 0 on; null: none.
	Rows    []*int `json:"rows"`
	Columns []*int `json:"columns"`
	// Shape is how many rows and columns the table has.
	Shape []int  `json:"shape"`
	Alpha Number `json:"alpha,omitempty"`
	Drawn
	Part
}

// TableResult is the table with the test.
type TableResult struct {
	design.Base
	Count         [][]int64   `json:"count"`
	WeightedCount [][]float64 `json:"weightedCount"`
	TotalShare    [][]float64 `json:"totalShare"`
	// RowShare and ColumnShare are null in rows and columns without a respondent.
	RowShare    [][]*float64 `json:"rowShare"`
	ColumnShare [][]*float64 `json:"columnShare"`
	// RowsUsed and ColumnsUsed are those with a respondent, which the test is about.
	RowsUsed    int `json:"rowsUsed"`
	ColumnsUsed int `json:"columnsUsed"`
	// CellT is the adjusted residual of the design; null outside of the test and without variance.
	CellT [][]*float64 `json:"cellT"`
	// CramersV is of the statistic before its correction.
	CramersV float64 `json:"cramersV"`
	infer.RaoScott
}

func (in *TableRequest) read() (s *design.Sample, cell func(row int) int, err error) {
	if len(in.Shape) != 2 || in.Shape[0] < 1 || in.Shape[1] < 1 || in.Shape[0] > maxCells || in.Shape[1] > maxCells {
		return nil, nil, refuse(analysis.TooManyCells, -1)
	}
	if len(in.Columns) != len(in.Rows) {
		return nil, nil, refuse(design.ColumnLength, -1)
	}
	if err := bounded(len(in.Rows), in.Shape[0]*in.Shape[1]); err != nil {
		return nil, nil, err
	}
	if s, err = in.sample(len(in.Rows)); err != nil {
		return nil, nil, err
	}
	down, err := answers(in.Rows, in.Shape[0])
	if err != nil {
		return nil, nil, err
	}
	across, err := answers(in.Columns, in.Shape[1])
	if err != nil {
		return nil, nil, err
	}
	member, err := in.in(len(down))
	return s, func(row int) int {
		if down[row] < 0 || across[row] < 0 || !member(row) {
			return design.None
		}
		return down[row]*in.Shape[1] + across[row]
	}, err
}

// Table tests independence.
var Table = analysis.Figures(
	"design-independence",
	"Independence of two questions in a designed sample, by Rao and Scott",
	told,
	TableRequest{Alpha: "0.05", Drawn: drawn, Part: part},
	func(_ context.Context, in *TableRequest) (*TableResult, error) {
		level, err := in.Alpha.between(0, 1, infer.LevelRange)
		if err != nil {
			return nil, err
		}
		s, cell, err := in.read()
		if err != nil {
			return nil, err
		}
		c, err := s.Cells(in.Shape[0]*in.Shape[1], cell)
		if err != nil {
			return nil, err
		}
		used := c.Used(in.Shape[1])
		if len(used.Rows) < 2 || len(used.Columns) < 2 {
			return nil, refuse(TableTooSmall, -1)
		}
		out := &TableResult{Base: c.Base, RowsUsed: len(used.Rows), ColumnsUsed: len(used.Columns)}
		out.table(c, in.Shape[0], in.Shape[1])
		r := used.Cells.Independence(out.ColumnsUsed)
		out.RaoScott = *infer.ComputeRaoScott(r.RaoScott(c.N, c.DF, level))
		for k, h := range r.Departure {
			out.CellT[used.Rows[k/out.ColumnsUsed]][used.Columns[k%out.ColumnsUsed]] = infer.ComputeTTest(
				h,
				r.Covariance.SE(k),
				float64(c.DF),
			).T
		}
		out.CramersV = infer.DesignedCramersV(out.Statistic, c.N, out.RowsUsed, out.ColumnsUsed)
		return out, nil
	},
)

// table fills in the counts and shares.
func (r *TableResult) table(c *design.Cells, rows, columns int) {
	shares := c.Shares().Share
	for i := range rows {
		r.Count = append(r.Count, c.Count[i*columns:(i+1)*columns])
		r.WeightedCount = append(r.WeightedCount, c.Total[i*columns:(i+1)*columns])
		r.TotalShare = append(r.TotalShare, shares[i*columns:(i+1)*columns])
		r.CellT = append(r.CellT, make([]*float64, columns))
	}
	r.RowShare, r.ColumnShare = c.Within(columns)
}

// roots are square roots.
func roots(variances []float64) []float64 {
	out := make([]float64, len(variances))
	for i, v := range variances {
		out[i] = root(v)
	}
	return out
}
