package httpapi

import (
	"github.com/gofiber/fiber/v3"

	"widetally/core/disclosure"
)

func (s *server) disclosureRoutes(r fiber.Router) {
	r.Get("/studies/:study/disclosure", s.to((*server).getDisclosure))
	r.Put("/studies/:study/disclosure", s.to((*server).putDisclosure))
	r.Get("/studies/:study/microdata", s.to((*server).getMicrodata))
	r.Get("/studies/:study/microdata/file", s.to((*server).microdataFile))
}

func (s *server) getDisclosure(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendDisclosure(c, n)
}

func (s *server) sendDisclosure(c fiber.Ctx, studyID uint64) error {
	v, err := s.Reports.Disclosure(c.Context(), studyID)
	if err != nil {
		return err
	}
	return c.JSON(struct {
		Rule    disclosure.Rule `json:"rule"`
		Version int             `json:"version"`
		Said    []string        `json:"said"`
	}{v.Rule, v.Version, s.words.SayAll(v.Rule.Said())})
}

func (s *server) putDisclosure(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in disclosure.Rule
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Reports.EditDisclosure(c.Context(), n, ver, in); err != nil {
		return err
	}
	return s.sendDisclosure(c, n)
}
