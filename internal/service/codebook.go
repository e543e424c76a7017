package service

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// Codebook is what every question and code of a study means, without tallies.
type Codebook struct {
	Study     study.Study
	Questions []study.Question
	Lists     []AnswerListView
	Subgroups []SubgroupView
	Undo      *study.Edit // what undo would take back
	Redo      *study.Edit
}

// Codebook loads a study's codebook.
func (s *Codebooks) Codebook(ctx context.Context, studyID uint64) (*Codebook, error) {
	b := &Codebook{}
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return nil, err
	}
	b.Study, b.Questions, b.Undo, b.Redo = p.study, p.questions, p.undo, p.redo
	if b.Lists, err = s.Lists(ctx, studyID); err != nil {
		return nil, err
	}
	b.Subgroups, err = s.subgroupViews(ctx, p)
	return b, err
}

// steps tells what undo and redo would act on; nil for nothing.
func steps(ctx context.Context, rows editReader, studyID uint64) (undo, redo *study.Edit, err error) {
	for state, into := range map[study.EditState]**study.Edit{study.Done: &undo, study.Undone: &redo} {
		e, err := rows.PeekEdit(ctx, studyID, state)
		if err == nil {
			*into = &e
		} else if err != study.ErrNotFound {
			return nil, nil, err
		}
	}
	return undo, redo, nil
}

// Versioned names a question at the version on which an edit builds.
type Versioned struct {
	ID      uint64
	Version int
	Missing map[string]string // reason by code, for this question alone
}

// BulkEdit changes many questions at once; nil and empty leave a part as it is.
type BulkEdit struct {
	Questions []Versioned
	Kind      *survey.Kind
	Section   *string
	Missing   map[string]string // reason by code; "" makes the code proper again
	SameAs    map[string]string // code of the answer under which a code is counted
	ListID    *uint64           // the shared list to use; 0 for none
	Labels    string            // pasted lines of code and label
	Reverse   bool              // turns the order of the proper answers, and their scores, round
	Base      *survey.Condition
	NoBase    bool
	// MakeList makes a shared list of the answers of the first question under this
	// name and gives it to all.
	MakeList string
}

// mostBulk bounds the questions of a bulk edit.
const mostBulk = 5000

// EditMany changes many questions as one edit: all, or none.
func (s *Codebooks) EditMany(ctx context.Context, studyID uint64, e BulkEdit) error {
	title := Title{ID: "bulk", Values: document.Values{"n": document.N(int64(len(e.Questions)))}}
	if len(e.Questions) == 0 || len(e.Questions) > mostBulk {
		return invalid("bulk.questions", "/questions", nil)
	}
	return s.change(ctx, studyID, title, func(d *draft) error {
		all, err := d.store.Questions(d.ctx, studyID)
		if err != nil {
			return err
		}
		byID := map[uint64]study.Question{}
		for _, q := range all {
			byID[q.ID] = q
		}
		list, err := d.bulkList(e, byID)
		if err != nil {
			return err
		}
		if e.Base != nil {
			if err := e.Base.Check(finder(all)); err != nil {
				return invalid("condition."+err.(*survey.ConditionError).Why, "/base", nil)
			}
		}
		if e.Kind != nil && *e.Kind == survey.Count && len(e.Questions) > 1 {
			return invalid("question.one_count", "/kind", nil)
		}
		var changed []edited
		for i, v := range e.Questions {
			before, ok := byID[v.ID]
			if !ok {
				return study.ErrNotFound
			}
			q := before
			q.Version = v.Version
			if q, err = e.apply(d, q, list); err == nil && len(v.Missing) > 0 {
				q, err = d.setMissing(q, v.Missing)
			}
			if err != nil {
				return inQuestion(err, i, before.Name)
			}
			changed = append(changed, edited{before, q})
		}
		return d.saveAll(changed)
	})
}

// inQuestion says which question of a bulk edit a refusal is about.
func inQuestion(err error, i int, name string) error {
	if bad, ok := err.(*InvalidError); ok {
		if bad.Values == nil {
			bad.Values = document.Values{}
		}
		bad.Field = fmt.Sprintf("/questions/%d", i)
		bad.Values["question"] = document.Text(name)
	}
	return err
}

// bulkList finds or makes the shared list that a bulk edit gives; nil for none.
func (d *draft) bulkList(e BulkEdit, byID map[uint64]study.Question) (*AnswerListView, error) {
	if e.MakeList != "" {
		first := byID[e.Questions[0].ID]
		l := AnswerListView{Name: e.MakeList}
		for _, a := range first.Answers {
			if a.Slot != survey.Blank && a.SameAs == nil {
				l.Answers = append(l.Answers, ListedAnswer{a.Code, a.Label, a.Missing, a.Score})
			}
		}
		if !first.Kind.Coded() || len(l.Answers) == 0 {
			return nil, invalid("list.answers", "/makeList", nil)
		}
		name, err := plain(e.MakeList, "/makeList", maxName, true)
		if err != nil {
			return nil, err
		}
		definition, err := jsonText(l.Answers)
		if err != nil {
			return nil, err
		}
		p, err := d.part(study.Part{Kind: study.AnswerList, Name: name, Definition: definition})
		l.ID = p.ID
		return &l, err
	}
	if e.ListID == nil || *e.ListID == 0 {
		return nil, nil
	}
	p, err := d.store.Part(d.ctx, d.study.ID, *e.ListID)
	if err != nil || p.Deleted || p.Kind != study.AnswerList {
		return nil, firstError(err, study.ErrNotFound)
	}
	l, err := listOf(p)
	return &l, err
}

func (e BulkEdit) apply(d *draft, q study.Question, list *AnswerListView) (study.Question, error) {
	var err error
	if e.Kind != nil {
		if q, err = d.recode(q, *e.Kind); err != nil {
			return q, err
		}
	}
	if e.Section != nil {
		if q.Section, err = plain(*e.Section, "/section", maxName, false); err != nil {
			return q, err
		}
	}
	if e.NoBase {
		q.Base = nil
	} else if e.Base != nil {
		q.Base = e.Base
	}
	if len(e.Missing) > 0 {
		if q, err = d.setMissing(q, e.Missing); err != nil {
			return q, err
		}
	}
	for rare, common := range e.SameAs {
		q.Question = survey.CountAs(q.Question, rare, common)
	}
	switch {
	case list != nil:
		if !q.Kind.Coded() || q.Derivation != nil {
			return q, invalid("question.no_list", "", nil)
		}
		q.ListID = &list.ID
		q.Question = survey.Describe(q.Question, list.answers())
	case e.ListID != nil:
		q.ListID = nil
	}
	if e.Labels != "" {
		if q.Answers, err = labelled(q.Answers, ParseLabels(e.Labels)); err != nil {
			return q, err
		}
	}
	if e.Reverse {
		q.Answers = reversed(q)
	}
	return q, nil
}

func (d *draft) setMissing(q study.Question, codes map[string]string) (study.Question, error) {
	reasons := map[string]string{}
	for code, reason := range codes {
		reason, err := plain(reason, "/missing", maxMissing, false)
		if err != nil {
			return q, err
		}
		reasons[strings.TrimSpace(code)] = reason
	}
	var column survey.Column
	if q.Kind.Measured() { // answers of a list are only marked
		var err error
		if column, err = d.column(q); err != nil {
			return q, err
		}
	}
	as, changed, _ := survey.SetMissing(q.Question, column, reasons)
	isNew := column.F64 != nil && &changed.F64[0] != &column.F64[0]
	q.Question = as
	if isNew {
		return d.newColumn(q, changed)
	}
	return q, nil
}

// labelled gives answers the labels of pasted lines, by code.
func labelled(answers []survey.Answer, lines []ListedAnswer) ([]survey.Answer, error) {
	out := slices.Clone(answers)
	for _, l := range lines {
		label, err := plain(l.Label, "/labels", maxLabel, true)
		if err != nil {
			return nil, err
		}
		for i, a := range out {
			if strings.TrimSpace(a.Code) == l.Code && a.Slot != survey.Blank {
				out[i].Label = label
			}
		}
	}
	return out, nil
}

// reversed turns a scale round: the proper answers stand the other way, and the
// scores go to the answer at the other end.
func reversed(q study.Question) []survey.Answer {
	scores := q.Scores()
	var proper, rest []survey.Answer
	for _, a := range q.Answers {
		if a.Proper() {
			proper = append(proper, a)
		} else {
			rest = append(rest, a)
		}
	}
	if q.Kind == survey.Ordered {
		for i := range proper {
			score := scores[proper[len(proper)-1-i].Slot]
			proper[i].Score = &score
		}
	}
	slices.Reverse(proper)
	return append(proper, rest...)
}
