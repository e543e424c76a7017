package service

import (
	"context"
	"fmt"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
)

// Refresh brings a newer file into a study: instead of the answers that it has, or as
// further respondents. Questions are matched by name.
type Refresh struct {
	ArrivalID string
	Settings  intake.Settings
	Add       bool // as further respondents
	// Wave, when not empty, is written for each respondent of this file into a question
	// of that name, which is made if the study has none.
	WaveQuestion, Wave string
	// WaveBefore is what those are given who were there before where the question is made; "" leaves them
	// without a wave.
	WaveBefore string
}

// Fit tells how a file would go into a study.
type Fit struct {
	Rows    int // of the file
	Matched []FitQuestion
	Lacking []string // questions of the study that the file lacks
	Further []string // columns of the file that the study lacks
}

// FitQuestion is a question that both have, with codes new to the study.
type FitQuestion struct {
	Name     string
	NewCodes []string
	// Unreadable is set when the file's cells do not fit the question's kind.
	Unreadable bool
}

// Fits tells how a file would go into a study; nothing is kept.
func (s *Uploads) Fits(ctx context.Context, studyID uint64, in Refresh) (*Fit, error) {
	table, _, err := s.readable(ctx, in.ArrivalID, in.Settings)
	if err != nil {
		return nil, err
	}
	if _, err := s.seen(ctx, studyID); err != nil {
		return nil, err
	}
	questions, err := s.store.Questions(ctx, studyID)
	if err != nil {
		return nil, err
	}
	f, _ := fit(questions, table)
	return f, nil
}

// fit matches a file's columns to a study's questions. columns holds per question what
// the file says, read as the question's kind; nil where it lacks it.
func fit(questions []study.Question, table *intake.Table) (*Fit, []*survey.Built) {
	f := &Fit{Rows: table.Rows, Matched: []FitQuestion{}, Lacking: []string{}, Further: []string{}}
	used := make([]bool, len(table.Columns))
	columns := make([]*survey.Built, len(questions))
	for i, q := range questions {
		if q.Derivation != nil {
			continue
		}
		at := survey.Named(q.Name, len(used), func(i int) string { return table.Columns[i].Name })
		if at < 0 || used[at] {
			f.Lacking = append(f.Lacking, q.Name)
			continue
		}
		used[at] = true
		m := FitQuestion{Name: q.Name, NewCodes: []string{}}
		c, err := survey.ReadAs(q.Question, table.Columns[at])
		if err == nil {
			_, _, m.NewCodes, err = survey.Refit(q.Answers, c.Answers, c.Data, false)
		}
		if err != nil {
			m.Unreadable = true
		} else {
			columns[i] = &c
		}
		if m.NewCodes == nil {
			m.NewCodes = []string{}
		}
		f.Matched = append(f.Matched, m)
	}
	for i, c := range table.Columns {
		if !used[i] {
			f.Further = append(f.Further, c.Name)
		}
	}
	return f, columns
}

// Refresh brings a newer file in, as one edit that can be taken back. Claims, shares,
// labels and derived questions stay and see the new answers.
func (s *Uploads) Refresh(ctx context.Context, studyID uint64, in Refresh) error {
	table, w, err := s.readable(ctx, in.ArrivalID, in.Settings)
	if err != nil {
		return err
	}
	wave, err := plain(in.Wave, "/wave", maxLabel, false)
	if err != nil {
		return err
	}
	first, err := plain(in.WaveBefore, "/waveBefore", maxLabel, false)
	if err != nil {
		return err
	}
	release, err := s.room.TurnToKeep(ctx, w)
	if err != nil {
		return err
	}
	defer release()
	ctx, end := w.Begin(ctx, arrivals.Keeping)
	defer end()
	title := Title{ID: "replace", Values: document.Values{"file": document.Text(w.Name), "n": document.N(int64(table.Rows))}}
	if in.Add {
		title.ID = "add"
	}
	ahead, err := s.ahead(ctx, studyID, in, table, wave != "")
	if err != nil {
		return err
	}
	kept, err := s.kept.Hold(w)
	if err != nil {
		return err
	}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		questions, err := d.store.Questions(d.ctx, studyID)
		if err != nil {
			return err
		}
		_, columns := fit(questions, table)
		if d.study.CountQuestion != nil && table.CountColumn < 0 || d.study.CountQuestion == nil && table.CountColumn >= 0 {
			return invalid("refresh.counts", "/settings", nil)
		}
		before := int(d.study.Rows)
		rows := table.Rows
		if in.Add {
			rows += before
		}
		matched := 0
		for i, q := range questions {
			if q.Derivation != nil || strings.EqualFold(q.Name, in.WaveQuestion) && wave != "" {
				continue
			}
			if columns[i] != nil {
				matched++
			}
			if stored, ok := ahead.of(d.study, q); ok {
				err = d.save(q, stored)
			} else {
				err = d.bring(q, columns[i], before, table.Rows, in.Add)
			}
			if err != nil {
				return err
			}
			w.At(table.Rows, 0.8*float64(i+1)/float64(len(questions)))
		}
		if matched == 0 {
			return invalid("refresh.nothing_fits", "/settings", nil)
		}
		if wave != "" {
			if err := d.wave(questions, in.WaveQuestion, wave, first, before, table.Rows, in.Add); err != nil {
				return err
			}
		}
		if err := d.setData(int64(rows), d.study.CountQuestion); err != nil {
			return err
		}
		if err := kept.Note(d.ctx, studyID); err != nil {
			return err
		}
		d.broughtFile = true
		if err := describeFile(d.ctx, d.store, studyID, table); err != nil {
			return err
		}
		return kept.Lasting()
	})
	kept.Settle(err == nil)
	if err == nil {
		s.Discard(ctx, in.ArrivalID)
	}
	return err
}

// storedAhead are columns that were stored for a study at a revision before the transaction that shows them; nil for none.
type storedAhead struct {
	revision  uint64
	questions map[uint64]study.Question
}

// of gives a question as it is with its stored column; ok is false where the study has changed since.
func (a *storedAhead) of(st study.Study, q study.Question) (stored study.Question, ok bool) {
	if a == nil || a.revision != st.Revision {
		return stored, false
	}
	stored, ok = a.questions[q.ID]
	return stored, ok
}

// usualAhead is from how many answers on the columns of a newer file are stored before the transaction that shows them, which
// would be larger than a cluster takes.
const usualAhead = 16 << 20

// ahead stores the columns of a much larger file, a statement each, as generations that no question has yet. What comes to
// nothing goes with the next edit.
func (s *Uploads) ahead(ctx context.Context, studyID uint64, in Refresh, table *intake.Table, wave bool) (*storedAhead, error) {
	if err := s.may(ctx, studyID, study.ToChange); err != nil {
		return nil, err
	}
	st, err := s.base.store.Study(ctx, studyID)
	if err != nil {
		return nil, err
	}
	rows := int64(table.Rows)
	if in.Add {
		rows += st.Rows
	}
	if rows*int64(len(table.Columns)) < s.aheadFrom {
		return nil, nil //nolint:nilnil // the transaction takes them
	}
	questions, err := s.store.Questions(ctx, studyID)
	if err != nil {
		return nil, err
	}
	out := &storedAhead{st.Revision, map[uint64]study.Question{}}
	_, columns := fit(questions, table)
	for i, q := range questions {
		if q.Derivation != nil || strings.EqualFold(q.Name, in.WaveQuestion) && wave {
			continue
		}
		var old survey.Column
		if in.Add {
			if old, err = s.read(ctx, q, st.Rows); err != nil {
				return nil, err
			}
		}
		answers, column, err := brought(q, columns[i], old, table.Rows)
		if err != nil {
			return nil, err
		}
		if q.Generation, err = s.drafts.NextGeneration(ctx, q.ID); err != nil {
			return nil, err
		}
		if err := s.drafts.SaveColumn(ctx, q.ID, q.Generation, column); err != nil {
			return nil, err
		}
		q.Answers = answers
		out.questions[q.ID] = q
	}
	return out, nil
}

// brought is a question's column with the answers of a newer file behind old ones, which may be none; blanks where the file
// lacks the question.
func brought(q study.Question, fresh *survey.Built, old survey.Column, more int) (answers []survey.Answer, column survey.Column, err error) {
	answers, column = q.Answers, survey.Blanks(q.Kind, more)
	if fresh != nil {
		if answers, column, _, err = survey.Refit(q.Answers, fresh.Answers, fresh.Data, false); err != nil {
			return nil, column, fmt.Errorf("service: %w", err)
		}
	}
	if old.Rows() > 0 {
		column = survey.Joined(old, column)
	}
	return answers, column, nil
}

// bring gives a question the answers of a newer file: its own before them when they are added.
func (d *draft) bring(before study.Question, fresh *survey.Built, rows, more int, add bool) (err error) {
	var old survey.Column
	if add && rows > 0 {
		if old, err = d.column(before); err != nil {
			return err
		}
	}
	q := before
	var column survey.Column
	if q.Answers, column, err = brought(before, fresh, old, more); err != nil {
		return err
	}
	if q, err = d.newColumn(q, column); err != nil {
		return err
	}
	return d.save(before, q)
}

// wave writes which file each respondent came with.
func (d *draft) wave(questions []study.Question, name, label, first string, rows, more int, add bool) error {
	name, err := plain(name, "/waveQuestion", maxName, true)
	if err != nil {
		return err
	}
	b := survey.NewBuilder(false)
	for range more {
		b.Add([]byte(label))
	}
	fresh := b.As(name, survey.Single)
	for _, q := range questions {
		if strings.EqualFold(q.Name, name) {
			if !q.Kind.Coded() || q.Derivation != nil {
				return invalid("refresh.wave", "/waveQuestion", nil)
			}
			return d.bring(q, &fresh, rows, more, add)
		}
	}
	switch {
	case add && first != "":
		b := survey.NewBuilder(false)
		for range rows {
			b.Add([]byte(first))
		}
		for range more {
			b.Add([]byte(label))
		}
		fresh = b.As(name, survey.Single)
	case add:
		fresh.Data = survey.Joined(survey.Blanks(survey.Single, rows), fresh.Data)
	}
	_, err = d.add(study.Question{Position: len(questions), KindReason: string(survey.Chosen), Question: fresh.Question}, fresh.Data)
	return err
}

// SetCounts declares the question that says how many respondents each row stands for,
// or that none does.
func (s *Uploads) SetCounts(ctx context.Context, studyID uint64, questionID *uint64) error {
	title := Title{ID: "counts", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		if questionID == nil {
			return d.countRows()
		}
		before, err := d.question(*questionID)
		if err != nil {
			return err
		}
		title.Values["name"] = document.Text(before.Name)
		q := before
		if q, err = d.recode(q, survey.Count); err != nil {
			return err
		}
		if err := d.countBy(q); err != nil {
			return err
		}
		return d.save(before, q)
	})
}

// countBy lets each row stand for the number in a question.
func (d *draft) countBy(q study.Question) error {
	column, err := d.column(q)
	if err != nil {
		return err
	}
	if row, bad := survey.BadCount(column); bad {
		return invalid("counts.bad", "/question", map[string]string{"row": fmt.Sprint(row + 1), "text": q.Code(column, row)})
	}
	d.sources = append(d.sources, q.ID)
	return d.setData(d.study.Rows, &q.ID)
}

// countRows lets each row stand for one respondent again; what counted them becomes a
// number.
func (d *draft) countRows() error {
	was := d.study.CountQuestion
	if err := d.setData(d.study.Rows, nil); err != nil || was == nil {
		return err
	}
	before, err := d.question(*was)
	if err != nil {
		return err
	}
	q, err := d.recode(before, survey.Continuous)
	if err != nil {
		return err
	}
	return d.save(before, q)
}
