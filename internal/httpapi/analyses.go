package httpapi

import (
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods"
	"widetally/internal/said"
	"widetally/internal/service"
)

func (s *server) analysisRoutes(r fiber.Router) {
	r.Get("/methods", s.to((*server).listMethods))
	r.Post("/analyses", s.to((*server).computeAnalysis))
	r.Post("/analyses/keep", s.to((*server).keepTyped))
	r.Post("/analyses/quick", s.to((*server).quick))
	r.Post("/analyses/quick/keep", s.to((*server).keepQuick))
	r.Post("/studies/:study/questions/:question/shares", s.to((*server).checkShares))
	r.Post("/studies/:study/analyses", s.to((*server).stateAnalysis))
	r.Put("/studies/:study/analyses/:analysis/notes", s.to((*server).answerNote))
	r.Get("/studies/:study/claims", s.to((*server).getRegister))
	r.Put("/studies/:study/claims/adjustment", s.to((*server).putAdjustment))
	r.Post("/studies/:study/analyses/check", s.to((*server).checkAnalysis))
	r.Put("/studies/:study/analyses/:analysis", s.to((*server).editAnalysis))
	r.Patch("/studies/:study/analyses/:analysis", s.to((*server).changeAnalysis))
	r.Delete("/studies/:study/analyses/:analysis", s.to((*server).withdrawAnalysis))
	r.Get("/studies/:study/analyses/:analysis/charts/:chart", s.to((*server).drawChart))
	r.Get("/studies/:study/analyses/:analysis/tables/:table", s.to((*server).analysisTable))
	r.Post("/studies/:study/analyses/:analysis/run", s.to((*server).runAnalysis))
	r.Post("/studies/:study/analyses/:analysis/restore", s.to((*server).restoreAnalysis))
}

type methodDTO struct {
	Name string `json:"name"`
	*analysis.Asked
	// Settings are those with which a form begins.
	Settings analysis.Settings `json:"settings"`
	// Rank is 0 for what is asked most.
	Rank        int              `json:"rank"`
	Purpose     analysis.Purpose `json:"purpose"`
	Assumptions []assumptionDTO  `json:"assumptions"`
}

type proposalDTO struct {
	methods.Proposal
	Why string `json:"why"`
}

// listMethods tells how each method is asked, so that a form can be made of it.
func (s *server) listMethods(c fiber.Ctx) error {
	out := struct {
		Methods []methodDTO `json:"methods"`
		// Proposals are the methods that serve each design; the first that can be asked is proposed.
		Proposals []proposalDTO `json:"proposals"`
	}{}
	for _, p := range methods.Proposals {
		m, _ := s.Methods().Find(p.Method)
		out.Proposals = append(out.Proposals, proposalDTO{p, s.words.Text("design.why."+m.Asked.Texts, nil)})
	}
	for _, m := range s.Methods().All() {
		if m.Asked != nil {
			settings := m.Asked.New()
			out.Methods = append(out.Methods, methodDTO{m.Name, m.Asked, settings, m.Asked.Rank(), m.Asked.Purpose(), s.assumptions(m.Assumes)})
		}
	}
	return c.JSON(out)
}

type changeDTO struct {
	Text string `json:"text"`
	// At is nil for what was found by comparing with the first run.
	At       *time.Time `json:"at"`
	AfterRun bool       `json:"afterRun"`
}

type specProblemDTO struct {
	Code    string       `json:"code"`
	Pointer string       `json:"pointer"`
	Text    string       `json:"text"`
	Doubt   bool         `json:"doubt"`
	Remedy  *said.Remedy `json:"remedy"`
}

type analysisDTO struct {
	ID uint64 `json:"id"`
	// Number is that of a claim; null for what is only described.
	Number     *int          `json:"number"`
	Version    int           `json:"version"`
	Spec       analysis.Spec `json:"spec"`
	LevelText  string        `json:"levelText"`
	Statement  string        `json:"statement"`
	Source     string        `json:"source"`
	SourceDate string        `json:"sourceDate"`
	StatedAt   time.Time     `json:"statedAt"`
	FirstRunAt *time.Time    `json:"firstRunAt"`
	Timing     string        `json:"timing"`
	Changes    []changeDTO   `json:"changes"`
	Problems   []string      `json:"problems"`
	Selected   bool          `json:"selected"`
	// Estimable says that a design is in force, by which it estimates unless its spec says otherwise.
	Estimable bool `json:"estimable"`
	// Look is what of the settings only says how it is shown.
	Look map[string]any `json:"look"`
	// Pattern is what of the settings can be carried over to another question.
	Pattern  map[string]any `json:"pattern"`
	Document *said.Document `json:"document"`
}

func (s *server) toAnalysis(v service.AnalysisView) analysisDTO {
	w := s.words
	if s.sight >= noAnswers {
		v.Document = v.Leaving()
	}
	d := analysisDTO{ID: v.ID, Version: v.Version, Spec: v.Spec, Statement: s.say(v.Statement), StatedAt: v.StatedAt, FirstRunAt: v.FirstRunAt, Timing: "before", Changes: []changeDTO{}, Problems: []string{}, Selected: v.Selected, Estimable: v.Estimable, Look: v.Spec.Look(), Pattern: v.Spec.Pattern(), Document: said.Of(v.Document, s.words)}
	if v.Spec.Settings.Tests() {
		d.Number = &v.Number
	}
	if d.Document != nil {
		for i, n := range d.Document.Notes {
			if reason, seen := v.Answered[n.ID]; seen {
				d.Document.Notes[i].Seen = &reason
			}
		}
	}
	if level := v.Spec.Settings.SignificanceLevel(); level > 0 {
		d.LevelText = w.Level(level)
	}
	if cited, ok := v.Spec.Settings.(interface{ Cited() analysis.Reference }); ok {
		d.Source, d.SourceDate = cited.Cited().Title, cited.Cited().Date
	}
	if v.FirstRunAt == nil {
		d.Timing = "open"
	}
	for _, change := range v.Changes {
		if change.AfterRun {
			d.Timing = "changed"
		}
		d.Changes = append(d.Changes, changeDTO{w.Text(analysis.ChangeID(change.Field, change.Old, change.New), map[string]string{"old": analysis.Shown(change.Old), "new": analysis.Shown(change.New)}), &change.At, change.AfterRun})
	}
	for _, differs := range v.Differs {
		d.Timing = "changed"
		if differs != analysis.ClaimDiffers { // what was changed in the claim itself is listed above
			d.Changes = append(d.Changes, changeDTO{Text: w.Text("claim.differs."+string(differs), nil), AfterRun: true})
		}
	}
	if v.Damaged != nil {
		d.Problems = append(d.Problems, s.toDamage(0, v.Damaged).Text)
	}
	for _, p := range v.Problems {
		d.Problems = append(d.Problems, s.say(document.Say("problem."+p.Code, p.Values)))
	}
	if v.Refusal != nil {
		d.Problems = append(d.Problems, s.refusalText(v.Refusal, v))
	}
	s.writeUpBase(&d, v)
	if d.Document != nil && d.Timing == "changed" {
		d.Document.Notes = append([]said.Note{{Place: document.Sentence, Text: w.Text("note.claim.changed_after", nil), Caution: true}}, d.Document.Notes...)
	}
	return d
}

// writeUpBase adds to a write-up on whom it rests, who is missing, and where compared figures
// come from.
func (s *server) writeUpBase(d *analysisDTO, v service.AnalysisView) {
	if d.Document == nil {
		return
	}
	var more []string
	if whom := s.say(v.Whom); whom != "" {
		more = append(more, whom)
	}
	for _, n := range d.Document.Notes {
		if n.ID == "note.missing_left_out" {
			more = append(more, n.Text)
		}
	}
	w := s.words
	switch {
	case d.Source != "" && d.SourceDate != "":
		more = append(more, w.Text("write_up.source_dated", map[string]string{"source": d.Source, "date": d.SourceDate}))
	case d.Source != "":
		more = append(more, w.Text("write_up.source", map[string]string{"source": d.Source}))
	}
	if d.Timing == "changed" {
		more = append(more, w.Text("note.claim.changed_after", nil))
	}
	for i := range d.Document.Blocks {
		if b := &d.Document.Blocks[i]; b.Kind == document.WriteUp && b.Styles != nil {
			b.Styles.Plain, b.Styles.Journal = append(b.Styles.Plain, more...), append(b.Styles.Journal, more...)
			b.Lines = b.Styles.Plain
		}
	}
}

// refusalText says why the core has no result, naming the answer that it is about.
func (s *server) refusalText(e *infer.InputError, v service.AnalysisView) string {
	values := map[string]string{}
	if e.Index >= 0 && v.Outcome != nil {
		if answers := v.Outcome.Counted.Questions[0].Proper(); e.Index < len(answers) {
			values["answer"] = answers[e.Index].Label
		}
	}
	w := s.words
	if id := "problem.analysis." + string(e.Reason); w.Has(id) {
		return w.Text(id, values)
	}
	return w.Text("problem.compute."+string(e.Reason), values)
}

type specCheckDTO struct {
	Problems  []specProblemDTO `json:"problems"`
	Statement string           `json:"statement"`
	// Tests says that it is a claim as it stands.
	Tests bool `json:"tests"`
	// Groups are the answers of the second question.
	Groups []groupDTO `json:"groups"`
}

type groupDTO struct {
	Code  string `json:"code"`
	Label string `json:"label"`
}

func (s *server) toProblems(list []analysis.Problem) []specProblemDTO {
	out := []specProblemDTO{}
	for _, p := range list {
		out = append(out, specProblemDTO{p.Code, p.Pointer, s.say(document.Say("problem."+p.Code, p.Values)), p.Doubt, said.RemedyOf(p.Remedy, s.words)})
	}
	return out
}

// specBody is a request that holds a spec. It is read by its own strict rules.
type specBody struct {
	Spec json.RawMessage `json:"spec"`
	// Run asks for a test to be run at once.
	Run bool `json:"run"`
}

func (s *server) readSpec(c fiber.Ctx) (spec analysis.Spec, run bool, err error) {
	var in specBody
	if err := s.decode(c, &in); err != nil {
		return spec, false, err
	}
	spec, err = s.specOf(in.Spec)
	return spec, in.Run, err
}

func (s *server) specOf(raw json.RawMessage) (analysis.Spec, error) {
	if len(raw) == 0 {
		return analysis.Spec{}, &refusal{status: fiber.StatusUnprocessableEntity, code: "null", values: map[string]string{"field": "spec"}}
	}
	return s.Methods().Spec(raw)
}

func (s *server) stateAnalysis(c fiber.Ctx) error {
	studyID, err := id(c, "study")
	if err != nil {
		return err
	}
	if _, err := among(c); err != nil {
		return err // before anything is stated
	}
	spec, run, err := s.readSpec(c)
	if err != nil {
		return err
	}
	made, question, err := s.Claims.State(c.Context(), studyID, spec, run)
	if err != nil {
		return err
	}
	raw, err := s.questionNow(c, studyID, question)
	if err != nil {
		return err
	}
	return c.Status(fiber.StatusCreated).JSON(struct {
		AnalysisID uint64          `json:"analysisId"`
		Question   json.RawMessage `json:"question"`
	}{made, raw})
}

func (s *server) checkAnalysis(c fiber.Ctx) error {
	studyID, err := id(c, "study")
	if err != nil {
		return err
	}
	spec, _, err := s.readSpec(c)
	var refused *analysis.SpecError
	if errors.As(err, &refused) && strings.HasPrefix(refused.Pointer, "/settings/") {
		return c.JSON(specCheckDTO{Problems: s.toProblems([]analysis.Problem{refused.Problem}), Groups: []groupDTO{}}) // half filled in
	}
	if err != nil {
		return err
	}
	found, err := s.Claims.CheckSpec(c.Context(), studyID, spec)
	if err != nil {
		return err
	}
	out := specCheckDTO{s.toProblems(found.Problems), s.say(found.Statement), found.Tests, []groupDTO{}}
	for _, a := range found.Groups {
		out.Groups = append(out.Groups, groupDTO{a.Code, a.Label})
	}
	return c.JSON(out)
}

func (s *server) editAnalysis(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	spec, run, err := s.readSpec(c)
	if err != nil {
		return err
	}
	question, err := s.Claims.EditAnalysis(c.Context(), studyID, n, ver, spec, run)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

// changeAnalysis takes a change of the settings alone, as documents offer it.
func (s *server) changeAnalysis(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in struct {
		Change json.RawMessage `json:"change"`
		Look   bool            `json:"look"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	question, err := s.Claims.ChangeAnalysis(c.Context(), studyID, n, ver, in.Change, in.Look)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

func (s *server) withdrawAnalysis(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	if err := s.Claims.Withdraw(c.Context(), studyID, n); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) runAnalysis(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	question, err := s.Claims.RunAnalysis(c.Context(), studyID, n)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}

func (s *server) restoreAnalysis(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	question, err := s.Claims.RestoreAnalysis(c.Context(), studyID, n)
	return s.sendQuestion(c, fiber.StatusOK, studyID, question, err)
}
