package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/study"
	"widetally/core/survey"
)

// AnalysisView is something that is asked of a study as the page shows it: a claim, or what
// is only described.
type AnalysisView struct {
	study.Analysis
	Spec analysis.Spec
	// Statement is what a claim says; without an id where nothing is claimed.
	Statement document.Message
	Changes   []study.Change
	// Problems keep it from being asked as things are now.
	Problems []analysis.Problem
	// Outcome and Document are set once it has been run; Refusal when the core cannot run
	// it on the answers as they are now.
	Outcome  *analysis.Outcome
	Document *document.Document
	Refusal  *infer.InputError
	// Differs lists what the result depends on that is not as it was at the first run.
	Differs []analysis.Difference
	// Damaged is set instead when a column that it needs is damaged.
	Damaged *study.DamagedError
	// Whom says of how many respondents a result speaks that does not say so itself.
	Whom document.Message
	// Rule is what may be told of it where it leaves, N of how many respondents it is; 0 where nobody says.
	Rule disclosure.Rule
	N    int64
	// Selected says that it is in the report.
	Selected bool
	// Estimable says that a design is in force.
	Estimable bool
	// Answered are the notes in its margin that were answered, by rule, with the reason.
	Answered map[string]string
}

// Estimated reports whether its figures estimate the population by a design.
func (v AnalysisView) Estimated() bool {
	return v.Outcome != nil && v.Outcome.Counted != nil && v.Outcome.Counted.Designed()
}

// asked is a stored analysis with what it asks.
type asked struct {
	study.Analysis
	spec analysis.Spec
}

type studyAnalyses struct {
	byQuestion map[uint64][]asked
	changes    map[uint64][]study.Change
	withdrawn  []asked // claims
	testsRun   int     // of claims withdrawn since, too
	looks      int     // at crossings of one question with several
}

func (s *base) specOf(a study.Analysis) (analysis.Spec, error) {
	spec, err := s.methods.Spec([]byte(a.Spec))
	if err != nil {
		return spec, fmt.Errorf("service: analysis %d: %w", a.ID, err)
	}
	return spec, nil
}

// countedAnew files a change to what is counted in a question under every claim about it
// of which it was not noted what its result depended on, marked when the test had already
// been run.
func (all *studyAnalyses) countedAnew(change study.Change) {
	if change.Field != countingField {
		return
	}
	for _, a := range all.byQuestion[change.SubjectID] {
		if a.FirstInputs != "" || a.Number == 0 || !change.At.After(a.StatedAt) {
			continue // what matters is found by comparing
		}
		change.AfterRun = a.FirstRunAt != nil && change.At.After(*a.FirstRunAt)
		all.changes[a.ID] = append(all.changes[a.ID], change)
	}
}

// nameSubgroups gives changes of whom a claim is about the names of subgroups, which were kept by their ids once.
func (all *studyAnalyses) nameSubgroups(part func(id uint64) (study.Part, bool)) {
	for _, list := range all.changes {
		for i := range list {
			for _, of := range []*string{&list[i].Old, &list[i].New} {
				if list[i].Field != subgroupField {
					break
				}
				if id, ok := idOf(analysis.Key(*of)); ok {
					if p, there := part(id); there {
						*of = p.Name
					}
				}
			}
		}
	}
}

func (s *base) analysesOf(ctx context.Context, rows analysisReader, studyID uint64) (*studyAnalyses, error) {
	list, err := rows.AllAnalyses(ctx, studyID)
	if err != nil {
		return nil, err
	}
	changes, err := rows.Changes(ctx, studyID)
	if err != nil {
		return nil, err
	}
	out := &studyAnalyses{byQuestion: map[uint64][]asked{}, changes: map[uint64][]study.Change{}}
	for _, a := range list {
		spec, err := s.specOf(a)
		if err != nil {
			return nil, err
		}
		if a.FirstRunAt != nil && a.Number > 0 {
			out.testsRun++
		}
		out.looks += spec.Looks()
		switch {
		case a.WithdrawnAt == nil:
			out.byQuestion[a.QuestionID] = append(out.byQuestion[a.QuestionID], asked{a, spec})
		case a.Number > 0:
			out.withdrawn = append(out.withdrawn, asked{a, spec})
		}
	}
	for _, change := range changes {
		switch change.Subject {
		case study.OfClaim:
			out.changes[change.SubjectID] = append(out.changes[change.SubjectID], change)
		case study.OfQuestion:
			out.countedAnew(change)
		}
	}
	return out, nil
}

// about is what the sentences about a spec need beyond the numbers.
func (d *dataset) about(s analysis.Spec) claim.About {
	about := claim.About{Units: document.Text(d.study.Units)}
	if d.inForce() == nil || s.Unweighted {
		about.Weights = d.weights()
	}
	if id, ok := idOf(s.Subgroup); ok {
		part, _ := d.part(id)
		within := say.ClaimInSubgroup(document.Text(d.study.Units), part.Name)
		about.Units = document.Value{Kind: document.Said, Message: &within}
	}
	return about
}

// questionsOf gives the questions that a spec names, as far as they are there.
func (d *dataset) questionsOf(s analysis.Spec) (out []survey.Question) {
	for _, key := range s.Questions {
		id, _ := idOf(key)
		if q, ok := d.question(id); ok {
			out = append(out, q.Question)
		}
	}
	return out
}

// analysisView shows one analysis on the answers as they are, among the respondents that
// it is about.
func (s *base) analysisView(ctx context.Context, d *dataset, a asked) (AnalysisView, error) {
	out := AnalysisView{Analysis: a.Analysis, Spec: a.spec, Changes: d.analyses.changes[a.ID], Selected: d.selected[pieceKey{analysis: a.ID}], Answered: d.answered[a.ID], Estimable: d.inForce() != nil, Rule: d.rule}
	about := d.about(a.spec)
	questions := d.questionsOf(a.spec)
	if out.Problems = withoutDoubts(a.spec.CheckBy(d.inForce() != nil, questions)); len(questions) == len(a.spec.Questions) {
		out.Statement = a.spec.Settings.Statement(questions, about)
	}
	if len(out.Problems) > 0 || a.spec.Settings.Tests() && a.FirstRunAt == nil {
		return out, nil
	}
	counted, err := analysis.Count(ctx, a.spec, s.source(ctx, d))
	var refused *analysis.SpecError
	switch {
	case errors.As(err, &out.Damaged):
		return out, nil
	case errors.As(err, &refused):
		out.Problems = append(out.Problems, refused.Problem)
		return out, nil
	case err != nil:
		return out, err
	}
	if out.Outcome, err = s.outcome(ctx, a.spec, counted); err != nil {
		return out, err
	}
	if errors.As(out.Outcome.Refusal, &out.Refusal) {
		return out, nil
	}
	doc := out.Outcome.Document(about)
	if a.Number > 0 {
		d.adjustment.Adjustment.Remind(&doc, d.analyses.testsRun, d.analyses.looks, a.spec.Settings.SignificanceLevel())
	}
	out.Document = &doc
	if n, ok := counted.Respondents(); ok {
		out.N = n
		out.Whom = say.LeavesCounted(d.rule.Rounded(n), about.Units)
	}
	return out, d.differs(&out, counted)
}

func withoutDoubts(problems []analysis.Problem) (out []analysis.Problem) {
	for _, p := range problems {
		if !p.Doubt {
			out = append(out, p)
		}
	}
	return out
}

// outcome computes a result, or takes it from memory: the same question about the same
// counts has the same answer.
func (s *base) outcome(ctx context.Context, spec analysis.Spec, counted *analysis.Counted) (*analysis.Outcome, error) {
	digest, err := analysis.Digest(spec, counted)
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	if known, ok := s.outcomes.Get(digest); ok {
		again := *known.Outcome // the labels may be others
		again.Spec, again.Counted = spec, counted
		return &again, nil
	}
	o, err := analysis.Run(analysis.Work{Context: ctx, Steps: analysis.UsualSteps, Replicates: analysis.UsualReplicates}, spec, counted)
	if err != nil {
		return nil, err
	}
	s.outcomes.Put(digest, result{o})
	return o, nil
}

// differs notes what is not as it was when a claim's test was first run.
func (d *dataset) differs(out *AnalysisView, counted *analysis.Counted) error {
	if out.FirstInputs == "" {
		return nil
	}
	first, err := d.methods.ReadInputs(out.FirstInputs, out.Spec)
	if err != nil {
		return fmt.Errorf("service: analysis %d: %w", out.ID, err)
	}
	now, err := d.inputs(out.Spec, counted)
	if err != nil {
		return err
	}
	out.Differs = now.Since(first)
	return nil
}

// inputs is what the result of a spec depends on now.
func (d *dataset) inputs(s analysis.Spec, counted *analysis.Counted) (analysis.Inputs, error) {
	subgroup := ""
	if id, ok := idOf(s.Subgroup); ok {
		part, _ := d.part(id)
		var err error
		if subgroup, err = subgroupInputs(part, d.question); err != nil {
			return analysis.Inputs{}, err
		}
	}
	in, err := analysis.InputsOf(s, counted, subgroup, d.countedBy())
	if err != nil {
		return in, fmt.Errorf("service: %w", err)
	}
	return in, nil
}

// subgroupInputs tells whom a subgroup means: its definition, and how the questions that
// it looks at are counted.
func subgroupInputs(part study.Part, find func(id uint64) (study.Question, bool)) (string, error) {
	c, err := conditionOf(part)
	if err != nil {
		return "", err
	}
	return conditionInputs(c, find)
}

// conditionInputs tells whom a condition means, as subgroupInputs does.
func conditionInputs(c survey.Condition, find func(id uint64) (study.Question, bool)) (string, error) {
	used := map[string]any{}
	for _, id := range c.Questions() {
		if q, ok := find(id); ok {
			used[fmt.Sprint(id)] = []any{q.Generation, countingOf(q.Answers)}
		}
	}
	raw, err := json.Marshal([]any{c, used})
	return string(raw), err
}

// Analysis shows one analysis of a study.
func (s *Claims) Analysis(ctx context.Context, studyID, id uint64) (AnalysisView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return AnalysisView{}, err
	}
	for _, list := range d.analyses.byQuestion {
		for _, a := range list {
			if a.ID == id {
				return s.analysisView(ctx, d, a)
			}
		}
	}
	return AnalysisView{}, study.ErrNotFound
}

// nameOf tells which analysis uses something.
func nameOf(a study.Analysis) document.Value {
	if a.Number > 0 {
		claim := say.UseClaim(int64(a.Number))
		return document.Value{Kind: document.Said, Message: &claim}
	}
	return document.Term("use.crossing")
}
