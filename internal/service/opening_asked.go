package service

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/study"
	"widetally/core/studyfile"
)

// moved gives a key the id that it has here.
func (o *opening) moved(spec analysis.Spec) (analysis.Spec, error) {
	keys := make([]analysis.Key, len(spec.Questions))
	for i, key := range spec.Questions {
		id, _ := idOf(key)
		if o.questions[id] == 0 {
			return spec, broken("asked_question", nil)
		}
		keys[i] = KeyOf(o.questions[id])
	}
	spec.Questions = keys
	if spec.Subgroup != "" {
		id, _ := idOf(spec.Subgroup)
		if o.parts[id] == 0 {
			return spec, broken("asked_subgroup", nil)
		}
		spec.Subgroup = KeyOf(o.parts[id])
	}
	return spec, nil
}

func (o *opening) addAnalyses() error {
	parts, err := o.store.Parts(o.ctx, o.made.ID, study.Subgroup)
	if err != nil {
		return err
	}
	questions, err := o.store.Questions(o.ctx, o.made.ID)
	if err != nil {
		return err
	}
	d := &dataset{methods: o.methods, study: o.made, questions: questions, parts: parts}
	numbers := map[int]bool{}
	for _, a := range o.asked.Analyses {
		spec, err := o.moved(a.Spec)
		if err != nil {
			return err
		}
		question := o.questions[a.Question]
		if question == 0 || a.ID == 0 || a.Claim < 0 || a.Claim > 0 && numbers[a.Claim] || a.StatedAt.IsZero() {
			return broken("analysis", nil)
		}
		numbers[a.Claim] = true
		if why := untimely(a, time.Now()); why != "" {
			return broken(why, document.Values{"n": document.N(int64(a.Claim))})
		}
		if spec, err = o.shelved(spec); err != nil {
			return err
		}
		text, err := jsonText(spec)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		one := study.Analysis{StudyID: o.made.ID, QuestionID: question, Number: a.Claim, Spec: text, Uses: usesOf(spec), StatedAt: a.StatedAt.UTC(), FirstRunAt: inUTC(a.FirstRunAt), WithdrawnAt: inUTC(a.WithdrawnAt)}
		if len(a.FirstInputs) > 0 {
			first, err := o.methods.ReadInputs(string(a.FirstInputs), a.Spec)
			if err != nil {
				return broken("first_run", nil)
			}
			subgroup := ""
			if a.SameSubgroup {
				if subgroup, err = d.subgroupOf(spec); err != nil {
					return err
				}
			}
			if first, err = first.Moved(a.Spec, spec, subgroup); err != nil {
				return fmt.Errorf("service: %w", err)
			}
			if one.FirstInputs, err = jsonText(first); err != nil {
				return fmt.Errorf("service: %w", err)
			}
		}
		if o.analyses[a.ID], err = o.store.KeepAnalysis(o.ctx, one); err != nil {
			return err
		}
	}
	return nil
}

// clockSlack is how far the clocks of two computers may lie apart.
const clockSlack = 24 * time.Hour

// untimely says what cannot be of the times of an analysis, as a reason of broken; "" where all can.
func untimely(a studyfile.Analysis, now time.Time) string {
	late := now.Add(clockSlack)
	switch {
	case a.StatedAt.After(late), a.FirstRunAt != nil && a.FirstRunAt.After(late), a.WithdrawnAt != nil && a.WithdrawnAt.After(late):
		return "still_to_come"
	case a.FirstRunAt != nil && a.FirstRunAt.Before(a.StatedAt):
		return "run_before"
	case a.WithdrawnAt != nil && a.WithdrawnAt.Before(a.StatedAt):
		return "withdrawn_before"
	}
	return ""
}

func inUTC(t *time.Time) *time.Time {
	if t == nil {
		return nil
	}
	u := t.UTC()
	return &u
}

// rest stores the changes that claims tell of, the adjustment and the answered notes.
func (o *opening) rest() error {
	var changes []study.Change
	for _, c := range o.asked.Changes {
		one := study.Change{Field: c.Field, Old: c.Old, New: c.New, AfterRun: c.AfterRun, At: c.At.UTC()}
		switch c.Of {
		case "claim":
			one.Subject, one.SubjectID = study.OfClaim, o.analyses[c.ID]
		case "question":
			one.Subject, one.SubjectID = study.OfQuestion, o.questions[c.ID]
		}
		if one.SubjectID == 0 {
			return broken("change", nil)
		}
		changes = append(changes, one)
	}
	if err := o.store.KeepChanges(o.ctx, o.made.ID, changes); err != nil {
		return err
	}
	if len(o.asked.Adjustment) > 0 {
		var a adjustment
		if err := json.Unmarshal(o.asked.Adjustment, &a); err != nil || !slices.Contains(analysis.Adjustments, a.Adjustment) {
			return broken("adjustment", nil)
		}
		if err := o.part(study.Adjustment, 0, "adjustment", string(o.asked.Adjustment)); err != nil {
			return err
		}
	}
	answered := answeredNotes{}
	for id, rules := range answeredNotes(o.asked.Answered).named(o.asked.Rules) {
		if o.analyses[id] != 0 {
			answered[o.analyses[id]] = rules
		}
	}
	if len(answered) == 0 {
		return nil
	}
	definition, err := jsonText(keptAnswers{rulesNow, answered})
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	return o.part(study.Answered, 0, "answered", definition)
}

// report stores the report; pieces that were no longer in the study are left out.
func (o *opening) report(r report.Report) error {
	pieces := []report.Piece{}
	for _, p := range r.Pieces {
		was := p
		p.Question, p.Analysis, p.Among = o.questions[p.Question], o.analyses[p.Analysis], o.parts[p.Among]
		if (was.Question == 0) == (p.Question == 0) && (was.Analysis == 0) == (p.Analysis == 0) && (was.Among == 0) == (p.Among == 0) {
			pieces = append(pieces, p)
		}
	}
	r.Pieces = pieces
	if r.Compared != nil {
		to := *r.Compared
		if to.Question = o.questions[to.Question]; to.Question != 0 {
			r.Compared = &to
		} else {
			r.Compared = nil
		}
	}
	if err := checkedReport(r); err != nil {
		return err
	}
	if len(pieces) == 0 && r.Title == "" && len(r.Facts) == 0 && len(r.Without) == 0 && r.Compared == nil {
		return nil
	}
	definition, err := jsonText(r)
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	return o.part(study.Report, 0, "report", definition)
}

// shelved gives a spec the numbers that the sets of shares have on the shelf here; a set that
// the shelf lacks is put on it.
func (o *opening) shelved(spec analysis.Spec) (analysis.Spec, error) {
	from, ok := spec.Settings.(interface{ Cited() analysis.Reference })
	if !ok || from.Cited().Shelf == nil {
		return spec, nil
	}
	raw, err := json.Marshal(spec)
	if err != nil {
		return spec, fmt.Errorf("service: %w", err)
	}
	var all any
	if err := json.Unmarshal(raw, &all); err != nil {
		return spec, fmt.Errorf("service: %w", err)
	}
	here, err := o.onShelf(from.Cited().Shelf.Set)
	if err != nil {
		return spec, err
	}
	replaceShelf(all, here)
	if raw, err = json.Marshal(all); err != nil {
		return spec, fmt.Errorf("service: %w", err)
	}
	return o.methods.Spec(raw)
}

// replaceShelf changes every member “shelf” within; nil takes it out.
func replaceShelf(v any, to *analysis.OnShelf) {
	switch v := v.(type) {
	case map[string]any:
		if _, there := v["shelf"]; there {
			if v["shelf"] = to; to == nil {
				delete(v, "shelf")
			}
		}
		for _, member := range v {
			replaceShelf(member, to)
		}
	case []any:
		for _, member := range v {
			replaceShelf(member, to)
		}
	}
}

// onShelf finds a set of the file on the shelf, or puts it there; nil for one that the file lacks.
func (o *opening) onShelf(id uint64) (*analysis.OnShelf, error) {
	if known, ok := o.sets[id]; ok {
		return known, nil
	}
	set, ok := o.asked.Shares[id]
	if !ok {
		return nil, nil
	}
	definition, err := defined(set)
	if err != nil {
		return nil, err
	}
	rows, err := o.store.ShareSets(o.ctx)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		if row.Definition == definition && !row.Deleted && o.maySet(o.ctx, row.ID, study.ToSee) == nil {
			o.sets[id] = &analysis.OnShelf{Set: row.ID, Version: row.Version}
			return o.sets[id], nil
		}
	}
	added, err := o.store.AddShareSet(o.ctx, definition)
	if err != nil {
		return nil, err
	}
	o.sets[id] = &analysis.OnShelf{Set: added, Version: 1}
	return o.sets[id], nil
}
