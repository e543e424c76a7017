package service

import (
	"context"
	"errors"
	"sync"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/study"
	"widetally/core/survey"
)

// sampled remembers a design as it was read from columns, and what was estimated by it, for as long as
// neither the design nor the answers that it names change.
type sampled struct {
	key       string
	mu        sync.Mutex
	read      bool
	sample    *design.Sample
	err       error
	estimates map[string]analysis.Estimates
}

// mostEstimates bounds the questions whose estimates are remembered.
const mostEstimates = 2000

// sampledBy is what is remembered of the design of a dataset, taken over from before where it is the same.
func (s *base) sampledBy(d *dataset) (*sampled, error) {
	parts := []any{d.design, d.study.Rows}
	for _, key := range d.design.Drawn.Questions() {
		id, _ := idOf(key)
		q, _ := d.question(id)
		parts = append(parts, id, q.Generation, q.Kind, countingOf(q.Answers))
	}
	key, err := jsonText(parts)
	if err != nil {
		return nil, err
	}
	s.datasets.mu.Lock()
	defer s.datasets.mu.Unlock()
	if before := s.datasets.byID[d.study.ID]; before != nil && before.sampled.key == key {
		return before.sampled, nil
	}
	return &sampled{key: key, estimates: map[string]analysis.Estimates{}}, nil
}

// estimatesOf gives what is estimated of a question on a page, or remembers it.
func (s *base) estimatesOf(ctx context.Context, p *page, q study.Question, of whom) (out analysis.Estimates, err error) {
	if p.inForce() == nil {
		return out, nil
	}
	order := make([]survey.Slot, len(q.Answers)) // running sums go by it
	for i, a := range q.Answers {
		order[i] = a.Slot
	}
	key, err := jsonText([]any{q.ID, q.Generation, q.Kind, countingOf(q.Answers), order, of.key})
	if err != nil {
		return out, err
	}
	p.sampled.mu.Lock()
	known, there := p.sampled.estimates[key]
	p.sampled.mu.Unlock()
	if there {
		return known, nil
	}
	within := analysis.Key("")
	if p.in != nil {
		within = KeyOf(*p.in)
	}
	out, err = analysis.EstimatesOf(ctx, s.source(ctx, p.dataset), KeyOf(q.ID), within)
	var damaged *study.DamagedError
	if errors.As(err, &damaged) && damaged.QuestionID != q.ID { // the design’s, which the page tells by itself
		return analysis.Estimates{}, nil
	}
	if err != nil {
		return out, err
	}
	p.sampled.mu.Lock()
	defer p.sampled.mu.Unlock()
	if len(p.sampled.estimates) >= mostEstimates {
		clear(p.sampled.estimates)
	}
	p.sampled.estimates[key] = out
	return out, nil
}

func (s *sampled) once(build func() (*design.Sample, error)) (*design.Sample, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.read {
		s.sample, s.err = build()
		s.read = s.err == nil || designRefused(s.err) != nil // else it may be otherwise the next time
	}
	return s.sample, s.err
}
