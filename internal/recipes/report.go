package recipes

import (
	"context"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"widetally/core/analysis"
	"widetally/core/recipe"
	"widetally/core/report"
	"widetally/core/survey"
	"widetally/internal/reporting"
	"widetally/internal/said"
)

// Report gives the definition of the report and what it is made of. Without one in the recipe
// everything that was asked is reported in its order.
func (r *Run) Report() (report.Report, reporting.Content, error) {
	c := reporting.Content{Study: r.Recipe.Study.Name, Units: r.Recipe.Study.Units, Respondents: r.Respondents(), At: r.At, CountsBy: r.Recipe.Study.CountedBy, Weights: r.about(analysis.Spec{}).Weights,
		Tallies: map[int]*reporting.Tally{}, Analyses: map[int]*reporting.Analysis{}}
	if is := r.Recipe.Design; is != nil {
		by := is.Sampled(func(key analysis.Key) string { return string(key) })
		var told []string
		for _, m := range by.Drawn() {
			told = append(told, r.words.Say(m))
		}
		c.Weighted, c.Design, c.Weights = by.Weight, strings.Join(told, " "), ""
	}
	if a := r.Recipe.Adjustment; a != "" && a != analysis.NoAdjustment {
		c.Adjusted = r.words.Text("report.adjusted", map[string]string{"how": r.words.Text("adjustment.by."+string(a), nil)})
	}
	byName := map[string]*reporting.Analysis{}
	for _, one := range r.Results {
		a := r.reported(one)
		byName[one.Name] = &a
		if a.Claim > 0 {
			if c.Claims = append(c.Claims, a); a.Document != nil {
				c.Tests++
			}
		}
	}
	out, err := r.pieces(&c, byName)
	if err != nil {
		return out, c, err
	}
	if c.Since, err = r.since(context.Background()); err != nil {
		return out, c, err
	}
	return out, c, out.Check()
}

// pieces are the definition of the report, what they are made of put into the content.
func (r *Run) pieces(c *reporting.Content, byName map[string]*reporting.Analysis) (report.Report, error) {
	out := report.Report{}
	pieces := []recipe.Piece{}
	if in := r.Recipe.Report; in != nil {
		out = report.Report{Title: in.Title, Facts: in.Facts, Without: in.Without}
		if of := in.Compared; of != nil {
			out.Compared = &report.Compared{Question: 1, Wave: of.Wave, Since: of.Since} // any but 0: it is found by the recipe
		}
		pieces = in.Pieces
	} else {
		for _, one := range r.Results {
			pieces = append(pieces, recipe.Piece{Analysis: one.Name})
		}
	}
	for i, p := range pieces {
		id := i + 1
		one := report.Piece{ID: id, Prose: p.Prose, Figures: p.Figures, Base: p.Base, Shown: p.Shown}
		switch {
		case p.Tally != "":
			one.Question = 1 // any but 0: the content is found by the piece
			q, _ := r.Question(p.Tally)
			f, ok, err := r.Tally(p.Tally, p.Among)
			if err != nil {
				return out, fmt.Errorf("recipes: %w", err)
			}
			if ok {
				estimates, err := analysis.EstimatesOf(context.Background(), r.Source(), analysis.Key(p.Tally), analysis.Key(p.Among))
				if err != nil {
					return out, fmt.Errorf("recipes: %w", err)
				}
				number, err := r.Number(p.Tally, p.Among)
				if err != nil {
					return out, fmt.Errorf("recipes: %w", err)
				}
				c.Tallies[id] = &reporting.Tally{Question: q, Frequency: f, Units: r.Recipe.Study.Units, Within: p.Among, Decimals: *r.Recipe.Study.Decimals, Estimates: estimates.Shares, Numeric: number, EstimatedNumber: estimates.Number, Rule: r.rule()}
			}
		case p.Analysis != "":
			one.Analysis = 1
			c.Analyses[id] = byName[p.Analysis]
		}
		out.Pieces = append(out.Pieces, one)
	}
	return out, nil
}

// since is what the report tells of the wave since which it says what changed; nil for none.
func (r *Run) since(ctx context.Context) (*reporting.Since, error) {
	before, moved, err := r.Before()
	if err != nil || before == nil {
		return nil, err
	}
	then := &Run{Prepared: before, File: r.File, At: r.At, words: r.words, text: r.text}
	c := reporting.Content{
		Study: r.Recipe.Study.Name, Units: r.Recipe.Study.Units, At: r.At, Tallies: map[int]*reporting.Tally{}, Analyses: map[int]*reporting.Analysis{},
	}
	byName := map[string]*reporting.Analysis{}
	for i, a := range r.Recipe.Analyses {
		if !moved[string(a.Spec.Subgroup)] {
			continue
		}
		one, err := then.one(ctx, then.Source(), i, 1)
		if err != nil {
			return nil, err
		}
		of := then.reported(one)
		byName[a.Name] = &of
	}
	if _, err := then.pieces(&c, byName); err != nil {
		return nil, err
	}
	for i, p := range r.Recipe.Report.Pieces { // only what is about the wave can have changed
		if p.Tally != "" && !moved[p.Among] {
			delete(c.Tallies, i+1)
		}
		if c.Analyses[i+1] == nil {
			delete(c.Analyses, i+1)
		}
	}
	out := &reporting.Since{Content: c}
	out.Wave, out.Before = r.Wave()
	return out, nil
}

var claimName = regexp.MustCompile(`^claim (\d{1,6})$`)

func (r *Run) reported(one Result) reporting.Analysis {
	under := one.Under
	if under == "" && len(one.Spec.Questions) > 0 {
		under = string(one.Spec.Questions[0])
	}
	q, _ := r.Question(under)
	out := reporting.Analysis{Name: one.Name, Title: q.Short, Method: one.Spec.Method, Statement: one.Statement, Level: one.Spec.Settings.SignificanceLevel(), Document: said.Of(one.Document, r.words), Problems: one.Why(), Whom: one.Whom,
		Estimated: one.Outcome != nil && one.Outcome.Counted != nil && one.Outcome.Counted.Designed()}
	if one.Outcome != nil && one.Outcome.Counted != nil {
		all := make([]survey.Question, len(r.Questions))
		for i, q := range r.Questions {
			all[i] = q.Question
		}
		out.Asked = reporting.AskedOf(one.Outcome.Counted.Questions, all, false)
		if n, ok := one.Outcome.Counted.Unanswered(); ok {
			out.Missing = r.words.Fixed(float64(n), 0)
		}
	}
	for _, c := range one.Changed {
		text := c.Text
		if text == "" {
			text = r.words.Text(analysis.ChangeID(c.Field, c.Old, c.New), map[string]string{"old": analysis.Shown(c.Old), "new": analysis.Shown(c.New)})
		}
		out.Changes = append(out.Changes, text)
	}
	if out.Title == "" {
		out.Title = q.Wording
	}
	if found := claimName.FindStringSubmatch(one.Name); found != nil {
		out.Claim, _ = strconv.Atoi(found[1]) // six digits are a number
	}
	if cited, ok := one.Spec.Settings.(interface{ Cited() analysis.Reference }); ok {
		if out.Source = cited.Cited().Title; cited.Cited().Date != "" {
			out.Source += ", " + cited.Cited().Date
		}
	}
	stated := func(text string) time.Time {
		if t, err := time.Parse(time.RFC3339, text); err == nil {
			return t
		}
		return r.At
	}
	out.StatedAt = stated(one.Stated)
	run := r.At
	if one.FirstRun != "" {
		run = stated(one.FirstRun)
	}
	if one.FirstRun != "" || one.Document != nil {
		out.FirstRunAt = &run
	}
	return out
}
