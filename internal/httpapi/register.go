package httpapi

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/internal/said"
	"widetally/internal/service"
)

// withdrawnDTO is a claim that was deleted, as the register shows it.
type withdrawnDTO struct {
	ID          uint64     `json:"id"`
	Number      int        `json:"number"`
	QuestionID  uint64     `json:"questionId"`
	Question    string     `json:"question"`
	Statement   string     `json:"statement"`
	LevelText   string     `json:"levelText"`
	StatedAt    time.Time  `json:"statedAt"`
	FirstRunAt  *time.Time `json:"firstRunAt"`
	WithdrawnAt time.Time  `json:"withdrawnAt"`
}

// claimDTO is a claim as the register shows it.
type claimDTO struct {
	ID         uint64        `json:"id"`
	Number     int           `json:"number"`
	Method     string        `json:"method"`
	Texts      string        `json:"texts"`
	Question   int           `json:"question"`
	Name       string        `json:"name"`
	Statement  string        `json:"statement"`
	LevelText  string        `json:"levelText"`
	Source     string        `json:"source"`
	StatedAt   time.Time     `json:"statedAt"`
	FirstRunAt *time.Time    `json:"firstRunAt"`
	Timing     string        `json:"timing"`
	Changes    []changeDTO   `json:"changes"`
	Problems   []string      `json:"problems"`
	Outcome    *said.Outcome `json:"outcome"`
	// State is open, rejected, kept, or failing where it has no result as things are.
	State string `json:"state"`
	// Adjusted is p for all claims together, and AdjustedState what it then comes to; "" for none.
	Adjusted      string `json:"adjusted"`
	AdjustedState string `json:"adjustedState"`
}

type registerQuestionDTO struct {
	ID      uint64 `json:"id"`
	Number  int    `json:"number"`
	Wording string `json:"wording"`
}

func stateOf(rejected bool) string {
	if rejected {
		return "rejected"
	}
	return "kept"
}

func (s *server) toClaim(row service.RegisterRow) claimDTO {
	shown := row.AnalysisView
	shown.Document = nil // the register shows what it comes to
	a := s.toAnalysis(shown)
	d := claimDTO{ID: a.ID, Number: row.Number, Method: row.Spec.Method, Question: row.Question.Number, Name: row.Question.Short, Statement: a.Statement, LevelText: a.LevelText, Source: a.Source,
		StatedAt: a.StatedAt, FirstRunAt: a.FirstRunAt, Timing: a.Timing, Changes: a.Changes, Problems: a.Problems, State: "open"}
	if d.Name == "" {
		d.Name = row.Question.Wording
	}
	if m, ok := s.Methods().Find(row.Spec.Method); ok {
		d.Texts = m.Asked.Texts
	}
	switch {
	case row.Document != nil && row.Document.Outcome != nil:
		o := row.Document.Outcome
		d.Outcome, d.State = &said.Outcome{Text: s.say(o.Text), P: s.words.Write(o.P)}, stateOf(o.Rejected)
	case row.FirstRunAt != nil:
		d.State = "failing"
	}
	if row.Adjusted != nil {
		d.Adjusted, d.AdjustedState = s.words.Write(document.P(document.PExact, row.Adjusted.P, row.Spec.Settings.SignificanceLevel())), stateOf(row.Adjusted.Rejected)
	}
	return d
}

// getRegister lists the claims of a study with what came out.
func (s *server) getRegister(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	r, err := s.Claims.Register(c.Context(), n)
	if err != nil {
		return err
	}
	out := struct {
		Study      studyDTO              `json:"study"`
		Questions  []registerQuestionDTO `json:"questions"`
		Claims     []claimDTO            `json:"claims"`
		Withdrawn  []withdrawnDTO        `json:"withdrawn"`
		TestsRun   int                   `json:"testsRun"`
		Adjustment analysis.Adjustment   `json:"adjustment"`
		ChosenAt   *time.Time            `json:"chosenAt"`
		Afterwards bool                  `json:"afterwards"`
	}{toStudy(r.Study), []registerQuestionDTO{}, []claimDTO{}, []withdrawnDTO{}, r.TestsRun, r.Adjustment, r.ChosenAt, r.Afterwards}
	wordings := map[uint64]string{}
	for _, q := range r.Questions {
		wordings[q.ID] = q.Wording
		out.Questions = append(out.Questions, registerQuestionDTO{q.ID, q.Number, q.Wording})
	}
	for _, row := range r.Claims {
		out.Claims = append(out.Claims, s.toClaim(row))
	}
	for _, w := range r.Withdrawn {
		out.Withdrawn = append(out.Withdrawn, withdrawnDTO{w.ID, w.Number, w.QuestionID, wordings[w.QuestionID], s.say(w.Statement), s.words.Level(w.Level), w.StatedAt, w.FirstRunAt, *w.WithdrawnAt})
	}
	return c.JSON(out)
}

// answerNote notes that a note beside an analysis has been seen.
func (s *server) answerNote(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	var in struct {
		ID     string `json:"id"`
		Seen   bool   `json:"seen"`
		Reason string `json:"reason,omitempty"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	question, err := s.Claims.AnswerNote(c.Context(), studyID, n, in.ID, in.Seen, in.Reason)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

// putAdjustment chooses how the claims of a study are adjusted for being many.
func (s *server) putAdjustment(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Adjustment analysis.Adjustment `json:"adjustment"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Claims.Adjust(c.Context(), n, in.Adjustment); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}
