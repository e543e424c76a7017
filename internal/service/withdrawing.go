package service

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
)

// Withdraw takes an analysis away; a claim stays in the register. RestoreAnalysis brings it
// back.
func (s *Claims) Withdraw(ctx context.Context, studyID, id uint64) error {
	title := Title{To: study.ToAsk, ID: "withdrawn", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		a, err := d.standing(id)
		if err != nil {
			return err
		}
		title.Values["what"] = nameOf(a)
		return d.setWithdrawn(a, true)
	})
}

// setWithdrawn withdraws an analysis or brings it back, as part of an edit.
func (d *draft) setWithdrawn(a study.Analysis, withdrawn bool) error {
	before, err := analysisState(a)
	if err != nil {
		return err
	}
	if err := d.store.SetAnalysisDeleted(d.ctx, d.study.ID, a.ID, withdrawn); err != nil {
		return err
	}
	if a, err = d.store.Analysis(d.ctx, d.study.ID, a.ID); err != nil {
		return err
	}
	after, err := analysisState(a)
	d.note(subject{study.OfAnalysis, a.ID}, before, after)
	return err
}

// RestoreAnalysis brings a withdrawn analysis back and returns its question. Where an
// answer that it names by its code is no longer there it cannot come back as it was and is
// refused.
func (s *Claims) RestoreAnalysis(ctx context.Context, studyID, id uint64) (questionID uint64, err error) {
	title := Title{To: study.ToAsk, ID: "brought_back", Values: document.Values{}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		a, err := d.store.Analysis(d.ctx, studyID, id)
		if err != nil {
			return err
		}
		questionID, title.Values["what"] = a.QuestionID, nameOf(a)
		if err := d.canStand(a); err != nil {
			return err
		}
		return d.setWithdrawn(a, false)
	})
	return questionID, err
}

// canStand refuses an analysis that names an answer by its code which is not there.
func (d *draft) canStand(a study.Analysis) error {
	spec, err := d.s.specOf(a)
	if err != nil {
		return err
	}
	for i, key := range spec.Questions {
		id, _ := idOf(key)
		q, err := d.question(id)
		if err != nil {
			return err
		}
		if gone := spec.Lacks(i, q.Question); len(gone) > 0 {
			slices.Sort(gone)
			return invalid("claim.answers_gone", "", map[string]string{"n": fmt.Sprint(a.Number), "list": strings.Join(gone, ", "), "name": q.Name})
		}
	}
	return nil
}

// putAnalysis makes an analysis what a snapshot says; no snapshot means withdrawn. What
// that changes in a claim is filed under it like any other change.
func (d *draft) putAnalysis(id uint64, state string) error {
	a, err := d.store.Analysis(d.ctx, d.study.ID, id)
	if err != nil {
		return err
	}
	withdrawn, now := true, a.WithdrawnAt != nil
	if state != "" {
		var text string
		if text, withdrawn, err = readAnalysis(state); err != nil {
			return err
		}
		before, err := d.s.specOf(a)
		if err != nil {
			return err
		}
		a.Spec = text
		after, err := d.s.specOf(a)
		if err != nil {
			return err
		}
		changes, err := d.claimChanges(id, before, after, a.FirstRunAt != nil)
		if err != nil {
			return err
		}
		if a.Number > 0 {
			d.changes = append(d.changes, changes...)
		}
		if err := d.store.PutSpec(d.ctx, a, usesOf(after)); err != nil {
			return err
		}
	}
	if withdrawn == now {
		return nil
	}
	if !withdrawn {
		if err := d.canStand(a); err != nil {
			return err
		}
	}
	return d.store.SetAnalysisDeleted(d.ctx, d.study.ID, id, withdrawn)
}
