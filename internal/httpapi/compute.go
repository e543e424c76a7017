package httpapi

import (
	"encoding/json"
	"errors"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/api"
	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/resultjson"
	"widetally/internal/help"
	"widetally/internal/reporting"
)

// heavyAtOnce bounds the requests that may each keep the processors busy for seconds; the
// others wait their turn within their own time.
const heavyAtOnce = 2

func (s *server) computeRoutes(api fiber.Router) {
	api.Get("/compute", s.to((*server).computeDescription))
	api.Get("/help", s.to((*server).getHelp))
	api.Get("/guide", s.to((*server).getGuide))
	api.Get("/guide/pictures/:picture", s.to((*server).guidePicture))
	var known []string
	for _, f := range s.Methods().All() {
		known = append(known, f.Name)
		api.Post("/compute/"+f.Name, func(c fiber.Ctx) error { return s.in(c).compute(c, f) })
	}
	api.Post("/compute/*", func(c fiber.Ctx) error {
		return &refusal{status: fiber.StatusNotFound, code: "unknown_family", values: map[string]string{"text": c.Params("*"), "list": strings.Join(known, ", ")}}
	})
}

// computeDescription answers with the OpenAPI description of the compute routes.
func (s *server) computeDescription(c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSONCharsetUTF8)
	return c.Send(api.Compute)
}

type computedDTO struct {
	Method string `json:"method"`
	// Input is the request as it was understood, defaults filled in.
	Input       json.RawMessage `json:"input"`
	Assumptions []assumptionDTO `json:"assumptions"`
	Result      json.RawMessage `json:"result"`
}

type assumptionDTO struct {
	Code analysis.Assumption `json:"code"`
	Text string              `json:"text"`
}

// fieldError is a refusal of the core with the member of the request that it is about.
type fieldError struct {
	field string
	err   error
}

func (e *fieldError) Error() string { return e.err.Error() }
func (e *fieldError) Unwrap() error { return e.err }

// assumptions are what is taken for granted, in words.
func (s *server) assumptions(list []analysis.Assumption) []assumptionDTO {
	out := []assumptionDTO{}
	for _, a := range list {
		out = append(out, assumptionDTO{a, s.words.Text("assumption."+string(a), nil)})
	}
	return out
}

func (s *server) compute(c fiber.Ctx, f analysis.Method) error {
	in := f.New()
	if err := s.decode(c, in); err != nil {
		return err
	}
	ctx := c.Context()
	if f.Heavy(in) {
		if err := s.heavy.Acquire(ctx, 1); err != nil {
			return err
		}
		defer s.heavy.Release(1)
	}
	out, err := f.Run(ctx, in)
	var refused *infer.InputError
	if errors.As(err, &refused) {
		return &fieldError{f.Field(refused.Reason), err}
	}
	if err != nil {
		return err
	}
	d := computedDTO{Method: f.Name, Assumptions: s.assumptions(f.Assumes)}
	if d.Input, err = resultjson.Encode(in); err != nil {
		return err
	}
	if d.Result, err = resultjson.Encode(out); err != nil {
		return err
	}
	return c.JSON(d)
}

// getHelp answers with the short explanations of figures and kinds of claims.
func (s *server) getHelp(c fiber.Ctx) error {
	return c.JSON(struct {
		Topics []help.Topic `json:"topics"`
	}{reporting.Topics()})
}
