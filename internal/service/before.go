package service

import (
	"context"
	"fmt"
	"slices"

	"widetally/core/report"
)

// Before is what the report of a study would be made of among the respondents of the wave since which it tells what
// changed; nil where it compares none. Labels are those of the two waves.
type Before struct {
	*ReportView
	Wave, Since string
}

// before gives it.
func (s *Reports) before(ctx context.Context, d *dataset) (*Before, error) {
	c := d.report.Compared
	if c == nil || slices.Contains(d.report.Without, report.Changes) {
		return nil, nil
	}
	q, there := d.question(c.Question)
	wave, is := waveOf(q.Question, c.Wave)
	since, was := waveOf(q.Question, c.Since)
	if !there || !is || !was {
		return nil, nil
	}
	then := d.another("since " + c.Since)
	moved := map[uint64]bool{}
	for i, p := range then.parts {
		condition, err := conditionOf(p)
		if err != nil {
			return nil, err
		}
		if slot, given := condition.Given(q.ID); given && slot == wave.Slot {
			if then.parts[i].Definition, err = jsonText(condition.Giving(q.ID, since.Slot)); err != nil {
				return nil, fmt.Errorf("service: %w", err)
			}
			moved[p.ID] = true
		}
	}
	as := d.report // only what is about the wave can have changed since
	as.Pieces = slices.DeleteFunc(slices.Clone(as.Pieces), func(p report.Piece) bool {
		switch {
		case p.Question != 0:
			return !moved[p.Among]
		case p.Analysis != 0:
			a, ok := d.analyses.find(p.Analysis)
			id, _ := idOf(a.spec.Subgroup)
			return !ok || !moved[id]
		}
		return true
	})
	v, err := s.reportOf(ctx, then, &as)
	return &Before{v, wave.Label, since.Label}, err
}

// find finds an analysis that stands.
func (all *studyAnalyses) find(id uint64) (asked, bool) {
	for _, list := range all.byQuestion {
		for _, a := range list {
			if a.ID == id {
				return a, true
			}
		}
	}
	return asked{}, false
}
