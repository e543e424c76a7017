package analysis

import (
	"strconv"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/printed"
	"widetally/core/shares"
	"widetally/core/survey"
)

const printedName = "printed-result"

// PrintedSettings asks whether the figures of a printed result can all be true.
type PrintedSettings struct {
	unasked
	Kind printed.Kind `json:"kind"`
	// Statistic and P are as printed, so that their last places show how they were rounded.
	Statistic string  `json:"statistic"`
	DF        *Number `json:"df,omitempty"`
	P         string  `json:"p"`
	Sided     string  `json:"sided"`
	N         *Number `json:"n,omitempty"`
	Level     Level   `json:"level"`
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

var askedPrinted = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: []Input{
		{Name: "kind", Kind: ChoiceInput, Options: texts(printedKinds), Needed: true},
		{Name: "statistic", Kind: TextInput, MaxLength: 24, Needed: true},
		{Name: "df", Kind: TextInput, MaxLength: 20},
		{Name: "p", Kind: TextInput, MaxLength: 24, Needed: true},
		{Name: "sided", Kind: ChoiceInput, Options: []string{"2", "1"}, Needed: true, Unless: is("kind", string(printed.ChiSquare))},
		{Name: "n", Kind: TextInput, MaxLength: 20},
		{Name: "counts", Kind: TextInput, MaxLength: 400},
		{Name: "shares", Kind: TextInput, MaxLength: 400},
		{Name: "effectName", Kind: ChoiceInput, Options: texts(printed.EffectNames), Unless: is("kind", string(printed.Z))},
		{Name: "effect", Kind: TextInput, MaxLength: 24},
		levelInput("level"),
	},
	Texts: "printed", Lines: []Line{{ID: "statistic"}, {ID: "df_chi", Only: is("kind", string(printed.ChiSquare))}, {ID: "df_t", Only: is("kind", string(printed.T))}, {ID: "p"}, {ID: "sided_z", Only: is("kind", string(printed.Z))}, {ID: "sided_t", Only: is("kind", string(printed.T))}, {ID: "n"}, {ID: "counts", Unless: is("kind", string(printed.T))}, {ID: "shares", Unless: is("kind", string(printed.T))}, {ID: "effect", Only: is("kind", string(printed.ChiSquare))}, {ID: "level"}},
	New: func() Settings { return &PrintedSettings{Level: 0.05} }}

// Check implements Settings.
func (s *PrintedSettings) Check([]survey.Question) (out []Problem) {
	out = checkOneOf(printedKinds, s.Kind, "printed.kind", "kind")
	if s.Kind == printed.Z || s.Kind == printed.T {
		out = append(out, checkOneOf([]string{"1", "2"}, s.Sided, "printed.sided", "sided")...)
	}
	for member, text := range map[string]string{"statistic": s.Statistic, "p": s.P} {
		if strings.TrimSpace(text) == "" {
			out = append(out, Problem{Code: "printed." + member, Pointer: "/settings/" + member})
		}
	}
	if s.N != nil {
		out = append(out, whole(s.N, "n")...)
	}
	if _, ok := s.counts(); !ok {
		out = append(out, Problem{Code: "printed.counts", Pointer: "/settings/counts", Values: document.Values{"text": document.Text(s.Counts)}})
	}
	if rows, ok := s.counts(); ok && len(rows) == 1 {
		if _, scale := s.shares(); scale == "" {
			out = append(out, Problem{Code: "printed.shares", Pointer: "/settings/shares"})
		}
	}
	if s.Kind == printed.ChiSquare && s.Effect != "" {
		out = append(out, checkOneOf(printed.EffectNames, s.EffectName, "printed.effect_name", "effectName")...)
		if rows, _ := s.counts(); s.N == nil && rows == nil {
			out = append(out, Problem{Code: "printed.effect_n", Pointer: "/settings/n"})
		}
	}
	return append(out, s.Level.problems("level")...)
}

// shares reads those of the counts of one question; the scale is "" where nobody said them.
func (s *PrintedSettings) shares() (figures []Figure, scale shares.Scale) {
	text := strings.TrimSpace(s.Shares)
	if strings.EqualFold(text, string(shares.Equal)) {
		return nil, shares.Equal
	}
	parts := strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' || r == ':' || r == '\t' || r == '\u00a0' })
	for _, p := range parts {
		figures = append(figures, Figure(strings.TrimSuffix(p, "%")))
	}
	if len(figures) == 0 {
		return nil, ""
	}
	return figures, shares.Ratio // of whatever they add to
}

// counts reads the printed counts, row by row.
func (s *PrintedSettings) counts() (rows [][]int64, ok bool) {
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

// Essence implements Settings.
func (s *PrintedSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *PrintedSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *PrintedSettings) run(work Work, _ *Counted) (*Outcome, error) {
	in := &PrintedResultRequest{Kind: s.Kind, Statistic: s.Statistic, P: s.P, N: countOf(s.N), Level: float64(s.Level)}
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
	return outcomeOf(work, printedName, in)
}

func (s *PrintedSettings) document(o *Outcome, about claim.About) document.Document {
	return claim.Printed{About: about, Kind: s.Kind, Statistic: s.Statistic, P: s.P, Level: float64(s.Level)}.Document(o.Result.(*printed.Result))
}
