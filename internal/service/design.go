package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"sync"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/study"
	"widetally/core/survey"
)

// Design is how the respondents of a study were drawn, and whether its figures estimate the population
// by that. One that names no question says nothing.
type Design struct {
	Drawn analysis.Drawn `json:"drawn"`
	// Off counts respondents all the same.
	Off bool `json:"off,omitempty"`
}

// DesignView is the design as the codebook shows it.
type DesignView struct {
	Design
	// Said tells it in words; nil where there is none.
	Said []document.Message
	// Weights are the questions that can weight, Parts those that can be strata or clusters; Proposed is
	// the only one that holds weights, where no design is stated, 0 for none.
	Weights, Parts []uint64
	Proposed       uint64
	// Problem is what keeps it from being used as the answers are now; nil for none.
	Problem *analysis.Problem
}

// inForce is the design by which the population is estimated; nil where respondents are counted.
func (d Design) inForce() *analysis.Drawn {
	if d.Off || len(d.Drawn.Questions()) == 0 {
		return nil
	}
	return &d.Drawn
}

// designOf reads the design of a study.
func designOf(parts []study.Part) (study.Part, Design, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		var d Design
		if err := json.Unmarshal([]byte(p.Definition), &d); err != nil {
			return p, d, fmt.Errorf("service: design %d: %w", p.ID, err)
		}
		return p, d, nil
	}
	return study.Part{Kind: study.Design, Name: "design"}, Design{}, nil
}

// sampled remembers a design as it was read from columns, and what was estimated by it, for as long as
// neither the design nor the answers that it names change.
type sampled struct {
	key       string
	mu        sync.Mutex
	read      bool
	sample    *design.Sample
	err       error
	estimates map[string][]analysis.Estimated
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
	return &sampled{key: key, estimates: map[string][]analysis.Estimated{}}, nil
}

// estimatesOf gives the estimated shares of a question on a page, or remembers them.
func (s *base) estimatesOf(ctx context.Context, p *page, q study.Question, of whom) ([]analysis.Estimated, error) {
	if p.inForce() == nil {
		return nil, nil
	}
	key, err := jsonText([]any{q.ID, q.Generation, q.Kind, countingOf(q.Answers), of.key})
	if err != nil {
		return nil, err
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
	out, err := analysis.Estimates(ctx, s.source(ctx, p.dataset), KeyOf(q.ID), within)
	var damaged *study.DamagedError
	if errors.As(err, &damaged) && damaged.QuestionID != q.ID { // the design’s, which the page tells by itself
		return nil, nil
	}
	if err != nil {
		return nil, err
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

// inForce is the design in force in a dataset.
func (d *dataset) inForce() *analysis.Drawn { return d.design.inForce() }

// designView tells the design of a dataset in words, with what keeps it from being used.
func (s *base) designView(ctx context.Context, d *dataset) (DesignView, error) {
	out := DesignView{Design: d.design}
	var weights []uint64
	for _, q := range d.questions {
		if fits(q.Question, true) {
			out.Weights = append(out.Weights, q.ID)
		}
		if fits(q.Question, false) {
			out.Parts = append(out.Parts, q.ID)
		}
		if q.Kind == survey.Weight {
			weights = append(weights, q.ID)
		}
	}
	if len(weights) == 1 && len(d.design.Drawn.Questions()) == 0 {
		out.Proposed = weights[0]
	}
	if len(d.design.Drawn.Questions()) == 0 {
		return out, nil
	}
	by := d.design.Drawn.Sampled(func(key analysis.Key) string {
		id, _ := idOf(key)
		q, _ := d.question(id)
		return q.Name
	})
	sample, err := d.sampled.once(func() (*design.Sample, error) {
		return d.design.Drawn.Sample(s.source(ctx, d).Get, int(d.study.Rows))
	})
	if refused := designRefused(err); refused != nil {
		out.Said, out.Problem = by.Drawn(), &refused.Problem
		return out, nil
	}
	var damaged *study.DamagedError
	if errors.As(err, &damaged) {
		out.Said, out.Problem = by.Drawn(), &analysis.Problem{Code: "http.damaged", Values: document.Values{"name": document.Text(damaged.Name)}}
		return out, nil
	}
	if err != nil {
		return out, err
	}
	by.Base.PSUs, by.Base.Strata, by.Base.DF = sample.PSUs(), sample.Strata(), sample.DF()
	out.Said = append(by.Drawn(), by.Freedom())
	if sample.Shared > 0 {
		out.Said = append(out.Said, say.BasisDesignedShared(int64(sample.Shared)))
	}
	return out, nil
}

// designRefused is why a design cannot be used; nil for another error, and for none.
func designRefused(err error) *analysis.SpecError {
	var refused *analysis.SpecError
	if errors.As(err, &refused) {
		return refused
	}
	if errors.Is(err, analysis.ErrUnknownKey) {
		errors.As(analysis.Refused("design.gone", "/design", nil), &refused)
		return refused
	}
	var input *infer.InputError
	if errors.As(err, &input) {
		errors.As(analysis.DesignRefused(input), &refused)
	}
	return refused
}

// Design tells how the respondents of a study were drawn.
func (s *Codebooks) Design(ctx context.Context, studyID uint64) (DesignView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return DesignView{}, err
	}
	return s.designView(ctx, d)
}

// fits reports whether a question can play its part in a design.
func fits(q survey.Question, weight bool) bool {
	if weight {
		return q.Kind.Measured() || q.Kind == survey.Discrete
	}
	return q.Kind != survey.ChooseAll && q.Kind != survey.Summarised && q.Kind != survey.Weight
}

// SetDesign says how the respondents of a study were drawn, and whether its figures estimate the
// population by that. A design that the answers do not bear is refused with the row.
func (s *Codebooks) SetDesign(ctx context.Context, studyID uint64, to Design) error {
	title := Title{ID: "design", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		parts, err := d.store.Parts(d.ctx, studyID, study.Design)
		if err != nil {
			return err
		}
		part, before, err := designOf(parts)
		if err != nil || reflect.DeepEqual(before, to) {
			return err
		}
		if !reflect.DeepEqual(before.Drawn, to.Drawn) {
			if err := d.checkDesign(to.Drawn); err != nil {
				return err
			}
		}
		switch {
		case len(to.Drawn.Questions()) == 0:
			title.Values["what"] = document.Term("history_design.none")
		case reflect.DeepEqual(before.Drawn, to.Drawn) && to.Off:
			title.Values["what"] = document.Term("history_design.off")
		case reflect.DeepEqual(before.Drawn, to.Drawn):
			title.Values["what"] = document.Term("history_design.on")
		default:
			title.Values["what"] = document.Term("history_design.stated")
		}
		if part.Definition, err = jsonText(to); err != nil {
			return err
		}
		_, err = d.part(part)
		return err
	})
}

// checkDesign refuses a design that names what cannot play its part, or that the answers do not bear.
func (d *draft) checkDesign(drawn analysis.Drawn) error {
	seen := map[analysis.Key]bool{}
	for _, key := range drawn.Questions() {
		id, ok := idOf(key)
		if !ok {
			return invalid("spec.question", "/design", map[string]string{"text": string(key)})
		}
		q, err := d.question(id)
		if errors.Is(err, study.ErrNotFound) {
			return invalid("spec.question", "/design", map[string]string{"text": string(key)})
		}
		if err != nil {
			return err
		}
		if seen[key] || !fits(q.Question, key == drawn.Weight) {
			return invalid("design.question", "/design", map[string]string{"name": q.Name})
		}
		seen[key] = true
	}
	if len(seen) == 0 {
		return nil
	}
	if d.study.CountQuestion != nil {
		return invalid("design.counted_rows", "/design", nil)
	}
	_, err := drawn.Sample(func(key analysis.Key) (survey.Source, error) {
		id, _ := idOf(key)
		return d.source(id)
	}, int(d.study.Rows))
	if refused := designRefused(err); refused != nil {
		return refused
	}
	return err
}

// inForce is the design in force within a transaction.
func (d *draft) inForce() (*analysis.Drawn, error) {
	parts, err := d.store.Parts(d.ctx, d.study.ID, study.Design)
	if err != nil {
		return nil, err
	}
	_, is, err := designOf(parts)
	return is.inForce(), err
}

// moved gives a design the keys of its questions in another study; ok is false where one is lacking.
func (d Design) moved(to func(analysis.Key) (analysis.Key, bool)) (Design, bool) {
	out, ok := d, true
	move := func(key analysis.Key) analysis.Key {
		if key == "" {
			return ""
		}
		moved, there := to(key)
		ok = ok && there
		return moved
	}
	out.Drawn.Weight, out.Drawn.Cluster, out.Drawn.Strata = move(d.Drawn.Weight), move(d.Drawn.Cluster), nil
	for _, key := range d.Drawn.Strata {
		out.Drawn.Strata = append(out.Drawn.Strata, move(key))
	}
	return out, ok
}
