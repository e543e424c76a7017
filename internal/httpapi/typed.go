package httpapi

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/resultjson"
	"widetally/internal/said"
)

// computeAnalysis asks a spec of counts that come with it. What cannot be asked yet is
// answered with its problems, so that a form can be filled in bit by bit.
func (s *server) computeAnalysis(c fiber.Ctx) error {
	var in struct {
		Spec   json.RawMessage `json:"spec"`
		Counts analysis.Typed  `json:"counts"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	spec, err := s.specOf(in.Spec)
	if err != nil {
		return err
	}
	out, err := s.computed(c.Context(), spec, in.Counts)
	if err != nil {
		return err
	}
	return c.JSON(out)
}

type computedAnalysisDTO struct {
	Spec        analysis.Spec    `json:"spec"`
	Problems    []specProblemDTO `json:"problems"`
	Statement   string           `json:"statement"`
	LevelText   string           `json:"levelText"`
	Input       json.RawMessage  `json:"input"`
	Assumptions []assumptionDTO  `json:"assumptions"`
	Result      json.RawMessage  `json:"result"`
	Document    *said.Document   `json:"document"`
	// Keepable says whether a study can be made of it.
	Keepable bool `json:"keepable"`
}

// computed asks a spec of counts.
func (s *server) computed(ctx context.Context, spec analysis.Spec, counts analysis.Typed) (*computedAnalysisDTO, error) {
	o, problems, err := s.Claims.Compute(ctx, spec, counts)
	if err != nil {
		return nil, err
	}
	out := &computedAnalysisDTO{Spec: spec, Problems: s.toProblems(problems), Assumptions: []assumptionDTO{}, Keepable: s.QuickChecks.Keepable(spec, counts)}
	if o == nil {
		return out, nil
	}
	m, _ := s.Methods().Find(spec.Method)
	assumed := m.Assumed(o.Counted != nil && o.Counted.Designed())
	for i, a := range assumed {
		if a == analysis.DesignTold && counts.DesignEffect > 0 {
			assumed[i] = analysis.EffectTold
		}
	}
	out.Assumptions = s.assumptions(assumed)
	var refused *infer.InputError
	if errors.As(o.Refusal, &refused) {
		return nil, &fieldError{m.Field(refused.Reason), o.Refusal}
	}
	about := claim.About{Units: document.Text(counts.Units)}
	if counts.Units == "" {
		about.Units = document.Term("claim.respondents")
	}
	doc := o.Document(about)
	out.Document, out.Statement = said.Of(&doc, s.words), s.say(spec.Settings.Statement(o.Counted.Questions, about))
	if level := spec.Settings.SignificanceLevel(); level > 0 {
		out.LevelText = s.words.Level(level)
	}
	if o.Request != nil {
		if out.Input, err = resultjson.Encode(o.Request); err != nil {
			return nil, err
		}
	}
	if o.Result != nil {
		out.Result, err = resultjson.Encode(o.Result)
	}
	return out, err
}

// keepTyped makes a study of typed counts, with what was asked of them.
func (s *server) keepTyped(c fiber.Ctx) error {
	var in struct {
		Name   string          `json:"name"`
		Spec   json.RawMessage `json:"spec"`
		Counts analysis.Typed  `json:"counts"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	spec, err := s.specOf(in.Spec)
	if err != nil {
		return err
	}
	st, err := s.QuickChecks.KeepTyped(c.Context(), in.Name, spec, in.Counts)
	return s.sendStudy(c, fiber.StatusCreated, st, err)
}
