package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// SubgroupView is a named condition with how many respondents meet it.
type SubgroupView struct {
	ID        uint64
	Name      string
	Condition survey.Condition
	// N is how many meet it of Everyone; both are nil when a column that tells is
	// damaged.
	N, Everyone *int64
	Version     int
}

func conditionOf(p study.Part) (survey.Condition, error) {
	var c survey.Condition
	if err := json.Unmarshal([]byte(p.Definition), &c); err != nil {
		return c, fmt.Errorf("service: subgroup %d: %w", p.ID, err)
	}
	return c, nil
}

// subgroupViews lists the subgroups of a page's study.
func (s *base) subgroupViews(ctx context.Context, p *page) ([]SubgroupView, error) {
	out := []SubgroupView{}
	for _, part := range p.parts {
		if part.Deleted {
			continue
		}
		c, err := conditionOf(part)
		if err != nil {
			return nil, err
		}
		v := SubgroupView{ID: part.ID, Name: part.Name, Condition: c, Version: part.Version}
		n, everyone, err := s.countOf(ctx, p, c)
		var damaged *study.DamagedError
		switch {
		case err == nil:
			v.N, v.Everyone = &n, &everyone
		case !errors.As(err, &damaged):
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// CountCondition tells how many respondents of a study meet a condition, of how many.
func (s *Codebooks) CountCondition(ctx context.Context, studyID uint64, c survey.Condition) (n, everyone int64, err error) {
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return 0, 0, err
	}
	if err := checkCondition(p.questions, c, "/condition"); err != nil {
		return 0, 0, err
	}
	return s.countOf(ctx, p, c)
}

func (s *base) countOf(ctx context.Context, p *page, c survey.Condition) (n, everyone int64, err error) {
	everybody, err := s.meeting(ctx, p.dataset, nil)
	if err != nil {
		return 0, 0, err
	}
	in, err := s.meeting(ctx, p.dataset, &c)
	return in.n, everybody.n, err
}

// SubgroupEdit is what a subgroup shall be.
type SubgroupEdit struct {
	Name      string
	Condition survey.Condition
}

// SaveSubgroup stores a subgroup: a new one when id is 0, else the one at this version.
func (s *Codebooks) SaveSubgroup(ctx context.Context, studyID, id uint64, version int, e SubgroupEdit) (savedID uint64, err error) {
	title := Title{ID: "subgroup", Values: document.Values{"name": document.Text(e.Name)}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		name, err := plain(e.Name, "/name", maxName, true)
		if err != nil {
			return err
		}
		if err := d.checkCondition(e.Condition, "/condition"); err != nil {
			return err
		}
		parts, err := d.store.Parts(d.ctx, studyID, study.Subgroup)
		if err != nil {
			return err
		}
		for _, p := range parts {
			if !p.Deleted && p.ID != id && strings.EqualFold(p.Name, name) {
				return invalid("subgroup.name_taken", "/name", map[string]string{"text": name})
			}
		}
		definition, err := json.Marshal(e.Condition)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		p, err := d.part(study.Part{ID: id, Kind: study.Subgroup, Name: name, Definition: string(definition), Version: version})
		if err != nil {
			return err
		}
		savedID = p.ID
		if id == 0 {
			return nil
		}
		return d.subgroupChanged(id)
	})
	return savedID, err
}

// subgroupChanged files under every claim about a subgroup that others are counted now.
func (d *draft) subgroupChanged(id uint64) error {
	claims, err := d.store.Analyses(d.ctx, d.study.ID)
	if err != nil {
		return err
	}
	for _, c := range claims {
		if slices.Contains(c.Uses, study.Use{Subject: study.OfPart, ID: id}) && c.Number > 0 && c.FirstInputs == "" {
			d.changes = append(d.changes, study.Change{Subject: study.OfClaim, SubjectID: c.ID, Field: "condition", AfterRun: c.FirstRunAt != nil})
		}
	}
	return nil
}

// DeletePart takes a subgroup or a shared list away; undo brings it back. A subgroup
// that a claim is about stays.
func (s *Codebooks) DeletePart(ctx context.Context, studyID, id uint64, kind study.PartKind) error {
	title := Title{ID: "delete_" + string(kind), Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		p, err := d.store.Part(d.ctx, studyID, id)
		if err != nil || p.Deleted || p.Kind != kind {
			return firstError(err, study.ErrNotFound)
		}
		title.Values["name"] = document.Text(p.Name)
		if kind == study.Subgroup {
			analyses, err := d.store.Analyses(d.ctx, studyID)
			if err != nil {
				return err
			}
			for _, a := range analyses {
				if slices.Contains(a.Uses, study.Use{Subject: study.OfPart, ID: id}) {
					return invalidSaying("subgroup.in_use", "", document.Values{"use": nameOf(a)})
				}
			}
		} else if err := d.unlist(id); err != nil {
			return err
		}
		p.Deleted = true
		_, err = d.part(p)
		return err
	})
}

func firstError(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}
