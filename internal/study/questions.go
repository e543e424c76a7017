package study

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"widetally/core/survey"
	"widetally/internal/store"
)

// AnswerEdit is one answer as it shall be, in its new place.
type AnswerEdit struct {
	Slot    survey.Slot
	Label   string
	Missing string
	SameAs  *survey.Slot
}

// QuestionEdit holds the parts of a question to change; nil leaves a part as it
// is. Answers, when given, names every answer of the question once, in the new
// order.
type QuestionEdit struct {
	Wording *string
	Kind    *survey.Kind
	Answers []AnswerEdit
}

// EditQuestion changes a question that is still at this version. Codes and
// stored answers are never touched; what was there before is in the history.
func (s *Service) EditQuestion(ctx context.Context, studyID, id uint64, version int, e QuestionEdit) (*QuestionView, error) {
	err := s.edit(ctx, studyID, func(tx *store.Store) error {
		q, err := tx.Question(ctx, studyID, id)
		if err != nil {
			return err
		}
		var changes []store.Change
		note := func(field string, before, after any) {
			b, _ := json.Marshal(before)
			a, _ := json.Marshal(after)
			if string(a) != string(b) {
				changes = append(changes, store.Change{Subject: store.OfQuestion, SubjectID: id, Field: field, Old: string(b), New: string(a)})
			}
		}
		if e.Wording != nil {
			wording, err := plain(*e.Wording, "/wording", maxWording, true)
			if err != nil {
				return err
			}
			note("wording", q.Wording, wording)
			q.Wording = wording
		}
		if e.Kind != nil {
			if !slices.Contains(MayBecome(q.Kind), *e.Kind) {
				return invalid("question.kind", "/kind", map[string]string{"from": string(q.Kind), "to": string(*e.Kind)})
			}
			note("kind", q.Kind, *e.Kind)
			q.Kind = *e.Kind
		}
		if e.Answers != nil {
			answers, err := reanswered(q, e.Answers)
			if err != nil {
				return err
			}
			note("order", orderOf(q.Answers), orderOf(answers))
			note("labels", labelsOf(q.Answers), labelsOf(answers))
			note(countingField, countingOf(q.Answers), countingOf(answers))
			q.Answers = answers
		}
		q.Version = version
		if err := tx.EditQuestion(ctx, q); err != nil {
			return err
		}
		return tx.AddChanges(ctx, studyID, changes)
	})
	if err != nil {
		return nil, err
	}
	return s.Question(ctx, studyID, id)
}

// MayBecome lists the kinds into which a question can be changed while its stored
// column stays: coded kinds among themselves, and text and identifier.
func MayBecome(from survey.Kind) []survey.Kind {
	out := []survey.Kind{}
	for _, to := range survey.Kinds {
		if to == from || from.Tabulated() && to.Tabulated() || from.Textual() && to.Textual() {
			out = append(out, to)
		}
	}
	return out
}

func reanswered(q store.Question, edits []AnswerEdit) ([]survey.Answer, error) {
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
		a.Label, a.Missing, a.SameAs = label, missing, e.SameAs
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

// countingField is the field of changes that alter what is counted, and so what a
// test sees.
const countingField = "counting"

func orderOf(answers []survey.Answer) (slots []survey.Slot) {
	for _, a := range answers {
		slots = append(slots, a.Slot)
	}
	return slots
}

func labelsOf(answers []survey.Answer) map[survey.Slot]string {
	m := map[survey.Slot]string{}
	for _, a := range answers {
		m[a.Slot] = a.Label
	}
	return m
}

type counting struct {
	Missing string       `json:"missing,omitempty"`
	SameAs  *survey.Slot `json:"sameAs,omitempty"`
}

func countingOf(answers []survey.Answer) map[survey.Slot]counting {
	m := map[survey.Slot]counting{}
	for _, a := range answers {
		m[a.Slot] = counting{a.Missing, a.SameAs}
	}
	return m
}
