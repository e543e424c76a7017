package httpapi

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/internal/service"
)

// quickBody is what somebody typed who has no study, and what is asked of it.
type quickBody struct {
	Method   string         `json:"method"`
	Settings map[string]any `json:"settings"`
	analysis.Quick
}

// quickDTO is what comes of it.
type quickDTO struct {
	// Needs says what still lacks, Slip why the numbers cannot all be true; "" for neither.
	Needs    string               `json:"needs"`
	Slip     string               `json:"slip"`
	Computed *computedAnalysisDTO `json:"computed"`
}

// quick asks a method of numbers as they are typed.
func (s *server) quick(c fiber.Ctx) error {
	var in quickBody
	if err := s.decode(c, &in); err != nil {
		return err
	}
	spec, counts, err := s.quickSpec(in)
	var slip *analysis.SlipError
	switch {
	case errors.Is(err, analysis.ErrNotYet):
		m, _ := s.Methods().Find(in.Method)
		return c.JSON(quickDTO{Needs: s.words.Text("quick.needs."+string(m.Asked.Quick), nil)})
	case errors.As(err, &slip):
		return c.JSON(quickDTO{Slip: s.say(slip.Message)})
	case err != nil:
		return err
	}
	out, err := s.computed(c.Context(), spec, counts)
	if err != nil {
		return err
	}
	return c.JSON(quickDTO{Computed: out})
}

// keepQuick makes a study of numbers as they are typed, with what was asked of them.
func (s *server) keepQuick(c fiber.Ctx) error {
	var in struct {
		Name string `json:"name"`
		quickBody
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	spec, counts, err := s.quickSpec(in.quickBody)
	var slip *analysis.SlipError
	if errors.Is(err, analysis.ErrNotYet) || errors.As(err, &slip) {
		return &service.InvalidError{Code: "keep.cannot", Field: "/counts"}
	}
	if err != nil {
		return err
	}
	st, err := s.QuickChecks.KeepTyped(c.Context(), in.Name, spec, counts)
	return s.sendStudy(c, fiber.StatusCreated, st, err)
}

// quickSpec makes of what was typed a spec and its counts.
func (s *server) quickSpec(in quickBody) (spec analysis.Spec, counts analysis.Typed, err error) {
	m, ok := s.Methods().Find(in.Method)
	if !ok || m.Asked == nil || m.Asked.Quick == "" {
		return spec, counts, analysis.Refused("spec.method", "/method", document.Values{"text": document.Text(in.Method)})
	}
	w := s.words
	name := func(id string) string { return w.Text("ui.quick."+id, nil) }
	asked, err := in.Quick.Asked(m.Asked, analysis.QuickNames{Yes: name("yes"), No: name("no_label"), NotSo: name("not_so"), First: name("first_group"), Second: name("second_group"),
		Question: name("the_question"), Groups: name("the_groups"), Layers: name("the_layers")})
	if err != nil {
		return spec, counts, err
	}
	raw, err := json.Marshal(map[string]any{"method": m.Name, "version": m.Asked.Version, "questions": asked.Keys, "settings": merged(in.Settings, asked.Settings)})
	if err != nil {
		return spec, counts, fmt.Errorf("httpapi: %w", err)
	}
	spec, err = s.Methods().Spec(raw)
	return spec, asked.Counts, err
}

// merged puts members into an object, those of objects within it too.
func merged(into, from map[string]any) map[string]any {
	out := maps.Clone(into)
	if out == nil {
		out = map[string]any{}
	}
	for name, value := range from {
		within, is := value.(map[string]any)
		if before, was := out[name].(map[string]any); is && was {
			out[name] = merged(before, within)
			continue
		}
		out[name] = value
	}
	return out
}
