package httpapi

import (
	"github.com/gofiber/fiber/v3"

	"widetally/core/shares"
	"widetally/internal/service"
)

type categoryFigureDTO struct {
	Code   string `json:"code"`
	Figure string `json:"figure"`
}

func (s *server) checkShares(c fiber.Ctx) error {
	studyID, question, err := ids(c, "question")
	if err != nil {
		return err
	}
	var in struct {
		Scale   shares.Scale        `json:"scale"`
		Rescale bool                `json:"rescale"`
		Figures []categoryFigureDTO `json:"figures"`
		Pasted  string              `json:"pasted"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	figures := map[string]string{}
	for _, f := range in.Figures {
		figures[f.Code] = f.Figure
	}
	check, err := s.Claims.CheckShares(c.Context(), studyID, question, in.Scale, in.Rescale, figures, in.Pasted)
	if err != nil {
		return err
	}
	return c.JSON(s.toSharesCheck(check))
}

type sharesRowDTO struct {
	Code   string   `json:"code"`
	Label  string   `json:"label"`
	Figure string   `json:"figure"`
	Share  *float64 `json:"share"`
}

type sharesProblemDTO struct {
	Kind string  `json:"kind"`
	Text string  `json:"text"`
	Code *string `json:"code"` // of the answer; null when it is about the whole
	// Name is that of an entry for which there is no answer; "" otherwise.
	Name string `json:"name"`
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

func (s *server) toSharesCheck(c *service.ShareCheck) sharesCheckDTO {
	a := c.Aligned
	d := sharesCheckDTO{Usable: len(c.Problems) == 0, CanRescale: len(c.Problems) == 1 && a.CanRescale(), Sum: shares.Format(a.Sum), Rows: make([]sharesRowDTO, len(c.Answers)), Problems: []sharesProblemDTO{}}
	if a.Target != nil {
		t := shares.Format(a.Target)
		d.Target = &t
	}
	if a.Gap != nil {
		g := shares.Format(a.Gap)
		d.Gap = &g
	}
	for i, answer := range c.Answers {
		d.Rows[i] = sharesRowDTO{Code: answer.Code, Label: answer.Label, Figure: c.Figures[i]}
		if a.Shares != nil {
			x, _ := a.Shares[i].Float64()
			d.Rows[i].Share = &x
		}
	}
	for _, p := range c.Problems {
		dto := sharesProblemDTO{Kind: string(p.Kind), Text: s.words.Text("problem."+shares.ProblemCode(a, p), shares.ProblemValues(a, c.Names, p))}
		if p.Kind == shares.UnknownAnswer {
			dto.Name = p.Text
		}
		if p.Answer >= 0 {
			dto.Code = &c.Answers[p.Answer].Code
		}
		d.Problems = append(d.Problems, dto)
	}
	return d
}
