package service

import (
	"context"
	"fmt"

	"widetally/core/study"
	"widetally/core/survey"
)

// whom is a sample of a study under a key that tells of what it was made; the same key is the
// same sample.
type whom struct {
	survey.Sample
	key string
}

// Bytes estimates the memory that the sample holds.
func (w whom) Bytes() int {
	n := 200 + len(w.key) + 8*len(w.Frequency)
	if w.Subset != nil {
		n += w.Subset.Bytes()
	}
	return n
}

// distribution counts a question's column among a sample, or remembers: as long as no answer
// changes nothing is counted anew, whatever is said of missing answers, labels and spellings.
func (s *base) distribution(ctx context.Context, q study.Question, rows int64, of whom) (*survey.Distribution, error) {
	key := fmt.Sprintf("%d %d %d %s", q.ID, q.Generation, q.Slots(), of.key)
	if known, ok := s.counts.get(key); ok {
		return known, nil
	}
	return once(ctx, s.turns, "count "+key, func(ctx context.Context) (*survey.Distribution, error) {
		done, err := s.turns.take(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		column, err := s.load(ctx, q, rows)
		if err != nil {
			return nil, err
		}
		d, err := survey.Distribute(column, q.Slots(), of.Sample)
		if err != nil {
			return nil, fmt.Errorf("service: question %d: %w", q.ID, err)
		}
		s.counts.put(key, d)
		return d, nil
	})
}

// sample tells whom a subgroup counts; nil is everyone. A subgroup that was deleted still
// serves the analyses that were asked about it.
func (s *base) sample(ctx context.Context, d *dataset, in *uint64) (whom, error) {
	var of whom
	get := s.getter(ctx, d)
	var counter study.Question
	if id := d.study.CountQuestion; id != nil {
		counter, _ = d.question(*id)
		of.key = fmt.Sprintf("times %d %d", counter.ID, counter.Generation)
	}
	var definition survey.Condition
	if in != nil {
		part, ok := d.part(*in)
		if !ok {
			return of, study.ErrNotFound
		}
		inputs, err := subgroupInputs(part, d.question)
		if err != nil {
			return of, err
		}
		if definition, err = conditionOf(part); err != nil {
			return of, err
		}
		of.key += " among " + inputs
	}
	if of.key == "" {
		return of, nil
	}
	of.key = fmt.Sprintf("%d %s", d.study.ID, of.key)
	if known, ok := s.samples.get(of.key); ok {
		return known, nil
	}
	return once(ctx, s.turns, "sample "+of.key, func(ctx context.Context) (whom, error) {
		if counter.ID != 0 {
			by, err := get(counter.ID)
			if err != nil {
				return of, err
			}
			of.Frequency = by.Column.Multiplicities()
		}
		if in != nil {
			var err error
			if of.Subset, err = definition.Evaluate(int(d.study.Rows), get); err != nil {
				return of, err
			}
		}
		s.samples.put(of.key, of)
		return of, nil
	})
}
