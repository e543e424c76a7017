package service

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"time"

	"widetally/core/analysis"
	"widetally/core/recipe"
	"widetally/core/survey"
	"widetally/internal/intake"
	"widetally/internal/recipes"
)

// RecipeFile writes the recipe of a study to a file and returns it, open at its beginning; the
// caller closes and removes it.
func (s *StudyFiles) RecipeFile(ctx context.Context, studyID uint64) (*os.File, error) {
	r, err := s.Recipe(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.room.Outgoing(func(w io.Writer) error { return recipes.Write(w, r) })
}

// Recipe is the analysis of a study as a document that runs on a file of the same columns, in
// names and codes.
func (s *StudyFiles) Recipe(ctx context.Context, studyID uint64) (recipe.Recipe, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return recipe.Recipe{}, err
	}
	out, err := s.recipe(d)
	if err != nil {
		return out, err
	}
	if err := s.recipeTables(ctx, d, &out); err != nil {
		return out, err
	}
	if err := out.Check(); err != nil {
		return out, fmt.Errorf("service: recipe: %w", err)
	}
	files, err := s.store.Files(ctx, studyID)
	for _, f := range files {
		var settings intake.Settings
		if err := json.Unmarshal([]byte(f.Settings), &settings); err != nil {
			return out, fmt.Errorf("service: file %d: %w", f.ID, err)
		}
		if settings.LastRow != "" {
			out.Data.LastRow = string(settings.LastRow)
		}
		if out.Data.Missing = settings.Missing; settings.HeaderSaid && settings.HeaderRow == 0 {
			out.Data.Header = "none"
		}
	}
	return out, err
}

func (s *StudyFiles) recipe(d *dataset) (recipe.Recipe, error) {
	find := func(id uint64) (survey.Question, bool) {
		q, ok := d.question(id)
		return q.Question, ok
	}
	out := recipe.Recipe{Format: recipe.Format, Version: recipe.Version, Study: recipe.Study{Name: d.study.Name, Units: d.study.Units, Decimals: &d.study.Decimals, CountedBy: d.countedBy()}, Questions: []recipe.Question{}, Analyses: []recipe.Analysis{}, Adjustment: d.adjustment.Adjustment}
	for _, q := range d.questions {
		out.Questions = append(out.Questions, recipe.QuestionOf(q.Question, find))
	}
	for _, part := range d.parts {
		if part.Deleted {
			continue
		}
		c, err := conditionOf(part)
		if err != nil {
			return out, err
		}
		out.Subgroups = append(out.Subgroups, recipe.Subgroup{Name: part.Name, Condition: recipe.ConditionOf(c, find)})
	}
	if is := d.inForce(); is != nil {
		named, _ := d.design.moved(func(key analysis.Key) (analysis.Key, bool) {
			id, _ := idOf(key)
			q, ok := d.question(id)
			return analysis.Key(q.Name), ok
		})
		out.Design = &named.Drawn
	}
	var standing []asked
	for _, q := range d.questions {
		standing = append(standing, d.analyses.byQuestion[q.ID]...)
	}
	slices.SortStableFunc(standing, func(a, b asked) int { return a.Number - b.Number })
	names := map[uint64]string{}
	for _, a := range standing {
		under, _ := find(a.QuestionID)
		row := RegisterRow{AnalysisView: AnalysisView{Analysis: a.Analysis}}
		one := recipe.Analysis{Name: row.ReportName(), Under: under.Name, Spec: d.renamed(a.spec)}
		if a.Number > 0 {
			one.Stated = a.StatedAt.UTC().Format(time.RFC3339)
			if a.FirstRunAt != nil {
				one.FirstRun = a.FirstRunAt.UTC().Format(time.RFC3339)
			}
			for _, c := range d.analyses.changes[a.ID] {
				one.Changed = append(one.Changed, recipe.Change{Field: c.Field, Old: c.Old, New: c.New})
			}
		}
		names[a.ID] = one.Name
		out.Analyses = append(out.Analyses, one)
	}
	if len(d.report.Pieces) > 0 || d.report.Title != "" || len(d.report.Facts) > 0 {
		out.Report = &recipe.Report{Compared: d.comparedNames(), Title: d.report.Title, Facts: d.report.Facts, Without: d.report.Without, Pieces: []recipe.Piece{}}
		for _, p := range d.report.Pieces {
			one := recipe.Piece{Base: p.Base, Shown: p.Shown, Prose: p.Prose, Figures: p.Figures, Analysis: names[p.Analysis]}
			q, there := find(p.Question)
			if there {
				one.Tally = q.Name
			}
			if p.Among != 0 {
				part, _ := d.part(p.Among)
				one.Among = part.Name
			}
			if p.Question != 0 && !there || p.Analysis != 0 && one.Analysis == "" {
				continue // no longer in the study
			}
			out.Report.Pieces = append(out.Report.Pieces, one)
		}
	}
	return out, nil
}

// comparedNames are the waves that the report compares, by names; nil for none.
func (d *dataset) comparedNames() *recipe.Compared {
	c := d.report.Compared
	if c == nil {
		return nil
	}
	q, there := d.question(c.Question)
	if !there {
		return nil
	}
	return &recipe.Compared{Question: q.Name, Wave: c.Wave, Since: c.Since}
}

// renamed gives a spec the names of its questions and of its subgroup.
func (d *dataset) renamed(s analysis.Spec) analysis.Spec {
	keys := make([]analysis.Key, len(s.Questions))
	for i, key := range s.Questions {
		id, _ := idOf(key)
		q, _ := d.question(id)
		keys[i] = analysis.Key(q.Name)
	}
	s.Questions = keys
	if id, ok := idOf(s.Subgroup); ok {
		part, _ := d.part(id)
		s.Subgroup = analysis.Key(part.Name)
	}
	return s
}
