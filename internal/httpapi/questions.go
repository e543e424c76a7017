package httpapi

import (
	"encoding/json"
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/methods"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/reporting"
	"widetally/internal/said"
	"widetally/internal/service"
)

func (s *server) questionRoutes(r fiber.Router) {
	r.Get("/studies/:study/topline", s.to((*server).getTopline))
	r.Get("/studies/:study/questions", s.to((*server).getQuestions))
	r.Get("/studies/:study/questions/:question", s.to((*server).getQuestion))
	r.Get("/studies/:study/questions/:question/table", s.to((*server).questionTable))
	r.Patch("/studies/:study/questions/:question", s.to((*server).editQuestion))
}

type answerRowDTO struct {
	Slot              survey.Slot `json:"slot"`
	Code              string      `json:"code"`
	Label             string      `json:"label"`
	Count             int64       `json:"count"`
	PercentOfAnswered *float64    `json:"percentOfAnswered"`
	PercentOfEveryone *float64    `json:"percentOfEveryone"`
	// Cumulative is null where the order of the answers means nothing.
	Cumulative        *int64   `json:"cumulative"`
	CumulativePercent *float64 `json:"cumulativePercent"`
	// Estimate is that of the population by the design in force; null where respondents are counted.
	Estimate *estimateDTO `json:"estimate"`
}

// estimateDTO is a percent of the population with its interval at 95 %, null where there is none.
type estimateDTO struct {
	Percent float64  `json:"percent"`
	Lower   *float64 `json:"lower"`
	Upper   *float64 `json:"upper"`
	// CumulativePercent is that of this answer and those before it.
	CumulativePercent float64 `json:"cumulativePercent"`
}

func toEstimate(list []analysis.Estimated, slot survey.Slot) *estimateDTO {
	for _, e := range list {
		if e.Slot != slot {
			continue
		}
		out := &estimateDTO{Percent: 100 * e.Share, CumulativePercent: 100 * e.UpTo}
		if e.Interval != nil {
			lower, upper := 100*e.Interval.Lower, 100*e.Interval.Upper
			out.Lower, out.Upper = &lower, &upper
		}
		return out
	}
	return nil
}

type answerDTO struct {
	Slot    survey.Slot  `json:"slot"`
	Code    string       `json:"code"`
	Label   string       `json:"label"`
	Missing string       `json:"missing"`
	SameAs  *survey.Slot `json:"sameAs"`
	Score   *float64     `json:"score"`
	From    *float64     `json:"from"`
	To      *float64     `json:"to"`
}

func toAnswers(list []survey.Answer) []answerDTO {
	out := make([]answerDTO, len(list))
	for i, a := range list {
		out[i] = answerDTO(a)
	}
	return out
}

type classDTO struct {
	From  float64 `json:"from"`
	To    float64 `json:"to"`
	Count int64   `json:"count"`
}

type numericDTO struct {
	N         int64      `json:"n"`
	Mean      float64    `json:"mean"`
	SD        *float64   `json:"sd"`
	Smallest  float64    `json:"smallest"`
	Quartile1 float64    `json:"quartile1"`
	Median    float64    `json:"median"`
	Quartile3 float64    `json:"quartile3"`
	Largest   float64    `json:"largest"`
	Sum       float64    `json:"sum"`
	Classes   []classDTO `json:"classes"`
	// Estimate is that of the population by the design in force; null where respondents are counted.
	Estimate *numberEstimateDTO `json:"estimate"`
}

// numberEstimateDTO is what is estimated of a number; intervals are at 95 %, their limits null where
// there is none.
type numberEstimateDTO struct {
	Mean betweenDTO `json:"mean"`
	SD   *float64   `json:"sd"`
	// Quartiles are the first, the median and the third.
	Quartiles []betweenDTO `json:"quartiles"`
}

type betweenDTO struct {
	Value float64  `json:"value"`
	Lower *float64 `json:"lower"`
	Upper *float64 `json:"upper"`
}

func toNumberEstimate(e *analysis.EstimatedNumber) *numberEstimateDTO {
	if e == nil {
		return nil
	}
	out := &numberEstimateDTO{Mean: betweenDTO{Value: e.Mean.Mean}, SD: e.SD, Quartiles: []betweenDTO{}}
	if e.Interval != nil {
		out.Mean.Lower, out.Mean.Upper = &e.Interval.Lower, &e.Interval.Upper
	}
	for _, q := range e.Quartiles {
		out.Quartiles = append(out.Quartiles, betweenDTO{q.Quantile, q.Lower, q.Upper})
	}
	return out
}

type questionDTO struct {
	ID            uint64             `json:"id"`
	Number        int                `json:"number"`
	Name          string             `json:"name"`
	Wording       string             `json:"wording"`
	Short         string             `json:"short"`
	Note          string             `json:"note"`
	Section       string             `json:"section"`
	Base          *survey.Condition  `json:"base"`
	Derivation    *survey.Derivation `json:"derivation"`
	CountsInForce bool               `json:"countsInForce"`
	ListID        *uint64            `json:"listId"`
	IsCounts      bool               `json:"isCounts"`
	Kind          survey.Kind        `json:"kind"`
	KindReason    string             `json:"kindReason"`
	MayBecome     []survey.Kind      `json:"mayBecome"`
	Version       int                `json:"version"`
	Everyone      int64              `json:"everyone"`
	Asked         *int64             `json:"asked"`
	Answered      int64              `json:"answered"`
	Missing       int64              `json:"missing"`
	Rows          []answerRowDTO     `json:"rows"`
	MissingRows   []answerRowDTO     `json:"missingRows"`
	// Largest are those of a long list by which it is shown, and what the others come to; null where the
	// list is short.
	Largest     *largestDTO   `json:"largest"`
	Answers     []answerDTO   `json:"answers"`
	SumAnswered float64       `json:"sumAnswered"`
	SumEveryone float64       `json:"sumEveryone"`
	Numeric     *numericDTO   `json:"numeric"`
	Summaries   []summaryDTO  `json:"summaries"`
	Examples    []string      `json:"examples"`
	Different   int           `json:"different"`
	Notes       []said.Note   `json:"notes"`
	Analyses    []analysisDTO `json:"analyses"`
	// Asks names the methods that can be asked of it.
	Asks []string `json:"asks"`
	// Proposed are the methods that serve each design of a claim about it.
	Proposed []methods.Proposal `json:"proposed"`
	// Derivable are the rules by which questions can be made from it.
	Derivable []survey.Derivable `json:"derivable"`
	Tabulated bool               `json:"tabulated"`
	Ranked    bool               `json:"ranked"`
	Selected  bool               `json:"selected"`
	Damage    *damageDTO         `json:"damage"`
}

// summaryDTO is what is known of a number among those who gave an answer.
type summaryDTO struct {
	Label string  `json:"label"`
	N     int64   `json:"n"`
	Mean  float64 `json:"mean"`
	SD    float64 `json:"sd"`
}

func (s *server) toQuestion(v *service.QuestionView, order claim.Order) questionDTO {
	byAnswer := map[survey.Slot]survey.Answer{}
	if s.sight >= noAnswers {
		v = v.Leaving()
	}
	d := questionDTO{ID: v.ID, Number: v.Number, Name: v.Name, Wording: v.Wording, Short: v.Short, Note: v.Note, Section: v.Section, Base: v.Base, Derivation: v.Derivation, CountsInForce: v.CountsInForce, ListID: v.ListID, IsCounts: v.IsCounts, Kind: v.Kind, Version: v.Version,
		KindReason: s.words.Text("kind_reason."+v.KindReason, nil), MayBecome: service.MayBecome(v.Question),
		Everyone: v.Frequency.Everyone, Asked: v.Asked, Answered: v.Frequency.Answered, Missing: v.Frequency.Missing, SumAnswered: v.SumAnswered, SumEveryone: v.SumEveryone,
		Examples: append([]string{}, v.Examples...), Different: v.Different, Answers: toAnswers(v.Answers), Notes: []said.Note{}, Analyses: make([]analysisDTO, len(v.Analyses)), Damage: s.toDamage(v.ID, v.Damaged),
		Summaries: []summaryDTO{}, Asks: []string{}, Proposed: []methods.Proposal{}, Derivable: survey.DerivableFrom(v.Kind), Tabulated: v.Kind.Tabulated(), Ranked: v.Kind.Ranked(), Selected: v.Selected}
	if s.sight >= noAnswers { // which are single answers
		d.Examples = []string{}
	}
	if v.Damaged != nil {
		d.Rows, d.MissingRows = []answerRowDTO{}, []answerRowDTO{}
		return d
	}
	if !v.IsCounts {
		d.Asks = s.askedOf(0, v.Question.Question, v.Estimated)
		d.Proposed = append(d.Proposed, methods.Proposed(d.Asks)...)
	}
	d.Notes = s.tallyNotes(v)
	for _, a := range v.Answers {
		byAnswer[a.Slot] = a
	}
	d.Rows, d.MissingRows = toRows(reporting.Arranged(v.Question.Question, v.Frequency.Rows, order), byAnswer, v.Estimates), toRows(v.Frequency.MissingRows, byAnswer, nil)
	d.Largest = largestOf(v.Kind, d.Rows)
	for _, g := range v.Summaries {
		d.Summaries = append(d.Summaries, summaryDTO{g.Label, g.N, g.Mean, g.SD})
	}
	if n := v.Numeric; n != nil {
		d.Numeric = &numericDTO{n.N, n.Mean, n.SD, n.Smallest, n.Quartile1, n.Median, n.Quartile3, n.Largest, n.Sum, make([]classDTO, len(n.Classes)), toNumberEstimate(v.EstimatedNumber)}
		for i, c := range n.Classes {
			d.Numeric.Classes[i] = classDTO(c)
		}
	}
	for i, a := range v.Analyses {
		d.Analyses[i] = s.toAnalysis(a)
	}
	return d
}

func toRows(rows []tally.Row, answers map[survey.Slot]survey.Answer, estimates []analysis.Estimated) []answerRowDTO {
	out := make([]answerRowDTO, len(rows))
	for i, r := range rows {
		a := answers[r.Slot]
		out[i] = answerRowDTO{r.Slot, a.Code, a.Label, r.Count, r.PercentOfAnswered, r.PercentOfEveryone, r.Cumulative, r.CumulativePercent, toEstimate(estimates, r.Slot)}
	}
	return out
}

// sendQuestion answers with a question as it is now, after what may have been an edit
// of it, among those whom the page is about.
func (s *server) sendQuestion(c fiber.Ctx, status int, studyID, id uint64, err error) error {
	if err != nil {
		return err
	}
	raw, err := s.questionNow(c, studyID, id)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSONCharsetUTF8)
	return c.Status(status).Send(raw)
}

// questionNow is a question as it is sent, among those whom the page is about; its version
// is in the answer's head.
func (s *server) questionNow(c fiber.Ctx, studyID, id uint64) (json.RawMessage, error) {
	of, err := among(c)
	if err != nil {
		return nil, err
	}
	v, err := s.Toplines.Question(c.Context(), studyID, id, of)
	if err != nil {
		return nil, err
	}
	order, err := orderOf(c)
	if err != nil {
		return nil, err
	}
	raw, err := s.render(v, order)
	if err == nil {
		etag(c, v.Version)
	}
	return raw, err
}

// render is a question as it is sent, said once.
func (s *server) render(v *service.QuestionView, order claim.Order) (json.RawMessage, error) {
	key := renderedAs{v, order, s.words.Language(), s.sight}
	if raw, ok := s.rendered.Get(key); ok {
		return json.RawMessage(raw), nil
	}
	raw, err := json.Marshal(s.toQuestion(v, order))
	if err == nil {
		s.rendered.Put(key, part(raw))
	}
	return raw, err
}

// renderedAs names a question as it was sent.
type renderedAs struct {
	view     *service.QuestionView
	order    claim.Order
	language string
	sight    sight
}

// orderOf reads the order of the answers in tallies.
func orderOf(c fiber.Ctx) (claim.Order, error) {
	order := claim.Order(c.Query("order", string(claim.AsAsked)))
	if !slices.Contains(claim.Orders, order) {
		return order, &service.InvalidError{Code: "frequency.order", Field: "/order"}
	}
	return order, nil
}

// among reads the subgroup that a page is about; nil is everyone.
func among(c fiber.Ctx) (*uint64, error) {
	text := c.Query("of")
	if text == "" {
		return nil, nil
	}
	n, err := strconv.ParseUint(text, 10, 63)
	if err != nil || n == 0 {
		return nil, &refusal{status: fiber.StatusNotFound, code: "bad_id", values: map[string]string{"text": "subgroup"}}
	}
	return &n, nil
}

func (s *server) getQuestion(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	return s.sendQuestion(c, fiber.StatusOK, studyID, n, err)
}

func (s *server) editQuestion(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in struct {
		Wording *string           `json:"wording"`
		Short   *string           `json:"short"`
		Note    *string           `json:"note"`
		Section *string           `json:"section"`
		Kind    *survey.Kind      `json:"kind"`
		Base    *survey.Condition `json:"base"`
		NoBase  bool              `json:"noBase"`
		Answers []struct {
			Slot    survey.Slot  `json:"slot"`
			Label   string       `json:"label"`
			Missing string       `json:"missing"`
			SameAs  *survey.Slot `json:"sameAs"`
			Score   *float64     `json:"score"`
		} `json:"answers"`
		NewAnswer *struct {
			Code  string `json:"code"`
			Label string `json:"label"`
		} `json:"newAnswer"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	e := service.QuestionEdit{Wording: in.Wording, Short: in.Short, Note: in.Note, Section: in.Section, Kind: in.Kind, Base: in.Base, NoBase: in.NoBase, NewAnswer: (*service.NewAnswer)(in.NewAnswer)}
	for _, a := range in.Answers {
		e.Answers = append(e.Answers, service.AnswerEdit(a))
	}
	err = s.Codebooks.EditQuestion(c.Context(), studyID, n, ver, e)
	if err == nil && c.Query("whole") == "true" {
		return s.sendTopline(c, studyID)
	}
	return s.sendQuestion(c, fiber.StatusOK, studyID, n, err)
}
