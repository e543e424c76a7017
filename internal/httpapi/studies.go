package httpapi

import (
	"encoding/json"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
	"widetally/internal/intake"
	"widetally/internal/service"
)

func (s *server) studyRoutes(r fiber.Router) {
	r.Get("/studies", s.to((*server).listStudies))
	r.Post("/studies", s.to((*server).createStudy))
	r.Post("/studies/open", s.to((*server).openStudy))
	r.Get("/studies/:study", s.to((*server).getStudy))
	r.Get("/studies/:study/file", s.to((*server).studyFile))
	r.Get("/studies/:study/recipe", s.to((*server).studyRecipe))
	r.Patch("/studies/:study", s.to((*server).editStudy))
	r.Delete("/studies/:study", s.to((*server).deleteStudy))
	r.Post("/studies/:study/restore", s.to((*server).restoreStudy))
}

type studyDTO struct {
	ID            uint64    `json:"id"`
	Name          string    `json:"name"`
	Units         string    `json:"units"`
	Decimals      int       `json:"decimals"`
	Rows          int64     `json:"rows"`
	CountQuestion *uint64   `json:"countQuestion"`
	Questions     *int      `json:"questions,omitempty"`
	Claims        *int      `json:"claims,omitempty"`
	CreatedAt     time.Time `json:"createdAt"`
	UpdatedAt     time.Time `json:"updatedAt"`
	Version       int       `json:"version"`
	// Expected are shares that came beside the counts, once, when the study is made.
	Expected *expectedDTO `json:"expected,omitempty"`
}

// expectedDTO are shares for a question, as settings of the comparison with them.
type expectedDTO struct {
	Question uint64          `json:"question"`
	Method   string          `json:"method"`
	Settings json.RawMessage `json:"settings"`
}

func toStudy(st study.Study) studyDTO {
	return studyDTO{ID: st.ID, Name: st.Name, Units: st.Units, Decimals: st.Decimals, Rows: st.Rows, CountQuestion: st.CountQuestion, CreatedAt: st.CreatedAt, UpdatedAt: st.UpdatedAt, Version: st.Version}
}

func (s *server) sendStudy(c fiber.Ctx, status int, st study.Study, err error) error {
	if err != nil {
		return err
	}
	etag(c, st.Version)
	return c.Status(status).JSON(toStudy(st))
}

func (s *server) listStudies(c fiber.Ctx) error {
	list, err := s.Studies.List(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Studies []studyDTO `json:"studies"`
	}{make([]studyDTO, len(list))}
	for i, st := range list {
		out.Studies[i] = toStudy(st)
		out.Studies[i].Questions, out.Studies[i].Claims = &list[i].Questions, &list[i].Claims
	}
	return c.JSON(out)
}

func (s *server) createStudy(c fiber.Ctx) error {
	var in struct {
		ArrivalID string      `json:"arrivalId"`
		Settings  settingsDTO `json:"settings"`
		Name      string      `json:"name"`
		Units     string      `json:"units"`
		Columns   []choiceDTO `json:"columns"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	var expected service.ExpectedOf
	st, err := s.Studies.Create(c.Context(), service.NewStudy{ArrivalID: in.ArrivalID, Settings: intake.Settings(in.Settings), Name: in.Name, Units: in.Units, Choices: toChoices(in.Columns), Expected: &expected})
	if err != nil {
		return err
	}
	etag(c, st.Version)
	out := toStudy(st)
	if expected.Question != 0 {
		out.Expected = &expectedDTO{expected.Question, expected.Method, expected.Settings}
	}
	return c.Status(fiber.StatusCreated).JSON(out)
}

// openStudy makes of a study file that arrived the study that it was.
func (s *server) openStudy(c fiber.Ctx) error {
	var in struct {
		ArrivalID string `json:"arrivalId"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	st, err := s.StudyFiles.Open(c.Context(), in.ArrivalID)
	return s.sendStudy(c, fiber.StatusCreated, st, err)
}

// studyFile answers with a whole study as one file.
func (s *server) studyFile(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	name, err := s.nameOf(c, n, "study", "zip")
	if err != nil {
		return err
	}
	told, end := s.writing(c)
	defer end()
	f, err := s.StudyFiles.StudyFile(c.Context(), n, told)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "application/zip")
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

// studyRecipe answers with the recipe of a study, which runs on a file of the same columns.
func (s *server) studyRecipe(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	name, err := s.nameOf(c, n, "recipe", "yaml")
	if err != nil {
		return err
	}
	f, err := s.StudyFiles.RecipeFile(c.Context(), n)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "application/yaml; charset=utf-8")
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

func (s *server) getStudy(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	st, err := s.Studies.Get(c.Context(), n)
	return s.sendStudy(c, fiber.StatusOK, st, err)
}

func (s *server) editStudy(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	v, err := version(c)
	if err != nil {
		return err
	}
	var in struct {
		Name     *string `json:"name"`
		Units    *string `json:"units"`
		Decimals *int    `json:"decimals"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	st, err := s.Studies.Edit(c.Context(), n, v, service.StudyEdit(in))
	return s.sendStudy(c, fiber.StatusOK, st, err)
}

func (s *server) deleteStudy(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	if err := s.Studies.Delete(c.Context(), n); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) restoreStudy(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	st, err := s.Studies.Restore(c.Context(), n)
	return s.sendStudy(c, fiber.StatusOK, st, err)
}
