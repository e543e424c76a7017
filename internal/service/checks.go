package service

import (
	"context"
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
)

// SpecCheck is what a spec amounts to before anything is stated.
type SpecCheck struct {
	Problems []analysis.Problem
	// Statement is what it would say, where nothing keeps it from being asked.
	Statement document.Message
	// Tests says that it is a claim as it stands; without what a test rests on it only describes.
	Tests bool
	// Groups are the answers of the second question, among which groups are chosen.
	Groups []survey.Answer
}

// CheckSpec tells what keeps a spec from being asked of a study, before anything is stated.
func (s *Claims) CheckSpec(ctx context.Context, studyID uint64, spec analysis.Spec) (c SpecCheck, err error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return c, err
	}
	for i, key := range spec.Questions {
		id, _ := idOf(key)
		if _, ok := d.question(id); !ok {
			return c, invalid("spec.question", fmt.Sprintf("/questions/%d", i), map[string]string{"text": string(key)})
		}
	}
	questions := d.questionsOf(spec)
	c.Tests = spec.Settings.Tests()
	if len(questions) > 1 {
		c.Groups = questions[1].Proper()
	}
	if c.Problems = spec.CheckBy(d.inForce() != nil, questions); analysis.Refuse(c.Problems) == nil {
		c.Statement = spec.Settings.Statement(questions, d.about(spec))
	}
	return c, nil
}

// ShareCheck is what entered shares amount to, before anything is stated.
type ShareCheck struct {
	Answers  []survey.Answer
	Names    []shares.Name
	Figures  []string // as typed, after pasted lines were matched by name
	Aligned  *shares.Aligned
	Problems []shares.Problem // of matching and of the figures
	Loose    []int
}

// CheckShares matches pasted lines to the answers of a question by name, or takes
// figures by code, and says whether they can be used.
func (s *Claims) CheckShares(ctx context.Context, studyID, questionID uint64, scale shares.Scale, rescale bool, figures map[string]string, pasted string) (*ShareCheck, error) {
	if !slices.Contains(shares.Scales, scale) {
		return nil, invalid("claim.scale", "/scale", nil)
	}
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	q, ok := d.question(questionID)
	switch {
	case !ok:
		return nil, study.ErrNotFound
	case !q.Kind.Coded():
		return nil, invalid("claim.kind", "/scale", nil)
	}
	c := &ShareCheck{Answers: q.Question.Proper()}
	for _, a := range c.Answers {
		c.Names = append(c.Names, shares.Name{Label: a.Label, Code: a.Code})
	}
	if pasted != "" {
		c.Figures, c.Loose, c.Problems = shares.Match(c.Names, shares.ParseLines(pasted))
	} else {
		for _, a := range c.Answers {
			c.Figures = append(c.Figures, figures[a.Code])
		}
	}
	c.Aligned = shares.Normalise(c.Names, c.Figures, scale, rescale)
	c.Problems = append(c.Problems, c.Aligned.Problems...)
	return c, nil
}

// Compute asks a spec of counts that come with it; nothing is kept. Where problems keep it
// from being asked there is no outcome.
func (s *Claims) Compute(ctx context.Context, spec analysis.Spec, counts analysis.Typed) (*analysis.Outcome, []analysis.Problem, error) {
	if err := counts.Check(); err != nil {
		return nil, nil, err
	}
	var questions []survey.Question
	for _, key := range spec.Questions {
		if q, err := counts.Question(ctx, key); err == nil {
			questions = append(questions, q)
		}
	}
	problems := spec.Check(questions)
	if len(withoutDoubts(problems)) > 0 {
		return nil, problems, nil
	}
	counted, err := analysis.Count(ctx, spec, counts)
	if err != nil {
		return nil, nil, err
	}
	o, err := s.outcome(ctx, spec, counted)
	return o, problems, err
}
