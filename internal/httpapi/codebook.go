package httpapi

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/service"
)

func (s *server) codebookRoutes(r fiber.Router) {
	r.Get("/studies/:study/codebook", s.to((*server).getCodebook))
	r.Patch("/studies/:study/codebook", s.to((*server).editMany))
	r.Get("/studies/:study/codebook/file", s.to((*server).writeCodebook))
	r.Post("/studies/:study/codebook/file", s.to((*server).importCodebook))
	r.Post("/studies/:study/lists", s.to((*server).saveList))
	r.Put("/studies/:study/lists/:part", s.to((*server).saveList))
	r.Delete("/studies/:study/lists/:part", s.deletePart(study.AnswerList))
	r.Post("/studies/:study/subgroups", s.to((*server).saveSubgroup))
	r.Post("/studies/:study/subgroups/count", s.to((*server).countCondition))
	r.Post("/studies/:study/subgroups/answers", s.to((*server).subgroupOfAnswers))
	r.Put("/studies/:study/subgroups/:part", s.to((*server).saveSubgroup))
	r.Delete("/studies/:study/subgroups/:part", s.deletePart(study.Subgroup))
	r.Get("/studies/:study/history", s.to((*server).getHistory))
	r.Post("/studies/:study/undo", s.step(s.UndoLine.Undo))
	r.Post("/studies/:study/redo", s.step(s.UndoLine.Redo))
}

type codebookQuestionDTO struct {
	ID         uint64             `json:"id"`
	Number     int                `json:"number"`
	Name       string             `json:"name"`
	Wording    string             `json:"wording"`
	Note       string             `json:"note"`
	Section    string             `json:"section"`
	Kind       survey.Kind        `json:"kind"`
	MayBecome  []survey.Kind      `json:"mayBecome"`
	ListID     *uint64            `json:"listId"`
	Base       *survey.Condition  `json:"base"`
	Derivation *survey.Derivation `json:"derivation"`
	Answers    []answerDTO        `json:"answers"`
	Version    int                `json:"version"`
	// Coded questions have answers that can be listed; Derivable are the rules for which it
	// can be a source, Conditions what can be asked of it.
	Coded      bool               `json:"coded"`
	Derivable  []survey.Derivable `json:"derivable"`
	Conditions []survey.Op        `json:"conditions"`
}

type listDTO struct {
	ID      uint64                 `json:"id"`
	Name    string                 `json:"name"`
	Answers []service.ListedAnswer `json:"answers"`
	Version int                    `json:"version"`
}

type subgroupDTO struct {
	ID        uint64           `json:"id"`
	Name      string           `json:"name"`
	Condition survey.Condition `json:"condition"`
	N         *int64           `json:"n"`
	Everyone  *int64           `json:"everyone"`
	Version   int              `json:"version"`
}

func toSubgroups(list []service.SubgroupView) []subgroupDTO {
	out := make([]subgroupDTO, len(list))
	for i, g := range list {
		out[i] = subgroupDTO(g)
	}
	return out
}

// editDTO is an edit in a study's history, in words.
type editDTO struct {
	ID    uint64          `json:"id"`
	Text  string          `json:"text"`
	State study.EditState `json:"state"`
	At    time.Time       `json:"at"`
	// Author is the name of whoever did it; "" where that was not noted yet.
	Author string `json:"author"`
	// By is the id of whoever did it, to be held against one's own.
	By string `json:"by"`
}

// authorOf names an author in a history.
func (s *server) authorOf(id string) string {
	if name := s.People.Named(id); name != "" {
		return name
	}
	if id != study.ThisComputer {
		return id
	}
	return s.words.Text("author.this_computer", nil)
}

func (s *server) toEdit(e *study.Edit) *editDTO {
	if e == nil {
		return nil
	}
	return &editDTO{e.ID, s.say(document.Say("history."+e.Title, e.Values)), e.State, e.At, s.authorOf(e.Author), e.Author}
}

func (s *server) getCodebook(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	b, err := s.Codebooks.Codebook(c.Context(), n)
	if err != nil {
		return err
	}
	out := struct {
		Study     studyDTO              `json:"study"`
		Questions []codebookQuestionDTO `json:"questions"`
		Lists     []listDTO             `json:"lists"`
		Subgroups []subgroupDTO         `json:"subgroups"`
		Undo      *editDTO              `json:"undo"`
		Redo      *editDTO              `json:"redo"`
	}{toStudy(b.Study), make([]codebookQuestionDTO, len(b.Questions)), make([]listDTO, len(b.Lists)), toSubgroups(b.Subgroups), s.toEdit(b.Undo), s.toEdit(b.Redo)}
	for i, q := range b.Questions {
		out.Questions[i] = codebookQuestionDTO{ID: q.ID, Number: q.Number, Name: q.Name, Wording: q.Wording, Note: q.Note, Section: q.Section, Kind: q.Kind, MayBecome: service.MayBecome(q),
			ListID: q.ListID, Base: q.Base, Derivation: q.Derivation, Answers: toAnswers(q.Answers), Version: q.Version, Coded: q.Kind.Coded(), Derivable: survey.DerivableFrom(q.Kind), Conditions: survey.OpsOn(q.Kind)}
	}
	for i, l := range b.Lists {
		out.Lists[i] = listDTO(l)
	}
	return c.JSON(out)
}

func (s *server) editMany(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Questions []struct {
			ID      uint64            `json:"id"`
			Version int               `json:"version"`
			Missing map[string]string `json:"missing"`
		} `json:"questions"`
		Kind     *survey.Kind      `json:"kind"`
		Section  *string           `json:"section"`
		Missing  map[string]string `json:"missing"`
		SameAs   map[string]string `json:"sameAs"`
		ListID   *uint64           `json:"listId"`
		MakeList string            `json:"makeList"`
		Labels   string            `json:"labels"`
		Reverse  bool              `json:"reverse"`
		Base     *survey.Condition `json:"base"`
		NoBase   bool              `json:"noBase"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	e := service.BulkEdit{Kind: in.Kind, Section: in.Section, Missing: in.Missing, SameAs: in.SameAs, ListID: in.ListID, MakeList: in.MakeList, Labels: in.Labels, Reverse: in.Reverse, Base: in.Base, NoBase: in.NoBase}
	for _, q := range in.Questions {
		e.Questions = append(e.Questions, service.Versioned(q))
	}
	if err := s.Codebooks.EditMany(c.Context(), n, e); err != nil {
		return err
	}
	return s.getCodebook(c)
}

// files says how each format of a codebook is named and typed.
var files = map[service.CodebookFormat][2]string{
	service.CSVFile: {"csv", "text/csv; charset=utf-8"}, service.DDIFile: {"xml", "application/xml"}, service.PackageFile: {"zip", "application/zip"},
}

func (s *server) writeCodebook(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	format := service.CodebookFormat(c.Query("format"))
	name, err := s.nameOf(c, n, "codebook", files[format][0])
	if err != nil {
		return err
	}
	f, err := s.Codebooks.CodebookFile(c.Context(), n, format)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, files[format][1])
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

func (s *server) importCodebook(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		ArrivalID string `json:"arrivalId"`
		Dry       bool   `json:"dry"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	fit, err := s.Codebooks.ImportCodebook(c.Context(), n, in.ArrivalID, in.Dry)
	if err != nil {
		return err
	}
	return c.JSON(struct {
		Matched   []string `json:"matched"`
		Lacking   []string `json:"lacking"`
		Further   []string `json:"further"`
		KindsKept []string `json:"kindsKept"`
	}(*fit))
}

// partAndVersion reads which part is edited; both are 0 for a new one.
func partAndVersion(c fiber.Ctx) (part uint64, ver int, err error) {
	if c.Params("part") == "" {
		return 0, 0, nil
	}
	if part, err = id(c, "part"); err != nil {
		return 0, 0, err
	}
	ver, err = version(c)
	return part, ver, err
}

func (s *server) saveList(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	part, ver, err := partAndVersion(c)
	if err != nil {
		return err
	}
	var in struct {
		Name    string                 `json:"name"`
		Answers []service.ListedAnswer `json:"answers"`
		Pasted  string                 `json:"pasted"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if in.Pasted != "" {
		in.Answers = service.ParseLabels(in.Pasted)
	}
	if _, err := s.Codebooks.SaveList(c.Context(), n, part, ver, in.Name, in.Answers); err != nil {
		return err
	}
	return s.getCodebook(c)
}

func (s *server) saveSubgroup(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	part, ver, err := partAndVersion(c)
	if err != nil {
		return err
	}
	var in struct {
		Name      string           `json:"name"`
		Condition survey.Condition `json:"condition"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if _, err := s.Codebooks.SaveSubgroup(c.Context(), n, part, ver, service.SubgroupEdit(in)); err != nil {
		return err
	}
	return s.getCodebook(c)
}

func (s *server) countCondition(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Condition survey.Condition `json:"condition"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	meet, everyone, err := s.Codebooks.CountCondition(c.Context(), n, in.Condition)
	if err != nil {
		return err
	}
	return c.JSON(struct {
		N        int64 `json:"n"`
		Everyone int64 `json:"everyone"`
	}{meet, everyone})
}

// subgroupOfAnswers finds or makes the subgroup of those who gave some answers.
func (s *server) subgroupOfAnswers(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Who []struct {
			Question uint64 `json:"question"`
			Code     string `json:"code"`
		} `json:"who"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	who := make([]service.Respondents, len(in.Who))
	for i, w := range in.Who {
		who[i] = service.Respondents(w)
	}
	group, err := s.Codebooks.SubgroupOf(c.Context(), n, who)
	if err != nil {
		return err
	}
	return c.JSON(struct {
		ID uint64 `json:"id"`
	}{group})
}

func (s *server) deletePart(kind study.PartKind) fiber.Handler {
	return func(c fiber.Ctx) error {
		s := s.in(c)
		studyID, part, err := ids(c, "part")
		if err != nil {
			return err
		}
		if err := s.Codebooks.DeletePart(c.Context(), studyID, part, kind); err != nil {
			return err
		}
		return s.getCodebook(c)
	}
}

func (s *server) getHistory(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	edits, err := s.UndoLine.History(c.Context(), n)
	if err != nil {
		return err
	}
	out := struct {
		Edits []*editDTO `json:"edits"`
	}{[]*editDTO{}}
	for i := range edits {
		out.Edits = append(out.Edits, s.toEdit(&edits[i]))
	}
	return c.JSON(out)
}
