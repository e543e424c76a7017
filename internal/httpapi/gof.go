package httpapi

import (
	"math"

	"widetally/core/claim"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/internal/study"
	"widetally/internal/words"
)

type probabilityDTO struct {
	Value float64 `json:"value"`
	Log10 float64 `json:"log10"`
	Text  string  `json:"text"`
	Exact string  `json:"exact"`
}

func toProbability(p prob.Prob, level float64) probabilityDTO {
	return probabilityDTO{p.Value, p.Log10, words.P(p.Value, p.Log10, level), words.PExact(p.Value, p.Log10, level)}
}

type gofRowDTO struct {
	Slot          survey.Slot `json:"slot"`
	Label         string      `json:"label"`
	Observed      int64       `json:"observed"`
	ObservedShare float64     `json:"observedShare"`
	Share         float64     `json:"share"`
	Points        float64     `json:"points"`
	Expected      float64     `json:"expected"`
	Difference    float64     `json:"difference"`
	Contribution  float64     `json:"contribution"`
	Pearson       float64     `json:"pearson"`
	Adjusted      float64     `json:"adjusted"`
	HolmP         *float64    `json:"holmP"`
	StandsOut     *string     `json:"standsOut"`
	LeftOut       bool        `json:"leftOut"`
	Thin          bool        `json:"thin"`
}

type curveDTO struct {
	X                []float64 `json:"x"`
	Density          []float64 `json:"density"`
	Top              float64   `json:"top"`
	StatisticOutside bool      `json:"statisticOutside"`
}

type goodnessOfFitDTO struct {
	N                int64          `json:"n"`
	Answers          int            `json:"answers"`
	DF               int            `json:"df"`
	Level            float64        `json:"level"`
	Statistic        float64        `json:"statistic"`
	P                probabilityDTO `json:"p"`
	CriticalValue    float64        `json:"criticalValue"`
	Reject           bool           `json:"reject"`
	G                float64        `json:"g"`
	GP               probabilityDTO `json:"gP"`
	CohensW          float64        `json:"cohensW"`
	LargestW         float64        `json:"largestW"`
	DetectableW      float64        `json:"detectableW"`
	SumExpected      float64        `json:"sumExpected"`
	SumDifference    float64        `json:"sumDifference"`
	SumShare         float64        `json:"sumShare"`
	ThinCells        int            `json:"thinCells"`
	ThinPercent      float64        `json:"thinPercent"`
	SmallestExpected float64        `json:"smallestExpected"`
	Rows             []gofRowDTO    `json:"rows"`
	Sentence         string         `json:"sentence"`
	Journal          string         `json:"journal"`
	Working          []string       `json:"working"`
	Notes            []noteDTO      `json:"notes"`
	Curve            curveDTO       `json:"curve"`
}

func (s *server) toGoodnessOfFit(c study.ClaimView, names []shares.Name) *goodnessOfFitDTO {
	r, w := c.Result, s.study.Words()
	d := &goodnessOfFitDTO{N: r.N, Answers: r.Answers, DF: r.DF, Level: r.Level, Statistic: r.Statistic, P: toProbability(r.P, r.Level),
		CriticalValue: r.CriticalValue, Reject: r.Reject, G: r.G, GP: toProbability(r.GP, r.Level), CohensW: r.CohensW, LargestW: r.LargestW, DetectableW: r.DetectableW,
		SumExpected: r.SumExpected, SumDifference: r.SumDifference, SumShare: r.SumShare, ThinCells: r.ThinCells, ThinPercent: r.ThinPercent, SmallestExpected: r.SmallestExpected,
		Rows: make([]gofRowDTO, len(r.Rows)), Sentence: s.sentence(c.Reading), Journal: w.Say(c.Reading.Journal), Curve: curveDTO(infer.ChiSquareCurve(r.Statistic, r.CriticalValue, float64(r.DF)))}
	for i, row := range r.Rows {
		d.Rows[i] = toGofRow(row, c.Slots[i], names[i].Label)
	}
	for _, f := range c.Reading.Working {
		d.Working = append(d.Working, w.Say(f))
	}
	for _, f := range c.Reading.Notes {
		d.Notes = append(d.Notes, s.toNote(f))
	}
	return d
}

// sentence is the finding, with the doubt about it where there is one.
func (s *server) sentence(r *claim.Reading) string {
	text := s.study.Words().Say(r.Sentence)
	if r.Doubt != nil {
		text += s.study.Words().Say(*r.Doubt)
	}
	return text
}

func toGofRow(r infer.GoodnessOfFitRow, slot survey.Slot, label string) gofRowDTO {
	d := gofRowDTO{Slot: slot, Label: label, Observed: r.Observed, ObservedShare: r.ObservedShare, Share: r.Share, Points: 100 * (r.ObservedShare - r.Share),
		Expected: r.Expected, Difference: r.Difference, Contribution: r.Contribution, Pearson: r.Pearson, Adjusted: r.Adjusted, LeftOut: r.LeftOut, Thin: r.Thin}
	if !r.LeftOut {
		d.HolmP = &r.HolmP.Value
	}
	if r.StandsOut {
		which := "more"
		if math.Signbit(r.Difference) {
			which = "fewer"
		}
		d.StandsOut = &which
	}
	return d
}

type sharesRowDTO struct {
	Slot   survey.Slot `json:"slot"`
	Label  string      `json:"label"`
	Figure string      `json:"figure"`
	Share  *float64    `json:"share"`
}

type sharesProblemDTO struct {
	Code string       `json:"code"`
	Text string       `json:"text"`
	Slot *survey.Slot `json:"slot"`
}

type sharesCheckDTO struct {
	Usable     bool               `json:"usable"`
	CanRescale bool               `json:"canRescale"`
	Sum        string             `json:"sum"`
	Target     *string            `json:"target"`
	Gap        *string            `json:"gap"`
	Rows       []sharesRowDTO     `json:"rows"`
	Problems   []sharesProblemDTO `json:"problems"`
}

func (s *server) toSharesCheck(c *study.ShareCheck) sharesCheckDTO {
	a := c.Aligned
	d := sharesCheckDTO{Usable: len(c.Problems) == 0, CanRescale: len(c.Problems) == 1 && a.CanRescale(), Sum: shares.Format(a.Sum), Rows: make([]sharesRowDTO, len(c.Slots)), Problems: []sharesProblemDTO{}}
	if a.Target != nil {
		t := shares.Format(a.Target)
		d.Target = &t
	}
	if a.Gap != nil {
		g := shares.Format(a.Gap)
		d.Gap = &g
	}
	for i, slot := range c.Slots {
		d.Rows[i] = sharesRowDTO{Slot: slot, Label: c.Names[i].Label, Figure: c.Figures[i]}
		if a.Shares != nil {
			x, _ := a.Shares[i].Float64()
			d.Rows[i].Share = &x
		}
	}
	for _, p := range c.Problems {
		dto := sharesProblemDTO{Code: string(p.Kind), Text: s.study.Words().Text("problem."+study.ProblemCode(a, p), study.ProblemValues(a, c.Names, p))}
		if p.Answer >= 0 {
			dto.Slot = &c.Slots[p.Answer]
		}
		d.Problems = append(d.Problems, dto)
	}
	return d
}
