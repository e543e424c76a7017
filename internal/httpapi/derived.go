package httpapi

import (
	"context"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/service"
)

func (s *server) derivedRoutes(r fiber.Router) {
	r.Post("/studies/:study/questions", s.to((*server).addDerived))
	r.Put("/studies/:study/questions/:question/derivation", s.to((*server).editDerived))
	r.Delete("/studies/:study/questions/:question", s.to((*server).deleteQuestion))
	r.Get("/studies/:study/responses", s.to((*server).getResponses))
	r.Patch("/studies/:study/questions/:question/responses/:row", s.to((*server).correctCell))
}

type derivedDTO struct {
	Wording    string            `json:"wording"`
	Derivation survey.Derivation `json:"derivation"`
}

func (s *server) addDerived(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in derivedDTO
	if err := s.decode(c, &in); err != nil {
		return err
	}
	made, err := s.Codebooks.AddDerived(c.Context(), n, service.DerivedEdit(in))
	return s.sendQuestion(c, fiber.StatusCreated, n, made, err)
}

func (s *server) editDerived(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in derivedDTO
	if err := s.decode(c, &in); err != nil {
		return err
	}
	err = s.Codebooks.EditDerived(c.Context(), studyID, n, ver, service.DerivedEdit(in))
	return s.sendQuestion(c, fiber.StatusOK, studyID, n, err)
}

func (s *server) deleteQuestion(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	if err := s.Codebooks.DeleteQuestion(c.Context(), studyID, n, ver); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) getResponses(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	number := func(name string) (v int) {
		if text := c.Query(name); text != "" && err == nil {
			if v, err = strconv.Atoi(text); err != nil || v < 0 {
				v, err = 0, unknownQuery(name, text)
			}
		}
		return v
	}
	from, most, of := number("from"), number("most"), number("question")
	if labels := c.Query("labels"); labels != "" && labels != "0" && labels != "1" {
		err = unknownQuery("labels", labels)
	}
	if err != nil {
		return err
	}
	find := service.Find{QuestionID: uint64(of), Text: c.Query("text")}
	r, err := s.Answers.Responses(c.Context(), n, from, most, c.Query("labels") == "1", find)
	if err != nil {
		return err
	}
	if len(r.Lines) > 0 {
		if err := s.Trails.Looked(c.Context(), n, r.Lines[0].Number, r.Lines[len(r.Lines)-1].Number); err != nil {
			return err
		}
	}
	type line struct {
		Number  int64    `json:"number"`
		Cells   []string `json:"cells"`
		Missing []bool   `json:"missing"`
	}
	out := struct {
		Rows  int64  `json:"rows"`
		First int64  `json:"first"`
		Lines []line `json:"lines"`
		// Damaged are the questions whose answers cannot be read.
		Damaged []uint64 `json:"damaged"`
	}{r.Rows, r.First, make([]line, len(r.Lines)), append([]uint64{}, r.Damaged...)}
	for i, l := range r.Lines {
		out.Lines[i] = line(l)
	}
	return c.JSON(out)
}

func (s *server) correctCell(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	row, err := id(c, "row")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in struct {
		Text  string `json:"text"`
		IsNew bool   `json:"isNew"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	err = s.Answers.CorrectCell(c.Context(), studyID, n, ver, int64(row), in.Text, in.IsNew)
	return s.sendQuestion(c, fiber.StatusOK, studyID, n, err)
}

// step moves along a study's line of undo, past the edit that the person saw as the next
// one, and says what it did.
func (s *server) step(along func(ctx context.Context, studyID, editID uint64) (study.Edit, error)) fiber.Handler {
	return func(c fiber.Ctx) error {
		s := s.in(c)
		n, err := id(c, "study")
		if err != nil {
			return err
		}
		var in struct {
			EditID uint64 `json:"editId"`
		}
		if err := s.decode(c, &in); err != nil {
			return err
		}
		e, err := along(c.Context(), n, in.EditID)
		if errors.Is(err, study.ErrNotFound) {
			if _, gone := s.Studies.Get(c.Context(), n); gone == nil {
				return &refusal{status: fiber.StatusConflict, code: "nothing_to_undo"}
			}
		}
		if err != nil {
			return err
		}
		return c.JSON(s.toEdit(&e))
	}
}
