package httpapi

import (
	"bytes"
	"io"

	"github.com/gofiber/fiber/v3"

	"widetally/internal/intake"
	"widetally/internal/study"
)

func (s *server) arrivalRoutes(r fiber.Router) {
	r.Get("/limits", s.getLimits)
	r.Post("/arrivals", s.arrive)
	r.Post("/arrivals/:arrival/look", s.lookAgain)
	r.Delete("/arrivals/:arrival", s.discardArrival)
}

type settingsDTO struct {
	Encoding  string `json:"encoding"`
	Delimiter string `json:"delimiter"`
	Header    bool   `json:"header"`
	PadShort  bool   `json:"padShort"`
	FixNames  bool   `json:"fixNames"`
}

func (d settingsDTO) settings() intake.Settings {
	return intake.Settings{Encoding: intake.Encoding(d.Encoding), Delimiter: d.Delimiter, Header: d.Header, PadShort: d.PadShort, FixNames: d.FixNames}
}

type intakeProblemDTO struct {
	Code   string  `json:"code"`
	Line   int     `json:"line"`
	Column int     `json:"column"`
	Text   string  `json:"text"`
	Remedy *string `json:"remedy"`
}

type previewDTO struct {
	Names    []string           `json:"names"`
	Rows     int                `json:"rows"`
	First    [][]string         `json:"first"`
	Problems []intakeProblemDTO `json:"problems"`
	Ragged   int                `json:"ragged"`
}

type arrivalDTO struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	Size     int64             `json:"size"`
	Settings settingsDTO       `json:"settings"`
	Preview  *previewDTO       `json:"preview"`
	Problem  *intakeProblemDTO `json:"problem"`
}

// remedies name the setting that cures a problem.
var remedies = map[intake.Code]string{intake.ShortLine: "padShort", intake.EmptyName: "fixNames", intake.DuplicateName: "fixNames", intake.NotUTF8: "windows1252"}

func (s *server) toIntakeProblem(p intake.Problem) intakeProblemDTO {
	d := intakeProblemDTO{Code: string(p.Code), Line: p.Line, Column: p.Column, Text: s.study.Words().Text("problem.intake."+string(p.Code), intakeValues(&p))}
	if r, ok := remedies[p.Code]; ok {
		d.Remedy = &r
	}
	return d
}

func (s *server) sendArrival(c fiber.Ctx, status int, a *study.Arrival, err error) error {
	if err != nil {
		return err
	}
	d := arrivalDTO{ID: a.ID, Name: a.Name, Size: a.Size, Settings: settingsDTO{string(a.Settings.Encoding), a.Settings.Delimiter, a.Settings.Header, a.Settings.PadShort, a.Settings.FixNames}}
	if a.Problem != nil {
		p := s.toIntakeProblem(*a.Problem)
		d.Problem = &p
	}
	if a.Preview != nil {
		d.Preview = &previewDTO{Names: a.Preview.Names, Rows: a.Preview.Rows, First: a.Preview.First, Ragged: a.Preview.Ragged, Problems: []intakeProblemDTO{}}
		for _, p := range a.Preview.Problems {
			d.Preview.Problems = append(d.Preview.Problems, s.toIntakeProblem(p))
		}
	}
	return c.Status(status).JSON(d)
}

func (s *server) getLimits(c fiber.Ctx) error {
	return c.JSON(struct {
		FileBytes int64 `json:"fileBytes"`
	}{s.study.MaxUpload()})
}

func (s *server) arrive(c fiber.Ctx) error {
	if int64(c.Request().Header.ContentLength()) > s.study.MaxUpload() {
		return study.ErrTooLarge
	}
	var body io.Reader = bytes.NewReader(c.BodyRaw())
	if c.Request().IsBodyStream() {
		body = c.Request().BodyStream()
	}
	a, err := s.study.Arrive(c.Context(), c.Query("name"), body)
	return s.sendArrival(c, fiber.StatusCreated, a, err)
}

func (s *server) lookAgain(c fiber.Ctx) error {
	var in settingsDTO
	if err := decode(c, &in); err != nil {
		return err
	}
	a, err := s.study.Look(c.Context(), c.Params("arrival"), in.settings())
	return s.sendArrival(c, fiber.StatusOK, a, err)
}

func (s *server) discardArrival(c fiber.Ctx) error {
	s.study.Discard(c.Params("arrival"))
	return c.SendStatus(fiber.StatusNoContent)
}
