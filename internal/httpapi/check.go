package httpapi

import (
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/inspect"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/intake"
	"widetally/internal/said"
	"widetally/internal/service"
)

func (s *server) checkRoutes(r fiber.Router) {
	r.Get("/studies/:study/check", s.to((*server).getCheck))
	r.Put("/studies/:study/counts", s.to((*server).setCounts))
	r.Post("/studies/:study/refresh", s.to((*server).refresh))
	r.Get("/studies/:study/files/:file", s.to((*server).keptFile))
	r.Post("/studies/:study/questions/:question/repair", s.to((*server).repair))
}

type suspicionDTO struct {
	Kind   inspect.Kind `json:"kind"`
	Text   string       `json:"text"`
	Remedy *said.Remedy `json:"remedy"`
}

type checkedQuestionDTO struct {
	ID         uint64         `json:"id"`
	Number     int            `json:"number"`
	Name       string         `json:"name"`
	Wording    string         `json:"wording"`
	Kind       survey.Kind    `json:"kind"`
	KindReason string         `json:"kindReason"`
	MayBecome  []survey.Kind  `json:"mayBecome"`
	Version    int            `json:"version"`
	Answered   int64          `json:"answered"`
	Missing    int64          `json:"missing"`
	Different  int            `json:"different"`
	Smallest   *float64       `json:"smallest"`
	Largest    *float64       `json:"largest"`
	Suspicions []suspicionDTO `json:"suspicions"`
	Damage     *damageDTO     `json:"damage"`
}

// damageDTO says that a stored column cannot be read: that of QuestionID, on which the
// question that bears this rests if it is another one.
type damageDTO struct {
	QuestionID uint64 `json:"questionId"`
	Text       string `json:"text"`
}

func (s *server) toDamage(of uint64, d *study.DamagedError) *damageDTO {
	if d == nil {
		return nil
	}
	id := "damage.own"
	if d.QuestionID != of {
		id = "damage.other"
	}
	return &damageDTO{d.QuestionID, s.words.Text(id, map[string]string{"name": d.Name})}
}

// foundDTO is something noticed about several questions, given by their places in the
// check's list.
type foundDTO struct {
	Kind      string        `json:"kind"`
	Text      string        `json:"text"`
	Stem      string        `json:"stem"`
	Questions []int         `json:"questions"`
	Chosen    []survey.Slot `json:"chosen"`
	// Missing holds for each question the reasons by code.
	Missing []map[string]string `json:"missing"`
}

type arrivedFileDTO struct {
	ID        uint64     `json:"id"`
	Damaged   bool       `json:"damaged"`
	Name      string     `json:"name"`
	Size      int64      `json:"size"`
	SHA256    string     `json:"sha256"`
	ArrivedAt time.Time  `json:"arrivedAt"`
	Names     []string   `json:"names"`
	First     [][]string `json:"first"`
	Notes     []string   `json:"notes"`
}

type checkDTO struct {
	N         int64                `json:"n"`
	Rows      int64                `json:"rows"`
	Questions []checkedQuestionDTO `json:"questions"`
	Found     []foundDTO           `json:"found"`
	// Drawn names the questions that look like the design of a sample.
	Drawn []string         `json:"drawn"`
	Files []arrivedFileDTO `json:"files"`
}

func (s *server) toCheck(c *service.Check) *checkDTO {
	w := s.words
	d := &checkDTO{N: c.N, Rows: c.Rows, Questions: make([]checkedQuestionDTO, len(c.Questions)), Found: []foundDTO{}, Files: []arrivedFileDTO{}, Drawn: append([]string{}, c.Drawn...)}
	for i, q := range c.Questions {
		r := q.Report
		d.Questions[i] = checkedQuestionDTO{ID: q.ID, Number: q.Number, Name: q.Name, Wording: q.Wording, Kind: q.Kind, KindReason: w.Text("kind_reason."+q.KindReason, nil),
			MayBecome: service.MayBecome(q.Question), Version: q.Version, Answered: r.Answered, Missing: r.Missing, Different: r.Different, Smallest: r.Smallest, Largest: r.Largest, Suspicions: []suspicionDTO{}, Damage: s.toDamage(q.ID, q.Damaged)}
		for _, x := range r.Suspicions {
			d.Questions[i].Suspicions = append(d.Questions[i].Suspicions, s.toSuspicion(q.Question.Question, x))
		}
	}
	names := func(at []int) string {
		text := c.Questions[at[0]].Name
		switch {
		case len(at) == 2:
			text += ", " + c.Questions[at[1]].Name
		case len(at) > 2:
			text += " … " + c.Questions[at[len(at)-1]].Name
		}
		return text
	}
	add := func(kind, stem string, at []int, chosen []survey.Slot) {
		text := w.Text("inspect.found."+kind, map[string]string{"n": strconv.Itoa(len(at)), "list": names(at), "stem": stem})
		d.Found = append(d.Found, foundDTO{kind, text, stem, at, append([]survey.Slot{}, chosen...), []map[string]string{}})
	}
	if m := c.Missing; m != nil {
		f := foundDTO{Kind: "missing", Questions: m.Questions, Chosen: []survey.Slot{}}
		quoted := make([]string, len(m.Codes))
		for i, code := range m.Codes {
			quoted[i] = w.Text("inspect.found.code", map[string]string{"code": code})
		}
		f.Text = w.Text("inspect.found.missing", map[string]string{"n": strconv.Itoa(len(m.Questions)), "codes": strings.Join(quoted, ", "), "list": names(m.Questions)})
		for _, codes := range m.Of {
			reasons := map[string]string{}
			for _, code := range codes {
				reasons[code] = w.Text("inspect.missing_code.reason", nil)
			}
			f.Missing = append(f.Missing, reasons)
		}
		d.Found = append(d.Found, f)
	}
	for _, set := range c.Sets {
		add("set", set.Stem, set.Questions, set.Chosen)
	}
	for _, p := range c.Pairs {
		add("pair", "", []int{p.Before, p.After}, nil)
	}
	for _, b := range c.Batteries {
		add("battery", "", b, nil)
	}
	for _, f := range c.Files {
		file := arrivedFileDTO{ID: f.ID, Damaged: f.Damaged, Name: f.Name, Size: f.Size, SHA256: f.SHA256, ArrivedAt: f.ArrivedAt, Names: append([]string{}, f.Arrived.Names...), First: append([][]string{}, f.Arrived.First...), Notes: []string{}}
		if f.Damaged {
			file.Notes = append(file.Notes, w.Text("damage.file", nil))
		}
		if f.Arrived.Padded > 0 {
			file.Notes = append(file.Notes, w.Text("inspect.padded", map[string]string{"n": strconv.Itoa(f.Arrived.Padded)}))
		}
		for _, left := range f.Arrived.Left {
			file.Notes = append(file.Notes, w.Text("inspect.left", map[string]string{"text": left}))
		}
		d.Files = append(d.Files, file)
	}
	return d
}

func (s *server) toSuspicion(q survey.Question, x inspect.Suspicion) suspicionDTO {
	w := s.words
	a, _ := q.Answer(x.Slot)
	other, _ := q.Answer(x.Other)
	code := x.Code
	if code == "" {
		code = a.Code
	}
	values := map[string]string{"code": visible(code), "other": visible(other.Code), "n": strconv.FormatInt(x.N, 10), "nOther": strconv.FormatInt(x.NOther, 10), "separator": x.Separator}
	d := suspicionDTO{Kind: x.Kind, Text: w.Text("inspect."+string(x.Kind)+".text", values)}
	remedy := &said.Remedy{Code: code, Other: other.Code, Separator: x.Separator}
	switch x.Kind {
	case inspect.LooksMissing:
		remedy.Action, remedy.Reason = "missing", w.Text("inspect.missing_code.reason", nil)
	case inspect.SameButCase, inspect.SameButSlip:
		remedy.Action = "same"
	case inspect.LooksWeight:
		remedy.Action, remedy.Kind = "kind", survey.Weight
	case inspect.LooksCount:
		remedy.Action = "counts"
	case inspect.LooksTotal:
		remedy.Action, remedy.Reason = "missing", w.Text("inspect.total.reason", nil)
	case inspect.LooksNumber:
		remedy.Action, remedy.Kind = "kind", survey.Discrete
	case inspect.LooksGap:
		remedy.Action = "answer"
	case inspect.LooksCodes:
		remedy.Action, remedy.Kind = "kind", survey.Single
	case inspect.LooksParts:
		remedy.Action = "parts"
	default:
		return d
	}
	remedy.Label = w.Text("inspect."+string(x.Kind)+".remedy", values)
	d.Remedy = remedy
	return d
}

func (s *server) getCheck(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	check, err := s.Uploads.Check(c.Context(), n)
	if err != nil {
		return err
	}
	return c.JSON(s.toCheck(check))
}

// keptFile answers with a file as it arrived.
func (s *server) keptFile(c fiber.Ctx) error {
	studyID, n, err := ids(c, "file")
	if err != nil {
		return err
	}
	f, name, err := s.Answers.KeptFile(c.Context(), studyID, n)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMEOctetStream)
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

// repair makes a damaged column anew.
func (s *server) repair(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	exact, err := s.Answers.Repair(c.Context(), studyID, n)
	if err != nil {
		return err
	}
	id := "damage.repaired"
	if !exact {
		id = "damage.repaired_from_file"
	}
	return c.JSON(struct {
		Exact bool   `json:"exact"`
		Text  string `json:"text"`
	}{exact, s.words.Text(id, nil)})
}

func (s *server) setCounts(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		QuestionID *uint64 `json:"questionId"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Uploads.SetCounts(c.Context(), n, in.QuestionID); err != nil {
		return err
	}
	st, err := s.Studies.Get(c.Context(), n)
	return s.sendStudy(c, fiber.StatusOK, st, err)
}

func (s *server) refresh(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		ArrivalID    string      `json:"arrivalId"`
		Settings     settingsDTO `json:"settings"`
		Add          bool        `json:"add"`
		WaveQuestion string      `json:"waveQuestion"`
		Wave         string      `json:"wave"`
		WaveBefore   string      `json:"waveBefore"`
		// Matches say what becomes of questions that are matched by name but not by answers.
		Matches map[string]service.Match `json:"matches"`
		Dry     bool                     `json:"dry"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	r := service.Refresh{ArrivalID: in.ArrivalID, Settings: intake.Settings(in.Settings), Add: in.Add, WaveQuestion: in.WaveQuestion, Wave: in.Wave, WaveBefore: in.WaveBefore, Matches: in.Matches}
	fit, err := s.Uploads.Fits(c.Context(), n, r)
	if err != nil {
		return err
	}
	if !in.Dry {
		if err := s.Uploads.Refresh(c.Context(), n, r); err != nil {
			return err
		}
	}
	type relabelled struct {
		Code  string `json:"code"`
		Here  string `json:"here"`
		There string `json:"there"`
	}
	type matched struct {
		Name       string   `json:"name"`
		NewCodes   []string `json:"newCodes"`
		Unreadable bool     `json:"unreadable"`
		// Wording is that of the file where it is another one; Doubtful says that somebody has to say whether it is
		// the same question.
		Wording    string       `json:"wording"`
		Doubtful   bool         `json:"doubtful"`
		Relabelled []relabelled `json:"relabelled"`
	}
	out := struct {
		Rows    int       `json:"rows"`
		Matched []matched `json:"matched"`
		Lacking []string  `json:"lacking"`
		Further []string  `json:"further"`
	}{fit.Rows, []matched{}, fit.Lacking, fit.Further}
	for _, m := range fit.Matched {
		o := m.Otherwise
		one := matched{m.Name, m.NewCodes, m.Unreadable, o.Wording, o.Doubtful() && !m.Unreadable, []relabelled{}}
		for _, r := range o.Relabelled {
			one.Relabelled = append(one.Relabelled, relabelled(r))
		}
		out.Matched = append(out.Matched, one)
	}
	return c.JSON(out)
}
