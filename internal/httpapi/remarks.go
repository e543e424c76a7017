package httpapi

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
)

func (s *server) remarkRoutes(r fiber.Router) {
	r.Get("/studies/:study/remarks", s.to((*server).listRemarks))
	r.Post("/studies/:study/remarks", s.to((*server).writeRemark))
	r.Put("/studies/:study/remarks/:remark", s.to((*server).resolveRemark))
	r.Delete("/studies/:study/remarks/:remark", s.to((*server).deleteRemark))
}

// remarkDTO is a remark, or an answer to one.
type remarkDTO struct {
	ID     uint64    `json:"id"`
	Author string    `json:"author"`
	Mine   bool      `json:"mine"`
	At     time.Time `json:"at"`
	Text   string    `json:"text"`
}

// threadDTO is a remark with its answers.
type threadDTO struct {
	remarkDTO
	Question uint64 `json:"question"`
	// Analysis is 0 for one beside the question itself.
	Analysis uint64 `json:"analysis"`
	// Resolved is who settled it; "" while it is open.
	Resolved string      `json:"resolved"`
	Answers  []remarkDTO `json:"answers"`
}

func (s *server) listRemarks(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendRemarks(c, fiber.StatusOK, n)
}

func (s *server) sendRemarks(c fiber.Ctx, status int, studyID uint64) error {
	all, err := s.Remarks.Of(c.Context(), studyID)
	if err != nil {
		return err
	}
	me := study.ActorOf(c.Context()).ID
	out := struct {
		Threads []threadDTO `json:"threads"`
	}{[]threadDTO{}}
	at := map[uint64]int{}
	for _, r := range all {
		one := remarkDTO{r.ID, s.authorOf(r.Author), r.Author == me, r.At, r.Text}
		if r.To == 0 {
			t := threadDTO{remarkDTO: one, Question: r.QuestionID, Analysis: r.AnalysisID, Answers: []remarkDTO{}}
			if r.ResolvedAt != nil {
				t.Resolved = s.authorOf(r.ResolvedBy)
			}
			at[r.ID] = len(out.Threads)
			out.Threads = append(out.Threads, t)
		} else if i, there := at[r.To]; there {
			out.Threads[i].Answers = append(out.Threads[i].Answers, one)
		}
	}
	return c.Status(status).JSON(out)
}

func (s *server) writeRemark(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Question uint64 `json:"question"`
		Analysis uint64 `json:"analysis"`
		// To is the remark that it answers; then it stands where that does.
		To   uint64 `json:"to"`
		Text string `json:"text"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if _, err := s.Remarks.Write(c.Context(), study.Remark{StudyID: n, QuestionID: in.Question, AnalysisID: in.Analysis, To: in.To, Text: in.Text}); err != nil {
		return err
	}
	return s.sendRemarks(c, fiber.StatusCreated, n)
}

func (s *server) resolveRemark(c fiber.Ctx) error {
	n, remark, err := ids(c, "remark")
	if err != nil {
		return err
	}
	var in struct {
		Resolved bool `json:"resolved"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Remarks.Resolve(c.Context(), n, remark, in.Resolved); err != nil {
		return err
	}
	return s.sendRemarks(c, fiber.StatusOK, n)
}

func (s *server) deleteRemark(c fiber.Ctx) error {
	n, remark, err := ids(c, "remark")
	if err != nil {
		return err
	}
	if err := s.Remarks.Delete(c.Context(), n, remark); err != nil {
		return err
	}
	return s.sendRemarks(c, fiber.StatusOK, n)
}
