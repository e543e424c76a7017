package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// AnswerEdit is one answer as it shall be, in its new place.
type AnswerEdit struct {
	Slot    survey.Slot
	Label   string
	Missing string
	SameAs  *survey.Slot
	Score   *float64
}

// QuestionEdit holds the parts of a question to change; nil leaves a part as it
// is. Answers, when given, names every answer of the question once, in the new
// order. NewAnswer adds an answer that nobody has chosen.
type QuestionEdit struct {
	Wording   *string
	Short     *string
	Note      *string
	Section   *string
	Kind      *survey.Kind
	Base      *survey.Condition
	NoBase    bool // takes the base away
	Answers   []AnswerEdit
	NewAnswer *NewAnswer
}

// NewAnswer is an answer of the codebook that no respondent gave so far.
type NewAnswer struct{ Code, Label string }

// EditQuestion changes a question that is still at this version. Codes and stored
// answers are never touched, except that another kind may read them anew; what was
// there before is in the history.
func (s *Codebooks) EditQuestion(ctx context.Context, studyID, id uint64, version int, e QuestionEdit) error {
	title := Title{ID: "question", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		before, err := d.question(id)
		if err != nil {
			return err
		}
		title.Values["name"] = document.Text(before.Name)
		q := before
		q.Version = version
		if err := e.texts(&q); err != nil {
			return err
		}
		if e.Kind != nil {
			if q, err = d.recode(q, *e.Kind); err != nil {
				return err
			}
		}
		if err := e.base(d, &q); err != nil {
			return err
		}
		if e.Answers != nil {
			if q.Answers, err = reanswered(q, e.Answers); err != nil {
				return err
			}
		}
		if e.NewAnswer != nil {
			if err := e.NewAnswer.add(&q); err != nil {
				return err
			}
		}
		return d.save(before, q)
	})
}

func (e QuestionEdit) texts(q *study.Question) (err error) {
	for _, part := range []struct {
		text     *string
		into     *string
		field    string
		most     int
		required bool
	}{{e.Wording, &q.Wording, "/wording", maxWording, true}, {e.Short, &q.Short, "/short", survey.MaxShort, false}, {e.Note, &q.Note, "/note", maxWording, false}, {e.Section, &q.Section, "/section", maxName, false}} {
		if part.text != nil {
			if *part.into, err = plain(*part.text, part.field, part.most, part.required); err != nil {
				return err
			}
		}
	}
	return nil
}

func (e QuestionEdit) base(d *draft, q *study.Question) error {
	switch {
	case e.NoBase:
		q.Base = nil
	case e.Base != nil:
		if err := d.checkCondition(*e.Base, "/base"); err != nil {
			return err
		}
		q.Base = e.Base
	}
	return nil
}

// knownKind refuses a kind that there is not.
func knownKind(k survey.Kind, field string) error {
	if !slices.Contains(survey.Kinds, k) {
		return invalid("question.kind_unknown", field, map[string]string{"text": string(k)})
	}
	return nil
}

// recode reads a question as another kind; read as a count of respondents it counts the
// study's rows from now on.
func (d *draft) recode(q study.Question, to survey.Kind) (study.Question, error) {
	if q.Kind == to {
		return q, nil
	}
	if err := knownKind(to, "/kind"); err != nil {
		return q, err
	}
	q, err := d.readAs(q, to)
	if err != nil || to != survey.Count {
		return q, err
	}
	return q, d.countBy(q)
}

// readAs reads a question as another kind. A column that is read anew becomes a
// further generation; the shares of claims about it keep their answers by code.
func (d *draft) readAs(q study.Question, to survey.Kind) (study.Question, error) {
	if d.study.CountQuestion != nil && *d.study.CountQuestion == q.ID && to != survey.Count {
		return q, inUse("/kind", []document.Value{document.Term("use.counts")})
	}
	values := map[string]string{"from": string(q.Kind), "to": string(to)}
	if q.Derivation != nil && !(q.Kind.Coded() && to.Coded()) {
		return q, invalid("question.kind_derived", "/kind", values)
	}
	reread := q.Kind.Measured() != to.Measured() || q.Kind.Textual() != to.Textual()
	var column survey.Column
	if reread {
		var err error
		if column, err = d.column(q); err != nil {
			return q, err
		}
	}
	as, recoded, unread, err := survey.Recode(q.Question, column, to)
	switch {
	case err == nil && to.Measured() && unread > 0 && !survey.HasNumber(recoded):
		return q, invalid("question.no_numbers", "/kind", values)
	case errors.Is(err, survey.ErrTooManyAnswers):
		return q, invalid("question.too_many", "/kind", map[string]string{"most": fmt.Sprint(survey.MostAnswers)})
	case err != nil:
		return q, invalid("question.kind", "/kind", values)
	}
	q.Question, q.KindReason = as, string(survey.Chosen)
	if !reread {
		return q, nil
	}
	// Reading anew gives the answers other slots, which whatever names them by slot
	// would not notice.
	if used, err := d.uses(q.ID); err != nil || len(used) > 0 {
		return q, firstError(err, inUse("/kind", used))
	}
	return d.newColumn(q, recoded)
}

// uses names what refers to a question: claims, subgroups, bases, derived questions,
// the counts of the study.
func (d *draft) uses(id uint64) ([]document.Value, error) {
	var used []document.Value
	analyses, err := d.store.Analyses(d.ctx, d.study.ID)
	if err != nil {
		return nil, err
	}
	for _, a := range analyses {
		if slices.Contains(a.Uses, study.Use{Subject: study.OfQuestion, ID: id}) {
			used = append(used, nameOf(a))
		}
	}
	all, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return nil, err
	}
	for _, q := range all {
		if q.Base != nil && slices.Contains(q.Base.Questions(), id) {
			used = append(used, inUseBy("use.base", q.Name))
		}
		if q.Derivation != nil && slices.Contains(q.Derivation.Sources, id) {
			used = append(used, inUseBy("use.derived", q.Name))
		}
	}
	parts, err := d.store.Parts(d.ctx, d.study.ID, study.Subgroup)
	if err != nil {
		return nil, err
	}
	for _, p := range parts {
		c, err := conditionOf(p)
		if err != nil {
			return nil, err
		}
		if !p.Deleted && slices.Contains(c.Questions(), id) {
			used = append(used, inUseBy("use.subgroup", p.Name))
		}
	}
	drawn, err := d.store.Parts(d.ctx, d.study.ID, study.Design)
	if err != nil {
		return nil, err
	}
	_, is, err := designOf(drawn)
	if err != nil {
		return nil, err
	}
	if slices.Contains(is.Drawn.Questions(), KeyOf(id)) {
		used = append(used, document.Term("use.design"))
	}
	if d.study.CountQuestion != nil && *d.study.CountQuestion == id {
		used = append(used, document.Term("use.counts"))
	}
	return used, nil
}

// inUseBy says what uses something.
func inUseBy(id, name string) document.Value {
	by := document.Say(id, document.Values{"name": document.Text(name)})
	return document.Value{Kind: document.Said, Message: &by}
}

func inUse(field string, used []document.Value) error {
	if len(used) == 0 {
		return nil
	}
	return invalidSaying("question.in_use", field, document.Values{"list": {Kind: document.Listed, List: used}})
}

func (n NewAnswer) add(q *study.Question) error {
	code, err := plain(n.Code, "/newAnswer/code", maxLabel, true)
	if err != nil {
		return err
	}
	label, err := plain(n.Label, "/newAnswer/label", maxLabel, false)
	if err != nil {
		return err
	}
	if label == "" {
		label = code
	}
	if !q.Kind.Coded() || q.Derivation != nil {
		return invalid("question.no_list", "/newAnswer", nil)
	}
	for _, a := range q.Answers {
		if strings.TrimSpace(a.Code) == code {
			return invalid("question.code_taken", "/newAnswer/code", map[string]string{"text": code})
		}
	}
	if q.Slots() >= survey.MostAnswers {
		return invalid("question.too_many", "/newAnswer", map[string]string{"most": fmt.Sprint(survey.MostAnswers)})
	}
	q.Question = survey.WithAnswer(q.Question, code, label)
	return nil
}

// MayBecome lists the kinds as which a question can be read.
func MayBecome(q study.Question) []survey.Kind {
	out := []survey.Kind{}
	for _, to := range survey.Kinds {
		stays := q.Kind == to || q.Kind.Coded() && to.Coded()
		if stays || q.Derivation == nil && q.Kind != survey.ChooseAll && to != survey.ChooseAll {
			out = append(out, to)
		}
	}
	return out
}

func reanswered(q study.Question, edits []AnswerEdit) ([]survey.Answer, error) {
	if len(edits) != len(q.Answers) {
		return nil, invalid("question.answers", "/answers", nil)
	}
	known := map[survey.Slot]survey.Answer{}
	for _, a := range q.Answers {
		known[a.Slot] = a
	}
	out := make([]survey.Answer, len(edits))
	for i, e := range edits {
		field := fmt.Sprintf("/answers/%d", i)
		a, ok := known[e.Slot]
		if !ok {
			return nil, invalid("question.answers", field, nil)
		}
		delete(known, e.Slot)
		label, err := plain(e.Label, field+"/label", maxLabel, true)
		if err != nil {
			return nil, err
		}
		missing, err := plain(e.Missing, field+"/missing", maxMissing, false)
		if err != nil {
			return nil, err
		}
		if e.Slot == survey.Blank && (missing == "" || e.SameAs != nil) {
			return nil, invalid("question.blank", field, nil)
		}
		if missing == "" && a.Missing != "" && q.Kind.Measured() {
			return nil, invalid("question.number_missing", field, nil)
		}
		a.Label, a.Missing, a.SameAs, a.Score = label, missing, e.SameAs, e.Score
		out[i] = a
	}
	targets := map[survey.Slot]bool{}
	for _, a := range out {
		targets[a.Slot] = a.SameAs == nil
	}
	for i, a := range out {
		if a.SameAs != nil && !targets[*a.SameAs] {
			return nil, invalid("question.same_as", fmt.Sprintf("/answers/%d/sameAs", i), nil)
		}
	}
	return out, nil
}

// checkCondition reports a condition that cannot be used in this study.
func (d *draft) checkCondition(c survey.Condition, field string) error {
	all, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return err
	}
	return checkCondition(all, c, field)
}

func checkCondition(all []study.Question, c survey.Condition, field string) error {
	err := c.Check(finder(all))
	var bad *survey.ConditionError
	if errors.As(err, &bad) {
		return invalid("condition."+bad.Why, field, nil)
	}
	return err
}

func finder(all []study.Question) func(uint64) (survey.Question, bool) {
	byID := map[uint64]survey.Question{}
	for _, q := range all {
		byID[q.ID] = q.Question
	}
	return func(id uint64) (survey.Question, bool) {
		q, ok := byID[id]
		return q, ok
	}
}
