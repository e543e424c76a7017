package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/study"
	"widetally/core/studyfile"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
)

// opening is a study file on its way into the store; the maps give the ids of what has been
// stored, by those in the file.
type opening struct {
	*StudyFiles
	ctx                        context.Context
	book                       studyfile.Codebook
	asked                      studyfile.Analyses
	tables                     studyfile.Tables
	table                      *intake.Table
	made                       study.Study
	questions, parts, analyses map[uint64]uint64
	sets                       map[uint64]*analysis.OnShelf
}

// broken says what of a study file is damaged.
func broken(why string, values document.Values) error {
	said := document.Say("packed.why."+why, values)
	return invalidSaying("packed.broken", "", document.Values{"why": {Kind: document.Said, Message: &said}})
}

func brokenIn(why, name string) error {
	return broken(why, document.Values{"name": document.Text(name)})
}

// run stores a study in pieces, which nobody sees until all of it is there.
func (o *opening) run(ctx context.Context, kept *arrivals.Pending, asks report.Report) (err error) {
	in := o.book.Study
	name, err := plain(in.Name, "/name", maxName, true)
	if err != nil {
		return err
	}
	units, err := plain(in.Units, "/units", maxUnits, true)
	if err != nil {
		return err
	}
	if in.Decimals < 0 || in.Decimals > 6 || in.Rows != int64(o.table.Rows) {
		return broken("rows", document.Values{"rows": document.N(int64(o.table.Rows)), "told": document.N(in.Rows)})
	}
	if o.made, err = o.store.BeginStudy(ctx, study.Study{Name: name, Units: units, Decimals: in.Decimals}); err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = o.store.EndStudy(context.WithoutCancel(ctx), o.made.ID) // else it goes with what was given up
		}
	}()
	begun := o.made
	err = o.store.InBulk(ctx, func(ctx context.Context) error {
		o.made, o.questions, o.parts = begun, map[uint64]uint64{}, map[uint64]uint64{}
		return o.steps(ctx, o.lists, o.addQuestions)
	})
	if err != nil {
		return err
	}
	if err := o.steps(ctx, o.columns); err != nil {
		return err
	}
	listed := o.parts
	return o.shown(ctx, o.made, kept, func(ctx context.Context) error {
		o.parts, o.analyses, o.sets = maps.Clone(listed), map[uint64]uint64{}, map[uint64]*analysis.OnShelf{}
		if err := o.steps(ctx, o.subgroups, o.design, o.addAnalyses, o.rest, o.tabulated); err != nil {
			return err
		}
		if err := o.report(asks); err != nil {
			return err
		}
		return describeFile(ctx, o.store, o.made.ID, o.table)
	})
}

func (o *opening) steps(ctx context.Context, steps ...func() error) error {
	o.ctx = ctx
	for _, step := range steps {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

func (o *opening) part(kind study.PartKind, id uint64, name, definition string) error {
	if _, err := plain(name, "/name", maxName, true); err != nil {
		return err
	}
	p, err := o.store.AddPart(o.ctx, study.Part{StudyID: o.made.ID, Kind: kind, Name: name, Definition: definition})
	if err == nil && id != 0 {
		o.parts[id] = p.ID
	}
	return err
}

func (o *opening) lists() error {
	for _, l := range o.book.Lists {
		if _, err := listOf(study.Part{Definition: string(l.Answers)}); err != nil {
			return broken("shared_list", nil)
		}
		if err := o.part(study.AnswerList, l.ID, l.Name, string(l.Answers)); err != nil {
			return err
		}
	}
	return nil
}

func (o *opening) question(id uint64) uint64 { return o.questions[id] }

// mostSources bounds what a question is made from, here and in a file.
const mostSources = survey.MostSetItems

// addQuestions stores the questions as they were; what they name of each other follows once all
// of them have their ids.
func (o *opening) addQuestions() error {
	list := make([]study.Question, len(o.book.Questions))
	seen := map[string]bool{}
	for i, q := range o.book.Questions {
		if !q.Kind.Known() || (q.Kind == survey.Summarised) != (q.Derivation != nil && q.Derivation.Rule == survey.Summaries) || q.ID == 0 || seen[q.Name] || q.Name == "" {
			return broken("question", document.Values{"n": document.N(int64(i + 1))})
		}
		seen[q.Name] = true
		one := study.Question{StudyID: o.made.ID, Position: i, KindReason: q.KindReason, Question: survey.Question{Name: q.Name, Wording: q.Wording, Short: q.Short, Note: q.Note, Section: q.Section, Kind: q.Kind, Derivation: q.Derivation}}
		slots := map[survey.Slot]bool{}
		for _, a := range q.Answers {
			if slots[a.Slot] {
				return brokenIn("answers", q.Name)
			}
			slots[a.Slot] = true
			one.Answers = append(one.Answers, survey.Answer(a))
		}
		for _, a := range one.Answers {
			if a.SameAs == nil {
				continue
			}
			if under, ok := one.Answer(*a.SameAs); !ok || under.SameAs != nil || *a.SameAs == a.Slot {
				return broken("same_as", document.Values{"answer": document.Text(a.Code), "name": document.Text(q.Name)})
			}
		}
		if q.Derivation != nil && len(q.Derivation.Sources) > mostSources {
			return broken("many_sources", document.Values{"name": document.Text(q.Name), "most": document.N(mostSources)})
		}
		if err := textsFit(one.Question, survey.Question{}); err != nil {
			return err
		}
		if q.List != 0 {
			id := o.parts[q.List]
			if id == 0 {
				return brokenIn("list", q.Name)
			}
			one.ListID = &id
		}
		list[i] = one
	}
	ids, err := o.store.AddQuestions(o.ctx, list)
	if err != nil {
		return err
	}
	for i, q := range o.book.Questions {
		o.questions[q.ID] = ids[i]
	}
	return o.named()
}

// named gives conditions and derivations the ids of the questions here.
func (o *opening) named() error {
	stored, err := o.store.Questions(o.ctx, o.made.ID)
	if err != nil {
		return err
	}
	find := func(id uint64) (survey.Question, bool) {
		for _, q := range stored {
			if q.ID == id {
				return q.Question, true
			}
		}
		return survey.Question{}, false
	}
	var edits []study.Question
	for i, q := range o.book.Questions {
		if q.Base == nil && q.Derivation == nil {
			continue
		}
		now := stored[i]
		if q.Base != nil {
			c := q.Base.Renamed(o.question)
			if err := c.Check(find); err != nil {
				return brokenIn("base", q.Name)
			}
			now.Base = &c
		}
		if q.Derivation != nil {
			by := *q.Derivation
			by.Sources = nil
			for _, id := range q.Derivation.Sources {
				if o.questions[id] == 0 {
					return brokenIn("sources", q.Name)
				}
				by.Sources = append(by.Sources, o.questions[id])
			}
			now.Derivation = &by
		}
		edits = append(edits, now)
	}
	if len(edits) == 0 {
		return nil
	}
	return o.store.EditQuestions(o.ctx, edits, func(int) bool { return false })
}

// columns stores the answers: those of the table as their questions have them, then what is
// derived from them.
func (o *opening) columns() error {
	o.made.Rows = int64(o.table.Rows)
	if by := o.book.Study.CountedBy; by != 0 {
		id := o.questions[by]
		if id == 0 {
			return broken("counts", nil)
		}
		if !slices.ContainsFunc(o.book.Questions, func(q studyfile.Question) bool { return q.ID == by && q.Kind == survey.Count }) {
			return broken("no_count", nil)
		}
		o.made.CountQuestion = &id
	}
	if err := o.store.SetStudyData(o.ctx, o.made); err != nil {
		return err
	}
	stored, err := o.store.Questions(o.ctx, o.made.ID)
	if err != nil {
		return err
	}
	var data []study.Column
	done := map[uint64]bool{}
	for _, q := range stored {
		if q.Derivation != nil {
			continue
		}
		at := slices.IndexFunc(o.table.Columns, func(b survey.Built) bool { return b.Name == q.Name })
		if at < 0 {
			return brokenIn("column_lacking", q.Name)
		}
		read, err := survey.ReadAs(q.Question, o.table.Columns[at])
		if err != nil {
			return brokenIn("column", q.Name)
		}
		answers, column, _, err := survey.Refit(q.Answers, read.Answers, read.Data, false)
		if err != nil || len(answers) != len(q.Answers) {
			return brokenIn("column_answers", q.Name)
		}
		data, done[q.ID] = append(data, study.Column{QuestionID: q.ID, Generation: 1, Column: column}), true
	}
	if err := o.store.SaveColumns(o.ctx, data, func(int) {}); err != nil {
		return err
	}
	d := newDraft(o.ctx, o.base, o.made)
	for again := true; again; {
		again = false
		for _, q := range stored {
			if done[q.ID] || slices.ContainsFunc(q.Derivation.Sources, func(id uint64) bool { return !done[id] }) {
				continue
			}
			column, err := d.derivedAgain(q)
			if bad := (*survey.DerivationError)(nil); errors.As(err, &bad) {
				return brokenIn("derived", q.Name)
			}
			if err != nil {
				return err
			}
			if err := o.store.SaveColumn(o.ctx, q.ID, 1, column); err != nil {
				return err
			}
			done[q.ID], again = true, true
		}
	}
	if len(done) != len(stored) {
		return broken("circle", nil)
	}
	return nil
}

// design stores how the respondents were drawn.
func (o *opening) design() error {
	if len(o.book.Design) == 0 {
		return nil
	}
	var is Design
	if err := json.Unmarshal(o.book.Design, &is); err != nil {
		return broken("design", nil)
	}
	seen := map[analysis.Key]bool{}
	for _, key := range is.Drawn.Questions() {
		if seen[key] {
			return broken("design", nil)
		}
		seen[key] = true
	}
	is, ok := is.moved(func(key analysis.Key) (analysis.Key, bool) {
		id, _ := idOf(key)
		return KeyOf(o.questions[id]), o.questions[id] != 0
	})
	if !ok {
		return broken("design", nil)
	}
	definition, err := jsonText(is)
	if err != nil {
		return err
	}
	return o.part(study.Design, 0, "design", definition)
}

func (o *opening) subgroups() error {
	stored, err := o.store.Questions(o.ctx, o.made.ID)
	if err != nil {
		return err
	}
	find := func(id uint64) (survey.Question, bool) {
		for _, q := range stored {
			if q.ID == id {
				return q.Question, true
			}
		}
		return survey.Question{}, false
	}
	for _, g := range o.book.Subgroups {
		c := g.Condition.Renamed(o.question)
		if err := c.Check(find); err != nil {
			return brokenIn("subgroup", g.Name)
		}
		definition, err := jsonText(c)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		if err := o.part(study.Subgroup, g.ID, g.Name, definition); err != nil {
			return err
		}
	}
	return nil
}
