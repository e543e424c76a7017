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
	n   int64 // respondents
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
	if known, ok := s.counts.Get(key); ok {
		return known, nil
	}
	return once(ctx, s.turns, "count "+key, func(ctx context.Context) (*survey.Distribution, error) {
		done, err := s.turns.take(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		d, err := s.count(ctx, q, rows, of.Sample)
		if err != nil {
			return nil, err
		}
		s.counts.Put(key, d)
		return d, nil
	})
}

func (s *base) count(ctx context.Context, q study.Question, rows int64, of survey.Sample) (*survey.Distribution, error) {
	if _, known := s.columns.Get(columnKey{q.ID, q.Generation}); rows >= largeRows && !known {
		d, err := s.countLarge(ctx, q, rows, of)
		if err != nil {
			return nil, err
		}
		return checked(q, d)
	}
	column, err := s.load(ctx, q, rows)
	if err != nil {
		return nil, err
	}
	return counted(q, column, of)
}

// counted counts a question's column; answers that the question does not know (any more), and a
// kind that nobody knows, are a *study.DamagedError.
func counted(q study.Question, column survey.Column, of survey.Sample) (*survey.Distribution, error) {
	d, err := survey.Distribute(column, q.Slots(), of)
	if err != nil {
		return nil, &study.DamagedError{QuestionID: q.ID, Name: q.Name, Cause: err}
	}
	return checked(q, d)
}

// checked refuses a distribution of what the question does not know.
func checked(q study.Question, d *survey.Distribution) (*survey.Distribution, error) {
	if !q.Kind.Known() {
		return nil, &study.DamagedError{QuestionID: q.ID, Name: q.Name, Cause: fmt.Errorf("the kind %q is not known", q.Kind)}
	}
	if !q.Kind.Coded() {
		return d, nil
	}
	for slot, n := range d.Slots {
		if _, known := q.Answer(survey.Slot(slot)); n != 0 && !known && survey.Slot(slot) != survey.Blank {
			return nil, &study.DamagedError{QuestionID: q.ID, Name: q.Name, Cause: fmt.Errorf("%d answers of slot %d, which the question lacks", n, slot)}
		}
	}
	return d, nil
}

// sample tells whom a subgroup counts; nil is everyone. A subgroup that was deleted still
// serves the analyses that were asked about it.
func (s *base) sample(ctx context.Context, d *dataset, in *uint64) (whom, error) {
	if in == nil {
		return s.meeting(ctx, d, nil)
	}
	part, ok := d.part(*in)
	if !ok {
		return whom{}, study.ErrNotFound
	}
	definition, err := conditionOf(part)
	if err != nil {
		return whom{}, err
	}
	return s.meeting(ctx, d, &definition)
}

// meeting tells who meets a condition; nil is everyone.
func (s *base) meeting(ctx context.Context, d *dataset, c *survey.Condition) (whom, error) {
	var of whom
	if c == nil && d.study.CountQuestion == nil {
		of.n = d.study.Rows
		return of, nil
	}
	var counter study.Question
	of.key = fmt.Sprint(d.study.ID)
	if id := d.study.CountQuestion; id != nil {
		counter, _ = d.question(*id)
		of.key += fmt.Sprintf(" times %d %d", counter.ID, counter.Generation)
	}
	if c != nil {
		inputs, err := conditionInputs(*c, d.question)
		if err != nil {
			return of, err
		}
		of.key += " among " + inputs
	}
	if known, ok := s.samples.Get(of.key); ok {
		return known, nil
	}
	return once(ctx, s.turns, "sample "+of.key, func(ctx context.Context) (whom, error) {
		done, err := s.turns.take(ctx)
		if err != nil {
			return of, err
		}
		defer done()
		get := s.getter(ctx, d)
		if counter.ID != 0 {
			by, err := get(counter.ID)
			if err != nil {
				return of, err
			}
			of.Frequency = by.Column.Multiplicities()
		}
		if c != nil {
			if of.Subset, err = c.Evaluate(int(d.study.Rows), get); err != nil {
				return of, err
			}
		}
		of.n = of.Number(int(d.study.Rows))
		s.samples.Put(of.key, of)
		return of, nil
	})
}
