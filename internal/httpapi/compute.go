package httpapi

import (
	"encoding/json"

	"github.com/gofiber/fiber/v3"

	"widetally/api"
	"widetally/internal/compute"
	"widetally/internal/wire"
)

// heavyAtOnce bounds the requests that may each keep the processors busy for seconds; the
// others wait their turn within their own time.
const heavyAtOnce = 2

func (s *server) computeRoutes(api fiber.Router) {
	api.Get("/compute", s.computeDescription)
	for _, f := range compute.Families {
		api.Post("/compute/"+f.Path, func(c fiber.Ctx) error { return s.compute(c, f) })
	}
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

func (s *server) compute(c fiber.Ctx, f compute.Family) error {
	in := f.New()
	if err := s.decode(c, in); err != nil {
		return err
	}
	ctx := c.Context()
	if f.Heavy {
		select {
		case s.heavy <- struct{}{}:
			defer func() { <-s.heavy }()
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	out, err := f.Run(ctx, in)
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
