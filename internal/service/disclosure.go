package service

import (
	"context"
	"encoding/json"
	"fmt"

	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/study"
)

// DisclosureView is what may leave a study.
type DisclosureView struct {
	Rule       disclosure.Rule
	Version    int
	Undo, Redo *study.Edit
}

// ruleOf finds the part that holds the rule; without one everything may leave.
func ruleOf(parts []study.Part) (study.Part, disclosure.Rule, error) {
	var r disclosure.Rule
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		if err := json.Unmarshal([]byte(p.Definition), &r); err != nil {
			return p, r, fmt.Errorf("service: rule %d: %w", p.ID, err)
		}
		return p, r, nil
	}
	return study.Part{Kind: study.Disclosure, Name: "disclosure"}, r, nil
}

// Disclosure gives the rule of a study.
func (s *Reports) Disclosure(ctx context.Context, studyID uint64) (*DisclosureView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	parts, err := s.store.Parts(ctx, studyID, study.Disclosure)
	if err != nil {
		return nil, err
	}
	part, _, err := ruleOf(parts)
	return &DisclosureView{Rule: d.rule, Version: reportVersion(part), Undo: d.undo, Redo: d.redo}, err
}

// EditDisclosure stores the rule if it is still at this version. It takes the access of who changes answers: what may
// leave is no matter of who only asks.
func (s *Reports) EditDisclosure(ctx context.Context, studyID uint64, version int, r disclosure.Rule) error {
	if err := firstProblem(r.Check()); err != nil {
		return err
	}
	return s.change(ctx, studyID, Title{To: study.ToChange, ID: "disclosure", Values: document.Values{}}, func(d *draft) error {
		parts, err := d.store.Parts(d.ctx, studyID, study.Disclosure)
		if err != nil {
			return err
		}
		part, _, err := ruleOf(parts)
		if err != nil {
			return err
		}
		if version != reportVersion(part) {
			return study.ErrStale
		}
		if part.Definition, err = jsonText(r); err != nil {
			return fmt.Errorf("service: %w", err)
		}
		_, err = d.part(part)
		return err
	})
}
