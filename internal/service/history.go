package service

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// mostListed bounds the edits that the history shows.
const mostListed = 500

// History lists a study's edits, the newest first.
func (s *UndoLine) History(ctx context.Context, studyID uint64) ([]study.Edit, error) {
	if _, err := s.seen(ctx, studyID); err != nil {
		return nil, err
	}
	return s.store.Edits(ctx, studyID, mostListed)
}

// Settle closes the line of undo: what was done so far stays in the history and can no
// longer be taken back.
func (s *UndoLine) Settle(ctx context.Context, studyID uint64) error {
	return s.changing(ctx, studyID, study.ToChange, func(ctx context.Context, _ study.Study) error {
		if err := s.store.SettleEdits(ctx, studyID); err != nil {
			return err
		}
		return s.base.store.Note(ctx, studyID, document.Say("trail.settled", nil))
	})
}

// Undo takes the newest edit in force back; editID is the one that the person saw as
// such, and an *OtherEditError says that another one came after it. study.ErrNotFound
// when there is none.
func (s *UndoLine) Undo(ctx context.Context, studyID, editID uint64) (study.Edit, error) {
	return s.along(ctx, studyID, editID, study.Done, study.Undone)
}

// Redo does again what was taken back last.
func (s *UndoLine) Redo(ctx context.Context, studyID, editID uint64) (study.Edit, error) {
	return s.along(ctx, studyID, editID, study.Undone, study.Done)
}

// OtherEditError says that a step along the line of undo would act on another edit than
// the one that was meant.
type OtherEditError struct{ Newest study.Edit }

func (e *OtherEditError) Error() string {
	return fmt.Sprintf("service: edit %d came after", e.Newest.ID)
}

func (s *UndoLine) along(ctx context.Context, studyID, editID uint64, from, to study.EditState) (done study.Edit, err error) {
	err = s.changing(ctx, studyID, study.ToAsk, func(ctx context.Context, st study.Study) error {
		e, touched, err := s.store.NextEdit(ctx, studyID, from)
		if err != nil {
			return err
		}
		if e.ID != editID {
			return &OtherEditError{e}
		}
		if e.Author != study.ActorOf(ctx).ID { // what one did oneself one takes back oneself
			if err := s.may(ctx, studyID, study.ToChange); err != nil {
				return err
			}
		}
		d := newDraft(ctx, s.base, st)
		all, err := s.store.AllQuestions(ctx, studyID)
		if err != nil {
			return err
		}
		var questions []study.Question
		for _, t := range touched {
			is, becomes := t.After, t.Before
			if to == study.Done {
				is, becomes = t.Before, t.After
			}
			if t.Subject == study.OfQuestion {
				q, err := questionOf(all[t.SubjectID], becomes)
				if err != nil {
					return err
				}
				if err := d.keepsClaims(all[t.SubjectID], q); err != nil {
					return err
				}
				questions = append(questions, q)
			} else if err := d.put(t, becomes); err != nil {
				return err
			}
			if err := d.fieldChanges(subject{t.Subject, t.SubjectID}, is, becomes); err != nil {
				return err
			}
		}
		if err := s.store.EditQuestions(ctx, questions, func(i int) bool { return !reflect.DeepEqual(all[questions[i].ID].Answers, questions[i].Answers) }); err != nil {
			return err
		}
		if err := s.store.AddChanges(ctx, studyID, d.changes); err != nil {
			return err
		}
		done = e
		done.State = to
		if err := s.store.SetEditState(ctx, e.ID, to); err != nil {
			return err
		}
		what := "trail.undone"
		if to == study.Done {
			what = "trail.done_again"
		}
		if err := s.base.store.Note(ctx, studyID, document.Say(what, document.Values{"what": document.Saying(document.Say("history."+e.Title, e.Values))})); err != nil {
			return err
		}
		return s.store.TouchStudy(ctx, studyID)
	})
	return done, err
}

// questionOf is a question as a snapshot says it was; no snapshot means deleted.
func questionOf(now study.Question, state string) (study.Question, error) {
	if state == "" {
		now.Deleted = true
		return now, nil
	}
	q, err := readQuestion(state)
	if err != nil {
		return q, err
	}
	q.Version, q.Position = now.Version, now.Position
	return q, nil
}

// keepsClaims refuses a step after which an answer that a claim names by its code would be
// lacking: a claim that was brought over from before claims were part of the line of undo
// may have been stated since.
func (d *draft) keepsClaims(now, becomes study.Question) error {
	list, err := d.store.Analyses(d.ctx, d.study.ID)
	if err != nil || becomes.Deleted {
		return err
	}
	for _, a := range list {
		spec, err := d.s.specOf(a)
		if err != nil {
			return err
		}
		for i, key := range spec.Questions {
			if key == KeyOf(now.ID) && len(spec.Lacks(i, becomes.Question)) > len(spec.Lacks(i, now.Question)) {
				return inUse("", []document.Value{nameOf(a)})
			}
		}
	}
	return nil
}

// put makes a part, an analysis or the study what a snapshot says.
func (d *draft) put(t study.Snapshot, state string) error {
	switch t.Subject {
	case study.OfPart:
		now, err := d.store.Part(d.ctx, d.study.ID, t.SubjectID)
		if err != nil {
			return err
		}
		p := now
		if state == "" {
			p.Deleted = true
		} else {
			if p, err = readPart(state); err != nil {
				return err
			}
			p.Version = now.Version
		}
		return d.store.EditPart(d.ctx, p)
	case study.OfStudy:
		rows, counts, err := readStudy(state)
		if err != nil {
			return err
		}
		d.study.Rows, d.study.CountQuestion = rows, counts
		return d.store.SetStudyData(d.ctx, d.study)
	case study.OfAnalysis:
		return d.putAnalysis(t.SubjectID, state)
	}
	return fmt.Errorf("service: history: unknown subject %q", t.Subject)
}

// countingField is the field of changes that alter what is counted, and so what a
// test sees.
const countingField = "counting"

// fieldChanges files what changed in a question field by field, as the claims about
// it show it.
func (d *draft) fieldChanges(k subject, before, after string) error {
	if k.kind != study.OfQuestion || before == "" || after == "" {
		return nil
	}
	b, err := readQuestion(before)
	if err != nil {
		return err
	}
	a, err := readQuestion(after)
	if err != nil {
		return err
	}
	var changes []study.Change
	note := func(field string, before, after any) {
		if reflect.DeepEqual(before, after) {
			return
		}
		x, _ := json.Marshal(before)
		y, _ := json.Marshal(after)
		changes = append(changes, study.Change{Subject: study.OfQuestion, SubjectID: k.id, Field: field, Old: string(x), New: string(y)})
	}
	note("wording", b.Wording, a.Wording)
	note("kind", b.Kind, a.Kind)
	note("order", orderOf(b.Answers), orderOf(a.Answers))
	note("labels", labelsOf(b.Answers), labelsOf(a.Answers))
	note(countingField, struct {
		Generation int
		Answers    map[survey.Slot]counting
	}{b.Generation, countingOf(b.Answers)}, struct {
		Generation int
		Answers    map[survey.Slot]counting
	}{a.Generation, countingOf(a.Answers)})
	d.changes = append(d.changes, changes...)
	return nil
}

// countedDifferently reports whether a question counts its answers otherwise, or
// calls them otherwise where a derived question takes their names.
func countedDifferently(before, after survey.Question) bool {
	return before.Kind != after.Kind || !reflect.DeepEqual(countingOf(before.Answers), countingOf(after.Answers)) || len(before.Answers) != len(after.Answers)
}

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
