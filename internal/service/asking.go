package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// State keeps a new analysis under the first question that it names, runs a claim's test at
// once where run says so, and returns its id and
// that of the question. Both happen, or neither.
func (s *Claims) State(ctx context.Context, studyID uint64, spec analysis.Spec, run bool) (id, questionID uint64, err error) {
	title := Title{To: study.ToAsk, ID: "asked", Values: document.Values{}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		a := study.Analysis{StudyID: studyID}
		if err := d.ask(&a, spec); err != nil {
			return err
		}
		if a, err = d.store.AddAnalysis(d.ctx, a, spec.Settings.Tests()); err != nil {
			return err
		}
		id, questionID, title.Values["what"] = a.ID, a.QuestionID, nameOf(a)
		if run && spec.Settings.Tests() {
			if err := d.run(a, spec); err != nil {
				return err
			}
		}
		after, err := analysisState(a)
		d.note(subject{study.OfAnalysis, a.ID}, snapshot{}, after)
		return err
	})
	return id, questionID, err
}

// ask checks a spec against the study and takes it over into an analysis.
func (d *draft) ask(a *study.Analysis, spec analysis.Spec) error {
	var questions []survey.Question
	for i, key := range spec.Questions {
		pointer := fmt.Sprintf("/questions/%d", i)
		id, ok := idOf(key)
		if !ok {
			return invalid("spec.question", pointer, map[string]string{"text": string(key)})
		}
		q, err := d.question(id)
		if errors.Is(err, study.ErrNotFound) {
			return invalid("spec.question", pointer, map[string]string{"text": string(key)})
		}
		if err != nil {
			return err
		}
		if i == 0 {
			a.QuestionID = id
		}
		questions = append(questions, q.Question)
	}
	drawn, err := d.inForce()
	if err != nil {
		return err
	}
	if err := analysis.Refuse(spec.CheckBy(drawn != nil, questions)); err != nil {
		return err
	}
	if spec.Subgroup != "" {
		id, ok := idOf(spec.Subgroup)
		part, err := d.store.Part(d.ctx, d.study.ID, id)
		if !ok || errors.Is(err, study.ErrNotFound) || err == nil && (part.Deleted || part.Kind != study.Subgroup) {
			return invalid("claim.subgroup", "/subgroup", nil)
		}
		if err != nil {
			return err
		}
	}
	a.Uses = usesOf(spec)
	a.Spec, err = jsonText(spec)
	return err
}

// run notes that a claim's test is run, and what its result depends on.
func (d *draft) run(a study.Analysis, spec analysis.Spec) error {
	inputs, err := d.runInputs(spec)
	if err != nil {
		return err
	}
	return d.store.MarkRun(d.ctx, a.ID, inputs)
}

// runInputs computes, within a transaction, what the result of a spec depends on now.
func (d *draft) runInputs(spec analysis.Spec) (string, error) {
	all, err := d.store.AllQuestions(d.ctx, d.study.ID)
	if err != nil {
		return "", err
	}
	find := func(id uint64) (study.Question, bool) { q, ok := all[id]; return q, ok }
	times, err := d.times()
	if err != nil {
		return "", err
	}
	drawn, err := d.inForce()
	if err != nil {
		return "", err
	}
	subgroup := ""
	src := analysis.Columns{
		Design: drawn,
		KeyOf:  KeyOf,
		Get: func(key analysis.Key) (survey.Source, error) {
			id, _ := idOf(key)
			return d.source(id)
		},
		Sample: func(key analysis.Key) (survey.Sample, error) {
			of := survey.Sample{Frequency: times}
			id, ok := idOf(key)
			if !ok {
				return of, nil
			}
			part, err := d.store.Part(d.ctx, d.study.ID, id)
			if err != nil {
				return of, err
			}
			condition, err := conditionOf(part)
			if err != nil {
				return of, err
			}
			if subgroup, err = subgroupInputs(part, find); err != nil {
				return of, err
			}
			of.Subset, err = condition.Evaluate(int(d.study.Rows), d.source)
			return of, err
		},
	}
	counted, err := analysis.Count(d.ctx, spec, src)
	if err != nil {
		return "", err
	}
	countedBy := ""
	if id := d.study.CountQuestion; id != nil {
		countedBy = all[*id].Name
	}
	in, err := analysis.InputsOf(spec, counted, subgroup, countedBy)
	if err != nil {
		return "", fmt.Errorf("service: %w", err)
	}
	return jsonText(in)
}

// EditAnalysis changes what is asked if it is still at this version. Each change to a claim
// is kept, and marked when the test had already been run. What becomes a claim only now is
// stated now; run runs its test at once. It returns the question under which it stands.
func (s *Claims) EditAnalysis(ctx context.Context, studyID, id uint64, version int, spec analysis.Spec, run bool) (questionID uint64, err error) {
	title := Title{To: study.ToAsk, ID: "asked_anew", Values: document.Values{}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		a, err := d.standing(id)
		if err != nil {
			return err
		}
		before, err := s.specOf(a)
		if err != nil {
			return err
		}
		wasClaim, wasRun := before.Settings.Tests(), a.FirstRunAt != nil
		if spec.Method != before.Method || len(spec.Questions) == 0 || spec.Questions[0] != before.Questions[0] {
			return invalid("spec.other_method", "/method", nil)
		}
		if wasClaim && !spec.Settings.Tests() {
			return invalid("spec.stays_claim", "/settings", nil)
		}
		if err := d.ask(&a, spec); err != nil {
			return err
		}
		a.Version = version
		if a, err = d.asked(a, before, spec); err != nil {
			return err
		}
		questionID, title.Values["what"] = a.QuestionID, nameOf(a)
		if run && spec.Settings.Tests() && !wasRun {
			return d.run(a, spec)
		}
		return nil
	})
	return questionID, err
}

// asked stores what is asked anew of an analysis at the version that it bears, and files what was changed of a claim.
func (d *draft) asked(a study.Analysis, before, spec analysis.Spec) (study.Analysis, error) {
	was, err := d.store.Analysis(d.ctx, d.study.ID, a.ID)
	if err != nil {
		return a, err
	}
	if a, err = d.store.EditAnalysis(d.ctx, a, spec.Settings.Tests()); err != nil {
		return a, err
	}
	changes, err := d.claimChanges(a.ID, before, spec, was.FirstRunAt != nil)
	if err != nil {
		return a, err
	}
	if before.Settings.Tests() {
		d.changes = append(d.changes, changes...)
	}
	if len(changes) == 0 { // another way to look is no edit
		return a, nil
	}
	old, err := analysisState(was)
	if err != nil {
		return a, err
	}
	now, err := analysisState(a)
	d.note(subject{study.OfAnalysis, a.ID}, old, now)
	return a, err
}

// ChangeAnalysis is EditAnalysis with a change of the settings alone, a JSON merge patch. A
// change that an address asked for is a look: it may change how something is shown and nothing
// that is asked.
func (s *Claims) ChangeAnalysis(ctx context.Context, studyID, id uint64, version int, change json.RawMessage, look bool) (questionID uint64, err error) {
	if err := s.may(ctx, studyID, study.ToAsk); err != nil {
		return 0, err
	}
	a, err := s.store.Analysis(ctx, studyID, id)
	if err == nil && a.WithdrawnAt != nil {
		err = study.ErrNotFound
	}
	if err != nil {
		return 0, err
	}
	if a.Version != version {
		return 0, study.ErrStale
	}
	spec, err := s.specOf(a)
	if err != nil {
		return 0, err
	}
	before := spec
	if spec, err = spec.Patched(change); err != nil {
		return 0, err
	}
	if look {
		changes, err := analysis.Changes(before, spec)
		if err != nil {
			return 0, fmt.Errorf("service: %w", err)
		}
		for _, c := range changes {
			if !c.ShownOnly() {
				return 0, invalid("spec.no_look", c.At, nil)
			}
		}
	}
	return s.EditAnalysis(ctx, studyID, id, version, spec, true)
}

// standing returns an analysis that is not withdrawn.
func (d *draft) standing(id uint64) (study.Analysis, error) {
	a, err := d.store.Analysis(d.ctx, d.study.ID, id)
	if err == nil && a.WithdrawnAt != nil {
		err = study.ErrNotFound
	}
	return a, err
}

// claimChanges lists what differs between two specs of a claim.
func (d *draft) claimChanges(id uint64, before, after analysis.Spec, afterRun bool) ([]study.Change, error) {
	list, err := analysis.Changes(before, after)
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	var out []study.Change
	for _, c := range list {
		if c.ShownOnly() {
			continue
		}
		was, is := c.Old, c.New
		if c.Field == "figure" {
			label := c.Code
			if key, ok := idOf(after.Questions[0]); ok {
				if q, err := d.question(key); err == nil {
					if at := slices.IndexFunc(q.Answers, func(a survey.Answer) bool { return a.Code == c.Code }); at >= 0 {
						label = q.Answers[at].Label
					}
				}
			}
			was, is = label+": "+was, label+": "+is
		}
		if c.Field == subgroupField {
			for _, name := range []*string{&was, &is} {
				if *name, err = d.subgroupName(*name); err != nil {
					return nil, err
				}
			}
		}
		out = append(out, study.Change{Subject: study.OfClaim, SubjectID: id, Field: c.Field, Old: was, New: is, AfterRun: afterRun})
	}
	return out, nil
}

// subgroupField is the member of a spec that names a subgroup.
const subgroupField = "subgroup"

// subgroupName is what a subgroup is called by its key; "" for everyone, the key of one that is not there.
func (d *draft) subgroupName(key string) (string, error) {
	id, ok := idOf(analysis.Key(key))
	if !ok {
		return key, nil
	}
	p, err := d.store.Part(d.ctx, d.study.ID, id)
	if errors.Is(err, study.ErrNotFound) {
		return key, nil
	}
	return p.Name, err
}

// RunAnalysis runs a claim's test; the time of the first run is kept. It returns the
// question under which it stands.
func (s *Claims) RunAnalysis(ctx context.Context, studyID, id uint64) (questionID uint64, err error) {
	err = s.editDraft(ctx, studyID, func(d *draft) error {
		a, err := d.standing(id)
		if err != nil {
			return err
		}
		questionID = a.QuestionID
		spec, err := s.specOf(a)
		if err != nil {
			return err
		}
		if err := d.run(a, spec); err != nil {
			return err
		}
		return s.base.store.Note(d.ctx, studyID, document.Say("trail.ran", document.Values{"what": nameOf(a)}))
	})
	return questionID, err
}

// usesOf lists what a spec names.
func usesOf(spec analysis.Spec) (uses []study.Use) {
	for _, key := range spec.Questions {
		if id, ok := idOf(key); ok {
			uses = append(uses, study.Use{Subject: study.OfQuestion, ID: id})
		}
	}
	if id, ok := idOf(spec.Subgroup); ok {
		uses = append(uses, study.Use{Subject: study.OfPart, ID: id})
	}
	return uses
}
