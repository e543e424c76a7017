// Package printedresult checks whether the figures of a printed result can all be true.
package printedresult

import (
	"context"
	"math/big"
	"strconv"
	"strings"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/printed"
	"widetally/core/shares"
	"widetally/core/survey"
)

// Settings asks whether the figures of a printed result can all be true.
type Settings struct {
	analysis.Unasked
	Kind printed.Kind `json:"kind"`
	// Statistic and P are as printed, so that their last places show how they were rounded.
	Statistic string           `json:"statistic"`
	DF        *analysis.Number `json:"df,omitempty"`
	P         string           `json:"p"`
	Sided     string           `json:"sided"`
	N         *analysis.Number `json:"n,omitempty"`
	Level     analysis.Level   `json:"level"`
	// Counts are those of one question, "18 32 50", or of a table, its rows separated by slashes.
	Counts string `json:"counts,omitempty"`
	// Shares are those with which the counts of one question were compared: "58 39.5 2.5", "5:3:2",
	// or "equal".
	Shares string `json:"shares,omitempty"`
	// Effect is a size as printed, and EffectName what it was called.
	Effect     string             `json:"effect,omitempty"`
	EffectName printed.EffectName `json:"effectName,omitempty"`
}

var printedKinds = []printed.Kind{printed.ChiSquare, printed.Z, printed.T}

var asked = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: []analysis.Input{
		{Name: "kind", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(printedKinds), Needed: true},
		{Name: "statistic", Kind: analysis.TextInput, MaxLength: 24, Needed: true},
		{Name: "df", Kind: analysis.TextInput, MaxLength: 20},
		{Name: "p", Kind: analysis.TextInput, MaxLength: 24, Needed: true},
		{
			Name:    "sided",
			Kind:    analysis.ChoiceInput,
			Options: []string{"2", "1"},
			Needed:  true,
			Unless:  analysis.WhenIs("kind", string(printed.ChiSquare)),
		},
		{Name: "n", Kind: analysis.TextInput, MaxLength: 20},
		{Name: "counts", Kind: analysis.TextInput, MaxLength: 400},
		{Name: "shares", Kind: analysis.TextInput, MaxLength: 400},
		{
			Name:    "effectName",
			Kind:    analysis.ChoiceInput,
			Options: analysis.TextsOf(printed.EffectNames),
			Unless:  analysis.WhenIs("kind", string(printed.Z)),
		},
		{Name: "effect", Kind: analysis.TextInput, MaxLength: 24},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{
		{ID: "statistic"},
		{ID: "df_chi", Only: analysis.WhenIs("kind", string(printed.ChiSquare))},
		{ID: "df_t", Only: analysis.WhenIs("kind", string(printed.T))},
		{ID: "p"},
		{ID: "sided_z", Only: analysis.WhenIs("kind", string(printed.Z))},
		{ID: "sided_t", Only: analysis.WhenIs("kind", string(printed.T))},
		{ID: "n"},
		{ID: "counts", Unless: analysis.WhenIs("kind", string(printed.T))},
		{ID: "shares", Unless: analysis.WhenIs("kind", string(printed.T))},
		{ID: "effect", Only: analysis.WhenIs("kind", string(printed.ChiSquare))},
		{ID: "level"},
	},
	New: func() analysis.Settings { return &Settings{Level: 0.05} }}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) (out []analysis.Problem) {
	out = analysis.CheckOneOf(printedKinds, s.Kind, "printed.kind", "kind")
	if s.Kind == printed.Z || s.Kind == printed.T {
		out = append(out, analysis.CheckOneOf([]string{"1", "2"}, s.Sided, "printed.sided", "sided")...)
	}
	for member, text := range map[string]string{"statistic": s.Statistic, "p": s.P} {
		if strings.TrimSpace(text) == "" {
			out = append(out, analysis.Problem{Code: "printed." + member, Pointer: "/settings/" + member})
		}
	}
	if s.N != nil {
		out = append(out, analysis.Whole(s.N, "n")...)
	}
	if _, ok := s.counts(); !ok {
		out = append(
			out,
			analysis.Problem{
				Code:    "printed.counts",
				Pointer: "/settings/counts",
				Values:  document.Values{"text": document.Text(s.Counts)},
			},
		)
	}
	if rows, ok := s.counts(); ok && len(rows) == 1 {
		if _, scale := s.shares(); scale == "" {
			out = append(out, analysis.Problem{Code: "printed.shares", Pointer: "/settings/shares"})
		}
	}
	if s.Kind == printed.ChiSquare && s.Effect != "" {
		out = append(out, analysis.CheckOneOf(printed.EffectNames, s.EffectName, "printed.effect_name", "effectName")...)
		if rows, _ := s.counts(); s.N == nil && rows == nil {
			out = append(out, analysis.Problem{Code: "printed.effect_n", Pointer: "/settings/n"})
		}
	}
	return append(out, s.Level.Problems("level")...)
}

// shares reads those of the counts of one question; the scale is "" where nobody said them.
func (s *Settings) shares() (figures []analysis.Figure, scale shares.Scale) {
	text := strings.TrimSpace(s.Shares)
	if strings.EqualFold(text, string(shares.Equal)) {
		return nil, shares.Equal
	}
	parts := strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' || r == ':' || r == '\t' || r == '\u00a0' })
	for _, p := range parts {
		figures = append(figures, analysis.Figure(strings.TrimSuffix(p, "%")))
	}
	if len(figures) == 0 {
		return nil, ""
	}
	return figures, shares.Ratio // of whatever they add to
}

// counts reads the printed counts, row by row.
func (s *Settings) counts() (rows [][]int64, ok bool) {
	if strings.TrimSpace(s.Counts) == "" || s.Kind == printed.T {
		return nil, true
	}
	for _, line := range strings.Split(s.Counts, "/") {
		var row []int64
		for _, part := range strings.FieldsFunc(line, func(r rune) bool { return r == ' ' || r == ';' || r == '\t' || r == '\u00a0' }) {
			n, err := strconv.ParseInt(strings.ReplaceAll(strings.TrimSuffix(part, ","), ",", ""), 10, 64)
			if err != nil || n < 0 {
				return nil, false
			}
			row = append(row, n)
		}
		if len(row) < 2 {
			return nil, false
		}
		rows = append(rows, row)
	}
	return rows, true
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *Settings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Kind: s.Kind, Statistic: s.Statistic, P: s.P, N: analysis.CountOf(s.N), Level: float64(s.Level)}
	if s.Kind != printed.Z && s.DF != nil {
		in.DF = (*float64)(s.DF)
	}
	if s.Kind != printed.ChiSquare {
		in.Sided, _ = strconv.Atoi(s.Sided)
	}
	switch rows, _ := s.counts(); len(rows) {
	case 0:
	case 1:
		in.Observed = rows[0]
		in.Shares, in.Scale = s.shares()
	default:
		in.Table = rows
	}
	if s.Kind == printed.ChiSquare {
		in.Effect, in.EffectName = s.Effect, s.EffectName
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	return Printed{
		About:     about,
		Kind:      s.Kind,
		Statistic: s.Statistic,
		P:         s.P,
		Level:     float64(s.Level),
	}.Document(
		o.Result.(*printed.Result),
	)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is a result as it was printed. Statistic and p are needed, the rest
// where it was printed.
type Request struct {
	Kind printed.Kind `json:"kind"`
	// Statistic and P are texts, so that their last places show how they were rounded.
	Statistic string   `json:"statistic"`
	DF        *float64 `json:"df,omitempty"`
	P         string   `json:"p"`
	Sided     int      `json:"sided,omitempty"`
	N         *int64   `json:"n,omitempty"`
	Level     float64  `json:"level,omitempty"`
	// Observed counts of one question with its expected shares (equal where absent), or
	// the table of two questions.
	Observed []int64           `json:"observed,omitempty"`
	Shares   []analysis.Figure `json:"shares,omitempty"`
	Scale    shares.Scale      `json:"scale,omitempty"`
	Table    [][]int64         `json:"table,omitempty"`
	// Effect is a size as printed, where it was, and EffectName what it was called.
	Effect     string             `json:"effect,omitempty"`
	EffectName printed.EffectName `json:"effectName,omitempty"`
}

var figures = analysis.Figures(
	"printed-result",
	"Whether the figures of a printed result can all be true, and which known slip explains them",
	[]analysis.Assumption{analysis.PrintedRounded},
	Request{Kind: printed.ChiSquare, Sided: 2, Level: 0.05, Scale: shares.Proportions},
	func(_ context.Context, in *Request) (*printed.Result, error) {
		if err := analysis.CheckTable("printed result", in.Table); err != nil {
			return nil, err
		}
		if len(in.Observed) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("printed result", analysis.TooManyAnswers, -1)
		}
		var expected []*big.Rat
		if in.Shares != nil || in.Scale == shares.Equal && in.Observed != nil {
			var err error
			if expected, err = (analysis.Scaled{Shares: in.Shares, Scale: in.Scale}).Read("printed result", len(in.Observed)); err != nil {
				return nil, err
			}
		}
		return printed.Compute(
			printed.Input{Kind: in.Kind, Statistic: in.Statistic, DF: in.DF, P: in.P, Sided: in.Sided, N: in.N, Level: in.Level,
				Observed: in.Observed, Shares: expected, Table: in.Table, Effect: in.Effect, EffectName: in.EffectName},
		)
	},
)
