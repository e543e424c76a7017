package httpapi

import (
	"encoding/json"
	"errors"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/api"
	"widetally/core/infer"
	"widetally/internal/compute"
	"widetally/internal/wire"
)

// heavyAtOnce bounds the requests that may each keep the processors busy for seconds; the
// others wait their turn within their own time.
const heavyAtOnce = 2

func (s *server) computeRoutes(api fiber.Router) {
	api.Get("/compute", s.computeDescription)
	var known []string
	for _, f := range compute.Families {
		known = append(known, f.Path)
		api.Post("/compute/"+f.Path, func(c fiber.Ctx) error { return s.compute(c, f) })
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
	Family string `json:"family"`
	// Input is the request as it was understood, defaults filled in.
	Input       json.RawMessage `json:"input"`
	Assumptions []assumptionDTO `json:"assumptions"`
	Result      json.RawMessage `json:"result"`
}

type assumptionDTO struct {
	Code compute.Assumption `json:"code"`
	Text string             `json:"text"`
}

// fieldError is a refusal of the core with the member of the request that it is about.
type fieldError struct {
	field string
	err   error
}

func (e *fieldError) Error() string { return e.err.Error() }
func (e *fieldError) Unwrap() error { return e.err }

func (s *server) compute(c fiber.Ctx, f compute.Family) error {
	in := f.New()
	if err := s.decode(c, in); err != nil {
		return err
	}
	ctx := c.Context()
	if f.Heavy(in) {
		select {
		case s.heavy <- struct{}{}:
			defer func() { <-s.heavy }()
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	out, err := f.Run(ctx, in)
	var refused *infer.InputError
	if errors.As(err, &refused) {
		return &fieldError{f.Field(refused.Reason), err}
	}
	if err != nil {
		return err
	}
	d := computedDTO{Family: f.Path, Assumptions: []assumptionDTO{}}
	for _, a := range f.Assumes {
		d.Assumptions = append(d.Assumptions, assumptionDTO{a, s.study.Words().Text("assumption."+string(a), nil)})
	}
	if d.Input, err = wire.Encode(in); err != nil {
		return err
	}
	if d.Result, err = wire.Encode(out); err != nil {
		return err
	}
	return c.JSON(d)
}
