package httpapi

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/claim"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/internal/store"
	"widetally/internal/study"
	"widetally/internal/words"
)

func (s *server) claimRoutes(r fiber.Router) {
	r.Post("/studies/:study/questions/:question/shares", s.checkShares)
	r.Post("/studies/:study/questions/:question/claims", s.stateClaim)
	r.Put("/studies/:study/claims/:claim", s.editClaim)
	r.Delete("/studies/:study/claims/:claim", s.deleteClaim)
	r.Post("/studies/:study/claims/:claim/run", s.runClaim)
	r.Post("/studies/:study/claims/:claim/restore", s.restoreClaim)
}

type figureDTO struct {
	Slot   survey.Slot `json:"slot"`
	Figure string      `json:"figure"`
}

func figuresBySlot(list []figureDTO) map[survey.Slot]string {
	m := map[survey.Slot]string{}
	for _, f := range list {
		m[f.Slot] = f.Figure
	}
	return m
}

type statementDTO struct {
	Role          claim.Role          `json:"role"`
	Level         float64             `json:"level"`
	Mode          shares.Mode         `json:"mode"`
	Rescale       bool                `json:"rescale"`
	ReferenceKind claim.ReferenceKind `json:"referenceKind"`
	Source        string              `json:"source"`
	SourceDate    string              `json:"sourceDate"`
	Figures       []figureDTO         `json:"figures"`
	SubgroupID    *uint64             `json:"subgroupId"`
}

func (d statementDTO) statement() study.Statement {
	return study.Statement{Role: d.Role, Level: d.Level, Mode: d.Mode, Rescale: d.Rescale, Kind: d.ReferenceKind, Source: d.Source, SourceDate: d.SourceDate, Figures: figuresBySlot(d.Figures), SubgroupID: d.SubgroupID}
}

type changeDTO struct {
	Text string `json:"text"`
	// At is nil for what was found by comparing with the first run.
	At       *time.Time `json:"at"`
	AfterRun bool       `json:"afterRun"`
}

type claimDTO struct {
	ID      uint64 `json:"id"`
	Number  int    `json:"number"`
	Version int    `json:"version"`
	statementDTO
	LevelText  string            `json:"levelText"`
	Statement  string            `json:"statement"`
	StatedAt   time.Time         `json:"statedAt"`
	FirstRunAt *time.Time        `json:"firstRunAt"`
	Timing     string            `json:"timing"`
	Changes    []changeDTO       `json:"changes"`
	Problems   []string          `json:"problems"`
	Result     *goodnessOfFitDTO `json:"result"`
	Refusal    *string           `json:"refusal"`
}

func (s *server) toClaim(c study.ClaimView, v *study.QuestionView) claimDTO {
	w := s.study.Words()
	d := claimDTO{ID: c.ID, Number: c.Number, Version: c.Version, LevelText: words.Level(c.Level), StatedAt: c.StatedAt, FirstRunAt: c.FirstRunAt,
		statementDTO: statementDTO{Role: c.Role, Level: c.Level, Mode: c.Mode, Rescale: c.Rescale, ReferenceKind: c.Kind, Source: c.Source, SourceDate: c.SourceDate, Figures: []figureDTO{}, SubgroupID: c.SubgroupID},
		Changes:      []changeDTO{}, Problems: []string{}}
	d.Statement = s.statementOf(c.Claim, c.Units)
	d.Timing = "before"
	if c.FirstRunAt == nil {
		d.Timing = "open"
	}
	names := make([]shares.Name, len(c.Slots))
	byAnswer := map[survey.Slot]survey.Answer{}
	for _, a := range v.Answers {
		byAnswer[a.Slot] = a
	}
	for i, slot := range c.Slots {
		names[i].Label = byAnswer[slot].Label
		if c.Mode != shares.Equal {
			d.Figures = append(d.Figures, figureDTO{slot, c.Figures[slot]})
		}
	}
	for _, change := range c.Changes {
		if change.AfterRun {
			d.Timing = "changed"
		}
		d.Changes = append(d.Changes, changeDTO{s.changeText(change), &change.At, change.AfterRun})
	}
	for _, differs := range c.Differs {
		d.Timing = "changed"
		if differs != study.ClaimDiffers { // what was changed in the claim itself is listed above
			d.Changes = append(d.Changes, changeDTO{Text: w.Text("claim.differs."+string(differs), nil), AfterRun: true})
		}
	}
	if c.Damaged != nil {
		d.Problems = append(d.Problems, s.toDamage(0, c.Damaged).Text)
	}
	for _, p := range c.Aligned.Problems {
		d.Problems = append(d.Problems, w.Text("problem."+study.ProblemCode(c.Aligned, p), study.ProblemValues(c.Aligned, names, p)))
	}
	if c.Refusal != nil {
		values := map[string]string{}
		if c.Refusal.Index >= 0 {
			values["answer"] = names[c.Refusal.Index].Label
		}
		text := w.Text("problem.gof."+string(c.Refusal.Reason), values)
		d.Refusal = &text
	}
	if c.Result != nil {
		d.Result = s.toGoodnessOfFit(c, names)
		if d.Timing == "changed" {
			d.Result.Notes = append([]noteDTO{{Place: string(claim.BesideReading), Text: w.Text("note.claim.changed_after", nil), Caution: true}}, d.Result.Notes...)
		}
	}
	return d
}

// statementOf is what a claim says.
func (s *server) statementOf(c store.Claim, units string) string {
	id := "claim.statement." + string(c.Role)
	if c.Mode == shares.Equal {
		id += "_equal"
	}
	return s.study.Words().Text(id, map[string]string{"units": units, "source": c.Source})
}

func (s *server) changeText(c store.Change) string {
	return s.study.Words().Text("claim.change."+c.Field, map[string]string{"old": c.Old, "new": c.New})
}

func (s *server) checkShares(c fiber.Ctx) error {
	studyID, question, err := ids(c, "question")
	if err != nil {
		return err
	}
	var in struct {
		Mode    shares.Mode `json:"mode"`
		Rescale bool        `json:"rescale"`
		Figures []figureDTO `json:"figures"`
		Pasted  string      `json:"pasted"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	check, err := s.study.CheckShares(c.Context(), studyID, question, in.Mode, in.Rescale, figuresBySlot(in.Figures), in.Pasted)
	if err != nil {
		return err
	}
	return c.JSON(s.toSharesCheck(check))
}

func (s *server) stateClaim(c fiber.Ctx) error {
	studyID, question, err := ids(c, "question")
	if err != nil {
		return err
	}
	var in struct {
		statementDTO
		// Run asks for the test to be run at once.
		Run bool `json:"run"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	id, err := s.study.State(c.Context(), studyID, question, in.statement(), in.Run)
	if err != nil {
		return err
	}
	of, err := among(c)
	if err != nil {
		return err
	}
	v, err := s.study.Question(c.Context(), studyID, question, of)
	if err != nil {
		return err
	}
	etag(c, v.Version)
	return c.Status(fiber.StatusCreated).JSON(struct {
		ClaimID  uint64      `json:"claimId"`
		Question questionDTO `json:"question"`
	}{id, s.toQuestion(v)})
}

func (s *server) editClaim(c fiber.Ctx) error {
	studyID, n, err := ids(c, "claim")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in statementDTO
	if err := s.decode(c, &in); err != nil {
		return err
	}
	question, err := s.study.EditClaim(c.Context(), studyID, n, ver, in.statement())
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

func (s *server) deleteClaim(c fiber.Ctx) error {
	studyID, n, err := ids(c, "claim")
	if err != nil {
		return err
	}
	if err := s.study.DeleteClaim(c.Context(), studyID, n); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) runClaim(c fiber.Ctx) error {
	studyID, n, err := ids(c, "claim")
	if err != nil {
		return err
	}
	question, err := s.study.RunClaim(c.Context(), studyID, n)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

func (s *server) restoreClaim(c fiber.Ctx) error {
	studyID, n, err := ids(c, "claim")
	if err != nil {
		return err
	}
	question, err := s.study.RestoreClaim(c.Context(), studyID, n)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}
