package httpapi

import (
	"github.com/gofiber/fiber/v3"

	"widetally/internal/service"
)

func (s *server) waveRoutes(r fiber.Router) {
	r.Get("/studies/:study/waves", s.to((*server).getWaves))
	r.Post("/studies/:study/waves", s.to((*server).takeToWave))
}

type waveDTO struct {
	Code  string `json:"code"`
	Label string `json:"label"`
	N     int64  `json:"n"`
}

type waveQuestionDTO struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// wavesDTO is what would go along from one wave to another.
type wavesDTO struct {
	Questions []waveQuestionDTO `json:"questions"`
	// Question is 0 where nobody has said which one tells the waves.
	Question  uint64    `json:"question"`
	Answers   []waveDTO `json:"answers"`
	From      string    `json:"from"`
	To        string    `json:"to"`
	Compared  string    `json:"compared"`
	Claims    int       `json:"claims"`
	Described int       `json:"described"`
	Tallies   int       `json:"tallies"`
	Books     int       `json:"books"`
	Staying   int       `json:"staying"`
	Made      []string  `json:"made"`
}

// getWaves tells what would go along to another wave.
func (s *server) getWaves(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	said := func(name string) *string {
		if !c.RequestCtx().QueryArgs().Has(name) {
			return nil
		}
		code := c.Query(name)
		return &code
	}
	v, err := s.Reports.Waves(c.Context(), n, uint64(max(0, fiber.Query(c, "question", 0))), said("from"), said("to"))
	if err != nil {
		return err
	}
	return c.JSON(toWaves(v))
}

func toWaves(v *service.WavesView) wavesDTO {
	out := wavesDTO{
		Questions: []waveQuestionDTO{}, Question: v.Question, Answers: []waveDTO{}, From: v.From, To: v.To, Compared: v.Compared,
		Claims: v.Claims, Described: v.Described, Tallies: v.Tallies, Books: v.Books, Staying: v.Staying, Made: append([]string{}, v.Made...),
	}
	for _, q := range v.Questions {
		out.Questions = append(out.Questions, waveQuestionDTO{q.ID, q.Name})
	}
	for _, w := range v.Waves {
		out.Answers = append(out.Answers, waveDTO(w))
	}
	return out
}

// takeToWave takes all that is asked and reported of one wave to another.
func (s *server) takeToWave(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Question uint64 `json:"question"`
		From     string `json:"from"`
		To       string `json:"to"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Reports.TakeToWave(c.Context(), n, in.Question, in.From, in.To); err != nil {
		return err
	}
	return s.sendReport(c, n)
}
