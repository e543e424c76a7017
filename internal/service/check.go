package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"widetally/core/inspect"
	"widetally/core/study"
	"widetally/core/survey"
)

// Check is what was found about answers when they arrived, or is found now.
type Check struct {
	N         int64 // respondents
	Rows      int64 // lines of the data, fewer where counts are in force
	Questions []CheckedQuestion
	Sets      []inspect.Set
	Pairs     []inspect.Pair
	Batteries [][]int
	Missing   *inspect.MissingCodes // nil where at most one question has any
	// Drawn names the questions that look like the design of a sample.
	Drawn []string
	// Files are those from which a kept study was read, the newest first.
	Files []CheckedFile
}

// CheckedQuestion is one question of a check.
type CheckedQuestion struct {
	study.Question
	Report inspect.Report
	// Damaged is set when its column, or one on which it rests, cannot be read.
	Damaged *study.DamagedError
}

// CheckedFile is an arrived file with how it stood.
type CheckedFile struct {
	study.File
	Arrived arrivalNote
	// Damaged is set when the kept file is not whole any more.
	Damaged bool
}

// checkColumns inspects an arrived file before it is kept. counts is the place of the
// count column, or −1.
func checkColumns(ctx context.Context, columns []survey.Built, counts, rows int) (*Check, error) {
	questions := make([]study.Question, len(columns))
	var of survey.Sample
	for i, c := range columns {
		questions[i] = study.Question{Question: c.Question, KindReason: string(c.Reason), Position: i, Number: i + 1}
		if i == counts {
			of.Frequency = c.Data.Multiplicities()
		}
	}
	return check(ctx, questions, func(i int) (d, outside *survey.Distribution, err error) {
		among := of
		if questions[i].Kind == survey.Count {
			among.Frequency = nil
		}
		d, err = survey.Distribute(columns[i].Data, questions[i].Slots(), among)
		return d, nil, err
	}, of.Number(rows), int64(rows))
}

// Check inspects a study as it is now, beside how its files arrived.
func (s *Uploads) Check(ctx context.Context, studyID uint64) (*Check, error) {
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return nil, err
	}
	c, err := check(ctx, p.questions, func(i int) (d, outside *survey.Distribution, err error) {
		if p.damaged != nil {
			return nil, nil, p.damaged
		}
		return s.inAndOutside(ctx, p, p.questions[i])
	}, p.of.n, p.study.Rows)
	if err != nil {
		return nil, err
	}
	files, err := s.store.Files(ctx, studyID)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		checked := CheckedFile{File: f}
		if err := json.Unmarshal([]byte(f.Arrival), &checked.Arrived); err != nil {
			return nil, fmt.Errorf("service: file %d: %w", f.ID, err)
		}
		whole, err := s.kept.Whole(ctx, f)
		if err != nil {
			return nil, err
		}
		var damaged *study.FileDamagedError
		if checked.SHA256, err = s.kept.Digest(ctx, f); errors.As(err, &damaged) || errors.Is(err, study.ErrPacking) {
			err = nil
		}
		if err != nil {
			return nil, err
		}
		checked.Damaged = damaged != nil || !whole
		c.Files = append(c.Files, checked)
	}
	return c, nil
}

// inAndOutside counts a question, and among those who were not asked it.
func (s *base) inAndOutside(ctx context.Context, p *page, q study.Question) (d, outside *survey.Distribution, err error) {
	of := p.of
	if q.Kind == survey.Count {
		of.Frequency, of.key = nil, "rows "+of.key
	}
	if d, err = s.distribution(ctx, q, p.study.Rows, of); err != nil || q.Base == nil {
		return d, nil, err
	}
	asked, err := s.meeting(ctx, p.dataset, q.Base)
	if err != nil {
		return nil, nil, err
	}
	column, err := s.load(ctx, q, p.study.Rows)
	if err != nil {
		return nil, nil, err
	}
	outside, err = survey.Distribute(column, q.Slots(), survey.Sample{Frequency: of.Frequency, Subset: asked.Subset.Without()})
	return d, outside, err
}

// check inspects questions. count gives the distribution of each, and among those who were not
// asked it where they are known; n are the respondents.
func check(ctx context.Context, questions []study.Question, count func(i int) (d, outside *survey.Distribution, err error), n, rows int64) (*Check, error) {
	c := &Check{N: n, Rows: rows, Drawn: looksDrawn(questions)}
	plain := make([]survey.Question, len(questions))
	for i, q := range questions {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		plain[i] = q.Question
		d, outside, err := count(i)
		checked := CheckedQuestion{Question: q}
		switch {
		case err == nil:
			checked.Report = *inspect.Question(q.Question, d, outside)
		case !errors.As(err, &checked.Damaged):
			return nil, err
		}
		c.Questions = append(c.Questions, checked)
	}
	reports := make([]*inspect.Report, len(c.Questions))
	for i := range c.Questions {
		reports[i] = &c.Questions[i].Report
	}
	c.Missing = inspect.Missing(reports)
	c.Pairs = inspect.Pairs(plain)
	for _, set := range inspect.Sets(plain) {
		if !madeAlready(questions, set.Questions) {
			c.Sets = append(c.Sets, set)
		}
	}
	for _, b := range inspect.Batteries(plain) {
		if !shareList(questions, b) {
			c.Batteries = append(c.Batteries, b)
		}
	}
	return c, nil
}

// madeAlready reports whether a derived question is made of these ones already.
func madeAlready(questions []study.Question, of []int) bool {
	return slices.ContainsFunc(questions, func(q study.Question) bool {
		return q.Derivation != nil && q.Derivation.Rule == survey.Together && !slices.ContainsFunc(of, func(at int) bool { return !slices.Contains(q.Derivation.Sources, questions[at].ID) })
	})
}

// shareList reports whether questions have one shared list of answers already.
func shareList(questions []study.Question, of []int) bool {
	first := questions[of[0]].ListID
	return first != nil && !slices.ContainsFunc(of, func(at int) bool { return questions[at].ListID == nil || *questions[at].ListID != *first })
}
