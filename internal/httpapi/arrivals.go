package httpapi

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
	"widetally/internal/service"
)

func (s *server) arrivalRoutes(r fiber.Router) {
	r.Get("/limits", s.to((*server).getLimits))
	r.Post("/arrivals", s.to((*server).arrive))
	r.Post("/arrivals/:arrival/files", s.to((*server).addFile))
	r.Post("/arrivals/:arrival/look", s.to((*server).look))
	r.Get("/arrivals/:arrival/progress", s.to((*server).watchArrival))
	r.Delete("/arrivals/:arrival", s.to((*server).discardArrival))
}

type settingsDTO struct {
	Format       intake.Format   `json:"format"`
	Encoding     intake.Encoding `json:"encoding"`
	Delimiter    string          `json:"delimiter"`
	Part         string          `json:"part"`
	HeaderRow    int             `json:"headerRow"`
	PadShort     bool            `json:"padShort"`
	FixNames     bool            `json:"fixNames"`
	HeaderSaid   bool            `json:"headerSaid"`
	OneLine      bool            `json:"oneLine"`
	LastRow      intake.LastRow  `json:"lastRow"`
	Missing      []string        `json:"missing,omitempty"`
	BlankIsZero  bool            `json:"blankIsZero"`
	Shape        intake.Shape    `json:"shape"`
	CountColumn  string          `json:"countColumn"`
	SharesColumn string          `json:"sharesColumn,omitempty"`
	Second       intake.Second   `json:"second"`
	UpTo         intake.UpTo     `json:"upTo"`
	OpenFrom     *float64        `json:"openFrom"`
	OpenTo       *float64        `json:"openTo"`
}

type choiceDTO struct {
	Name    string            `json:"name"`
	Kind    *survey.Kind      `json:"kind"`
	Skip    bool              `json:"skip"`
	Missing map[string]string `json:"missing"`
	SameAs  map[string]string `json:"sameAs"`
	Add     []string          `json:"add"`
}

func toChoices(list []choiceDTO) []service.ColumnChoice {
	out := make([]service.ColumnChoice, len(list))
	for i, c := range list {
		out[i] = service.ColumnChoice(c)
	}
	return out
}

type intakeProblemDTO struct {
	Code   string `json:"code"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Text   string `json:"text"`
	// Remedies name the settings that cure it.
	Remedies []string `json:"remedies"`
}

type offerDTO struct {
	Shape        intake.Shape `json:"shape"`
	CountColumn  string       `json:"countColumn"`
	SharesColumn string       `json:"sharesColumn"`
	Text         string       `json:"text"`
}

type previewDTO struct {
	Names    []string           `json:"names"`
	Rows     int                `json:"rows"`
	First    [][]string         `json:"first"`
	Problems []intakeProblemDTO `json:"problems"`
	Ragged   int                `json:"ragged"`
	Padded   int                `json:"padded"`
	Left     []string           `json:"left"`
	Offers   []offerDTO         `json:"offers"`
	Check    *checkDTO          `json:"check"`
}

type arrivalDTO struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	Size     int64             `json:"size"`
	Settings settingsDTO       `json:"settings"`
	Parts    []string          `json:"parts"`
	Preview  *previewDTO       `json:"preview"`
	Problem  *intakeProblemDTO `json:"problem"`
	// Packed is the study that the file holds; null for a file of answers alone.
	Packed *packedDTO `json:"packed"`
}

// packedDTO tells of a study in a file; Problem says why it cannot be opened, "" where it can.
type packedDTO struct {
	Name      string `json:"name"`
	Units     string `json:"units"`
	Rows      int64  `json:"rows"`
	Questions int    `json:"questions"`
	Claims    int    `json:"claims"`
	Problem   string `json:"problem"`
}

func (s *server) packed(ctx context.Context, arrivalID string) (*packedDTO, error) {
	found, err := s.StudyFiles.PackedIn(ctx, arrivalID)
	var refused *service.InvalidError
	switch {
	case errors.As(err, &refused):
		return &packedDTO{Problem: s.say(refused.Message())}, nil
	case err != nil || found == nil:
		return nil, err
	}
	return &packedDTO{found.Name, found.Units, found.Rows, found.Questions, found.Claims, ""}, nil
}

// remedies name the settings that cure a problem; of several, one is to be chosen.
var remedies = map[intake.Code][]string{intake.ShortLine: {"padShort"}, intake.EmptyName: {"fixNames"}, intake.DuplicateName: {"fixNames"}, intake.NotUTF8: {"windows1252"},
	intake.AskHeader: {"firstIsName", "firstIsAnswer"}, intake.AskNames: {"lineIsNames", "lineIsAnswers"}, intake.AskTotal: {"lastIsTotal", "lastIsRespondent"}, intake.BlankCount: {"blankIsZero"}}

func (s *server) toIntakeProblem(p intake.Problem) intakeProblemDTO {
	return intakeProblemDTO{Code: string(p.Code), Line: p.Line, Column: p.Column, Text: s.words.Text("problem.intake."+string(p.Code), intakeValues(&p)), Remedies: append([]string{}, remedies[p.Code]...)}
}

func (s *server) toOffer(o intake.Offer) offerDTO {
	id := "offer." + string(o.Shape)
	switch {
	case o.SharesColumn != "":
		id += "_shares"
	case o.Bare:
		id += "_bare"
	}
	return offerDTO{o.Shape, o.CountColumn, o.SharesColumn, s.words.Text(id, map[string]string{"column": o.CountColumn, "shares": o.SharesColumn})}
}

func (s *server) sendArrival(c fiber.Ctx, status int, a *service.Arrival, err error) error {
	if err != nil {
		return err
	}
	d := arrivalDTO{ID: a.ID, Name: a.Name, Size: a.Size, Settings: settingsDTO(a.Settings), Parts: []string{}}
	if a.Settings.Format == intake.DataPackage {
		if d.Packed, err = s.packed(c.Context(), a.ID); err != nil {
			return err
		}
	}
	if a.Problem != nil {
		p := s.toIntakeProblem(*a.Problem)
		d.Problem = &p
	}
	if t := a.Table; t != nil {
		d.Parts = append(d.Parts, t.Parts...)
		d.Preview = &previewDTO{Names: t.Names, Rows: t.Rows, First: append([][]string{}, t.First...), Ragged: t.Ragged, Padded: t.Padded, Left: append([]string{}, t.Left...),
			Problems: []intakeProblemDTO{}, Offers: []offerDTO{}}
		for _, p := range t.Problems {
			d.Preview.Problems = append(d.Preview.Problems, s.toIntakeProblem(p))
		}
		for _, o := range t.Offers {
			d.Preview.Offers = append(d.Preview.Offers, s.toOffer(o))
		}
		if a.Check != nil {
			d.Preview.Check = s.toCheck(a.Check)
		}
	}
	return c.Status(status).JSON(d)
}

func (s *server) getLimits(c fiber.Ctx) error {
	return c.JSON(struct {
		FileBytes int64 `json:"fileBytes"`
	}{s.Uploads.MaxUpload()})
}

// body is the request's file, refused before it is read when it says it is too large.
func (s *server) body(c fiber.Ctx) (io.Reader, error) {
	if int64(c.Request().Header.ContentLength()) > s.Uploads.MaxUpload() {
		return nil, arrivals.ErrTooLarge
	}
	if c.Request().IsBodyStream() {
		return s.upload(c), nil
	}
	return bytes.NewReader(c.BodyRaw()), nil
}

func (s *server) arrive(c fiber.Ctx) error {
	body, err := s.body(c)
	if err != nil {
		return err
	}
	a, err := s.Uploads.Arrive(c.Context(), c.Query("name"), body)
	return s.sendArrival(c, fiber.StatusCreated, a, err)
}

func (s *server) addFile(c fiber.Ctx) error {
	body, err := s.body(c)
	if err != nil {
		return err
	}
	a, err := s.Uploads.AddFile(c.Context(), c.Params("arrival"), c.Query("name"), body)
	return s.sendArrival(c, fiber.StatusOK, a, err)
}

func (s *server) look(c fiber.Ctx) error {
	var in struct {
		Settings settingsDTO `json:"settings"`
		Columns  []choiceDTO `json:"columns"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	a, err := s.Uploads.Look(c.Context(), c.Params("arrival"), intake.Settings(in.Settings), toChoices(in.Columns))
	return s.sendArrival(c, fiber.StatusOK, a, err)
}

// Watching an arrival: how often it is told how far work has come, and for how long.
const (
	watchEvery = 250 * time.Millisecond
	watchMost  = 20 * time.Minute
)

// watchArrival tells how far reading or keeping has come, as server-sent events, until
// the file has gone.
func (s *server) watchArrival(c fiber.Ctx) error {
	id := c.Params("arrival")
	c.Set(fiber.HeaderContentType, "text/event-stream")
	conn, ctx := c.RequestCtx().Conn(), context.WithoutCancel(c.Context())
	return c.SendStreamWriter(func(w *bufio.Writer) {
		for end := time.Now().Add(watchMost); time.Now().Before(end); time.Sleep(watchEvery) {
			p, err := s.Uploads.Progress(ctx, id)
			if err != nil && !errors.Is(err, study.ErrNotFound) {
				continue // the database is away for a moment
			}
			if err != nil {
				fmt.Fprint(w, "event: gone\ndata: {}\n\n")
				_ = w.Flush()
				return
			}
			raw, _ := json.Marshal(struct {
				Stage       arrivals.Stage `json:"stage"`
				Rows        int            `json:"rows"`
				Percent     float64        `json:"percent"`
				SecondsLeft float64        `json:"secondsLeft"`
			}{p.Stage, p.Rows, 100 * p.Done, p.Left.Seconds()})
			_ = conn.SetWriteDeadline(time.Now().Add(s.patience))
			if fmt.Fprintf(w, "data: %s\n\n", raw); w.Flush() != nil {
				return // nobody watches any more
			}
		}
	})
}

func (s *server) discardArrival(c fiber.Ctx) error {
	s.Uploads.Discard(c.Context(), c.Params("arrival"))
	return c.SendStatus(fiber.StatusNoContent)
}
