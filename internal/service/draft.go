package service

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"reflect"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// draft is an edit under way: everything that it touches is noted as it was before,
// so that the whole edit can be taken back and done again.
type draft struct {
	ctx   context.Context
	s     *base
	store draftRows
	study study.Study

	touched []subject
	before  map[subject]snapshot
	after   map[subject]snapshot
	// sources are the questions whose answers changed, so that those derived from
	// them are made anew.
	sources []uint64
	// changes are what claims show of it, field by field.
	changes []study.Change
	// broughtFile is set when the edit keeps a further file beside the study.
	broughtFile bool
}

type subject struct {
	kind study.Subject
	id   uint64
}

type snapshot struct {
	state      string // JSON; "" for nothing
	generation int
}

// Title says what an edit was: a message id under history with its values. To is the access that it takes; ""
// where it changes answers or codebook.
type Title struct {
	ID     string
	Values document.Values
	To     study.Access
}

// change runs f in a transaction as one edit of a study's history.
func (s *base) change(ctx context.Context, studyID uint64, title Title, f func(d *draft) error) error {
	if err := s.room.Fits(0); err != nil {
		return err
	}
	return s.changing(ctx, studyID, cmp.Or(title.To, study.ToChange), func(ctx context.Context, st study.Study) error {
		d := newDraft(ctx, s, st)
		if err := f(d); err != nil {
			return err
		}
		if err := d.rederive(); err != nil {
			return err
		}
		return d.record(title)
	})
}

func newDraft(ctx context.Context, s *base, st study.Study) *draft {
	return &draft{ctx: ctx, s: s, store: s.drafts, study: st, before: map[subject]snapshot{}, after: map[subject]snapshot{}}
}

// note keeps what a subject was before this edit, the first time it is touched, and
// what it is now.
func (d *draft) note(k subject, before, now snapshot) {
	if _, known := d.before[k]; !known {
		d.touched = append(d.touched, k)
		d.before[k] = before
	}
	d.after[k] = now
}

func (d *draft) record(title Title) error {
	var snapshots []study.Snapshot
	for _, k := range d.touched {
		b, a := d.before[k], d.after[k]
		if b == a {
			continue
		}
		snapshots = append(snapshots, study.Snapshot{Subject: k.kind, SubjectID: k.id, Before: b.state, After: a.state, GenerationBefore: b.generation, GenerationAfter: a.generation})
		if err := d.fieldChanges(k, b.state, a.state); err != nil {
			return err
		}
	}
	if len(snapshots) > 0 {
		id, err := d.store.AddEdit(d.ctx, study.Edit{StudyID: d.study.ID, Title: title.ID, Values: title.Values}, snapshots)
		if err != nil {
			return err
		}
		if d.broughtFile {
			if err := d.store.FileOfEdit(d.ctx, d.study.ID, id); err != nil {
				return err
			}
		}
	}
	if err := d.store.AddChanges(d.ctx, d.study.ID, d.changes); err != nil {
		return err
	}
	return d.store.TouchStudy(d.ctx, d.study.ID)
}

func (d *draft) question(id uint64) (study.Question, error) {
	return d.store.Question(d.ctx, d.study.ID, id)
}

// edited is a question before and after an edit.
type edited struct{ before, after study.Question }

// save stores one question, see saveAll.
func (d *draft) save(before, q study.Question) error { return d.saveAll([]edited{{before, q}}) }

// saveAll stores questions that are at the versions they bear.
func (d *draft) saveAll(list []edited) error {
	after := make([]study.Question, len(list))
	for i, e := range list {
		if err := textsFit(e.after.Question, e.before.Question); err != nil {
			return err
		}
		b, err := stateOf(e.before)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		a, err := stateOf(e.after)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		after[i] = e.after
		d.note(subject{study.OfQuestion, e.after.ID}, b, a)
		if e.after.Generation != e.before.Generation || countedDifferently(e.before.Question, e.after.Question) {
			d.sources = append(d.sources, e.after.ID)
		}
	}
	return d.store.EditQuestions(d.ctx, after, func(i int) bool { return !reflect.DeepEqual(list[i].before.Answers, list[i].after.Answers) })
}

// add stores a new question with its column.
func (d *draft) add(q study.Question, c survey.Column) (uint64, error) {
	if err := textsFit(q.Question, survey.Question{}); err != nil {
		return 0, err
	}
	q.StudyID, q.Generation = d.study.ID, 1
	id, err := d.store.AddQuestion(d.ctx, q)
	if err != nil {
		return 0, err
	}
	q.ID = id
	if err := d.store.SaveColumn(d.ctx, id, 1, c); err != nil {
		return 0, err
	}
	a, err := stateOf(q)
	if err != nil {
		return 0, fmt.Errorf("service: %w", err)
	}
	d.note(subject{study.OfQuestion, id}, snapshot{}, a)
	return id, nil
}

// column loads a question's column.
func (d *draft) column(q study.Question) (survey.Column, error) {
	return d.s.read(d.ctx, q, d.study.Rows)
}

// newColumn stores a further generation of a question's column and returns the
// question that has it.
func (d *draft) newColumn(q study.Question, c survey.Column) (study.Question, error) {
	var err error
	if q.Generation, err = d.store.NextGeneration(d.ctx, q.ID); err != nil {
		return q, err
	}
	return q, d.store.SaveColumn(d.ctx, q.ID, q.Generation, c)
}

// source gives a question of the study with its column.
func (d *draft) source(id uint64) (survey.Source, error) {
	q, err := d.question(id)
	if err != nil {
		return survey.Source{}, err
	}
	c, err := d.column(q)
	return survey.Source{Question: q.Question, Column: c}, err
}

// rederive makes the questions anew that are derived from those that this edit
// changed, and those derived from them in turn.
func (d *draft) rederive() error {
	if len(d.sources) == 0 {
		return nil
	}
	all, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return err
	}
	changed := map[uint64]bool{}
	for _, id := range d.sources {
		changed[id] = true
	}
	made := map[uint64]bool{}
	for again := true; again; {
		again = false
		for _, q := range all {
			if q.Derivation == nil || made[q.ID] {
				continue
			}
			for _, from := range q.Derivation.Sources {
				if !changed[from] {
					continue
				}
				err := d.remake(q.ID, *q.Derivation)
				if bad := (*survey.DerivationError)(nil); errors.As(err, &bad) {
					return invalidSaying("question.derived_breaks", "", document.Values{"name": document.Text(q.Name), "why": document.Term("problem.derivation." + bad.Why)})
				}
				if err != nil {
					return err
				}
				changed[q.ID], made[q.ID], again = true, true, true
				break
			}
		}
	}
	return nil
}

// remake makes a derived question's answers and column anew by this definition.
func (d *draft) remake(id uint64, by survey.Derivation) error {
	before, err := d.question(id)
	if err != nil {
		return err
	}
	kind, answers, column, err := d.derive(by)
	if err != nil {
		return err
	}
	q := before
	q.Derivation = &by
	if !(q.Kind.Coded() && kind.Coded()) {
		q.Kind = kind
	}
	if q.Answers, column, _, err = survey.Refit(q.Answers, answers, column, true); err != nil {
		return fmt.Errorf("service: %w", err)
	}
	if q, err = d.newColumn(q, column); err != nil {
		return err
	}
	return d.save(before, q)
}

func (d *draft) derive(by survey.Derivation) (survey.Kind, []survey.Answer, survey.Column, error) {
	var sources []survey.Source
	for _, id := range by.Sources {
		src, err := d.source(id)
		if err != nil {
			return "", nil, survey.Column{}, err
		}
		sources = append(sources, src)
	}
	times, err := d.times()
	if err != nil {
		return "", nil, survey.Column{}, err
	}
	return survey.Derive(by, sources, survey.Sample{Frequency: times})
}

func (d *draft) times() ([]int64, error) {
	if d.study.CountQuestion == nil {
		return nil, nil
	}
	src, err := d.source(*d.study.CountQuestion)
	if err != nil {
		return nil, err
	}
	return src.Column.Multiplicities(), nil
}

// setData notes the study's rows and the question that counts them.
func (d *draft) setData(rows int64, countQuestion *uint64) error {
	before, err := studyState(d.study)
	if err != nil {
		return err
	}
	d.study.Rows, d.study.CountQuestion = rows, countQuestion
	after, err := studyState(d.study)
	if err != nil {
		return err
	}
	d.note(subject{study.OfStudy, d.study.ID}, before, after)
	return d.store.SetStudyData(d.ctx, d.study)
}

// part stores a part of the study; a part without an id is new.
func (d *draft) part(p study.Part) (study.Part, error) {
	p.StudyID = d.study.ID
	b := snapshot{}
	if p.ID == 0 {
		added, err := d.store.AddPart(d.ctx, p)
		if err != nil {
			return p, err
		}
		p = added
	} else {
		before, err := d.store.Part(d.ctx, d.study.ID, p.ID)
		if err != nil {
			return p, err
		}
		if before.Kind != p.Kind || before.Deleted {
			return p, study.ErrNotFound
		}
		if b, err = partState(before); err != nil {
			return p, err
		}
		if err := d.store.EditPart(d.ctx, p); err != nil {
			return p, err
		}
		p.Version++
	}
	a, err := partState(p)
	d.note(subject{study.OfPart, p.ID}, b, a)
	return p, err
}

// editDraft is edit with what draft can load, outside the line of undo, for who may ask.
func (s *base) editDraft(ctx context.Context, studyID uint64, f func(d *draft) error) error {
	if err := s.room.Fits(0); err != nil {
		return err
	}
	return s.changing(ctx, studyID, study.ToAsk, func(ctx context.Context, st study.Study) error {
		if err := f(newDraft(ctx, s, st)); err != nil {
			return err
		}
		return s.drafts.TouchStudy(ctx, studyID)
	})
}
