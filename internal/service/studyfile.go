package service

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/studyfile"
	"widetally/core/survey"
	"widetally/internal/export"
)

// mostHistory bounds the edits that a study file tells.
const mostHistory = 1000

// StudyFile writes a whole study to one file, a Data Package with its documents, and returns
// it, open at its beginning; the caller closes and removes it. told is told how many of the rows
// are written; nil for nobody.
func (s *StudyFiles) StudyFile(ctx context.Context, studyID uint64, told func(done, of int)) (*os.File, error) {
	if err := s.may(ctx, studyID, study.ToSeeAnswers); err != nil {
		return nil, err
	}
	return s.room.Outgoing(func(w io.Writer) error {
		p, err := s.page(ctx, studyID, nil)
		if err != nil {
			return err
		}
		documents, err := s.documents(ctx, p)
		if err != nil {
			return err
		}
		return s.writePackage(ctx, p, documents, told, w)
	})
}

// documents are those of a study beside its answers.
func (s *StudyFiles) documents(ctx context.Context, p *page) (out []export.Document, err error) {
	book, err := s.codebookDocument(ctx, p)
	if err != nil {
		return nil, err
	}
	asked, err := s.analysesDocument(ctx, p)
	if err != nil {
		return nil, err
	}
	history, err := s.historyDocument(ctx, p.study.ID)
	if err != nil {
		return nil, err
	}
	reported := studyfile.Report{Head: head(studyfile.ReportFormat), Report: p.report}
	out = []export.Document{{Name: studyfile.CodebookName, Content: book}, {Name: studyfile.AnalysesName, Content: asked},
		{Name: studyfile.ReportName, Content: reported}, {Name: studyfile.HistoryName, Content: history}}
	tables, err := s.tablesDocument(ctx, p.dataset)
	if err != nil {
		return nil, err
	}
	if len(tables.Banners)+len(tables.Books)+len(tables.Nets.Questions)+len(tables.Nets.Lists) > 0 {
		out = append(out, export.Document{Name: studyfile.TablesName, Content: tables})
	}
	r, err := s.recipe(p.dataset)
	if err == nil && s.recipeTables(ctx, p.dataset, &r) == nil && r.Check() == nil { // one that cannot be is no reason to keep the study back
		out = append(out, export.Document{Name: studyfile.RecipeName, Content: r})
	}
	return out, nil
}

func head(format string) studyfile.Head {
	return studyfile.Head{Format: format, Version: studyfile.Version}
}

func (s *StudyFiles) codebookDocument(ctx context.Context, p *page) (studyfile.Codebook, error) {
	st := p.study
	out := studyfile.Codebook{Head: head(studyfile.CodebookFormat), Study: studyfile.Study{Name: st.Name, Units: st.Units, Decimals: st.Decimals, Rows: st.Rows}, Questions: []studyfile.Question{}, Lists: []studyfile.List{}, Subgroups: []studyfile.Subgroup{}}
	if st.CountQuestion != nil {
		out.Study.CountedBy = *st.CountQuestion
	}
	for _, q := range p.questions {
		one := studyfile.Question{ID: q.ID, Name: q.Name, Wording: q.Wording, Short: q.Short, Note: q.Note, Section: q.Section, Kind: q.Kind, KindReason: q.KindReason, Base: q.Base, Derivation: q.Derivation, Answers: make([]studyfile.Answer, len(q.Answers))}
		if q.ListID != nil {
			one.List = *q.ListID
		}
		for i, a := range q.Answers {
			one.Answers[i] = studyfile.Answer(a)
		}
		out.Questions = append(out.Questions, one)
	}
	lists, err := s.store.Parts(ctx, st.ID, study.AnswerList)
	if err != nil {
		return out, err
	}
	for _, l := range lists {
		if !l.Deleted {
			out.Lists = append(out.Lists, studyfile.List{ID: l.ID, Name: l.Name, Answers: json.RawMessage(l.Definition)})
		}
	}
	for _, part := range p.parts {
		if part.Deleted {
			continue
		}
		c, err := conditionOf(part)
		if err != nil {
			return out, err
		}
		out.Subgroups = append(out.Subgroups, studyfile.Subgroup{ID: part.ID, Name: part.Name, Condition: c})
	}
	if len(p.design.Drawn.Questions()) > 0 {
		out.Design, err = json.Marshal(p.design)
	}
	return out, err
}

func (s *StudyFiles) analysesDocument(ctx context.Context, p *page) (studyfile.Analyses, error) {
	out := studyfile.Analyses{Head: head(studyfile.AnalysesFormat), Analyses: []studyfile.Analysis{}, Changes: []studyfile.Change{}, Answered: p.answered, Rules: rulesNow, Shares: map[uint64]shares.Set{}}
	list, err := s.store.AllAnalyses(ctx, p.study.ID)
	if err != nil {
		return out, err
	}
	known := map[uint64]bool{}
	for _, a := range list {
		spec, err := s.specOf(a)
		if err != nil {
			return out, err
		}
		if _, there := p.question(a.QuestionID); !there || len(p.questionsOf(spec)) != len(spec.Questions) {
			continue // withdrawn, on a question that is gone since
		}
		one := studyfile.Analysis{ID: a.ID, Question: a.QuestionID, Claim: a.Number, Spec: spec, StatedAt: a.StatedAt, FirstRunAt: a.FirstRunAt, WithdrawnAt: a.WithdrawnAt}
		if a.FirstInputs != "" {
			one.FirstInputs = json.RawMessage(a.FirstInputs)
			if one.SameSubgroup, err = p.sameSubgroup(a, spec); err != nil {
				return out, err
			}
		}
		if err := s.sharesUsed(ctx, spec, out.Shares); err != nil {
			return out, err
		}
		known[a.ID] = true
		out.Analyses = append(out.Analyses, one)
	}
	changes, err := s.store.Changes(ctx, p.study.ID)
	if err != nil {
		return out, err
	}
	for _, c := range changes {
		_, there := p.question(c.SubjectID)
		switch {
		case c.Subject == study.OfClaim && known[c.SubjectID]:
			out.Changes = append(out.Changes, studyfile.Change{Of: "claim", ID: c.SubjectID, Field: c.Field, Old: c.Old, New: c.New, AfterRun: c.AfterRun, At: c.At})
		case c.Subject == study.OfQuestion && there:
			out.Changes = append(out.Changes, studyfile.Change{Of: "question", ID: c.SubjectID, Field: c.Field, Old: c.Old, New: c.New, AfterRun: c.AfterRun, At: c.At})
		}
	}
	parts, err := s.store.Parts(ctx, p.study.ID, study.Adjustment)
	if err != nil {
		return out, err
	}
	for _, part := range parts {
		if !part.Deleted {
			out.Adjustment = json.RawMessage(part.Definition)
		}
	}
	return out, nil
}

// sameSubgroup says whether the subgroup of a claim means whom it meant at the first run.
func (d *dataset) sameSubgroup(a study.Analysis, spec analysis.Spec) (bool, error) {
	first, err := d.methods.ReadInputs(a.FirstInputs, spec)
	if err != nil {
		return false, fmt.Errorf("service: analysis %d: %w", a.ID, err)
	}
	now, err := d.subgroupOf(spec)
	return err == nil && now != "" && now == first.Subgroup, err
}

// subgroupOf tells whom the subgroup of a spec means; "" for everyone.
func (d *dataset) subgroupOf(s analysis.Spec) (string, error) {
	id, ok := idOf(s.Subgroup)
	if !ok {
		return "", nil
	}
	part, _ := d.part(id)
	return subgroupInputs(part, d.question)
}

// sharesUsed adds the set of the shelf that a spec was stated with.
func (s *StudyFiles) sharesUsed(ctx context.Context, spec analysis.Spec, sets map[uint64]shares.Set) error {
	from, ok := spec.Settings.(interface{ Cited() analysis.Reference })
	if !ok || from.Cited().Shelf == nil {
		return nil
	}
	shelf := from.Cited().Shelf
	versions, err := s.store.ShareVersions(ctx, shelf.Set)
	if err != nil || s.maySet(ctx, shelf.Set, study.ToSee) != nil {
		return nil //nolint:nilerr // a set that is gone, or somebody else's: the claim has its own copy
	}
	for _, row := range versions {
		if row.Version != shelf.Version {
			continue
		}
		set, err := shareSetOf(row)
		if err != nil {
			return err
		}
		sets[shelf.Set] = set.Set
	}
	return nil
}

func (s *StudyFiles) historyDocument(ctx context.Context, studyID uint64) (studyfile.History, error) {
	out := studyfile.History{Head: head(studyfile.HistoryFormat), Edits: []studyfile.Edit{}}
	edits, err := s.store.Edits(ctx, studyID, mostHistory)
	if err != nil {
		return out, err
	}
	for _, e := range edits {
		values, err := document.StoreValues(e.Values)
		if err != nil {
			return out, fmt.Errorf("service: edit %d: %w", e.ID, err)
		}
		out.Edits = append(out.Edits, studyfile.Edit{At: e.At, Message: "history." + e.Title, Values: values, Undone: e.State != study.Done})
	}
	return out, nil
}

// writePackage writes the answers of a study, with documents beside them.
func (s *StudyFiles) writePackage(ctx context.Context, p *page, documents []export.Document, told func(done, of int), w io.Writer) error {
	codes := make([]func(int) string, len(p.questions))
	questions := make([]survey.Question, len(p.questions))
	for i, q := range p.questions {
		column, err := s.load(ctx, q, p.study.Rows)
		if err != nil {
			return err
		}
		codes[i], questions[i] = q.Writer(column, false), q.Question
	}
	cells := make([]string, len(codes))
	return export.Package(w, p.study.Name, questions, documents, int(p.study.Rows), func(i int) ([]string, error) {
		if i%4096 == 0 {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if told != nil {
				told(i, int(p.study.Rows))
			}
		}
		for k, code := range codes {
			cells[k] = code(i)
		}
		return cells, nil
	})
}
