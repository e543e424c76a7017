package service

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/intake"
)

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
	drawn, err := drawnBy(ctx, s.base.store, studyID)
	if err != nil {
		return nil, err
	}
	fits, columns := fit(questions, table, drawn)
	if _, err := in.matched(questions, fits, columns); err != nil {
		return nil, err
	}
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

// keepApart makes questions of columns that have the name of one and are another: those who were there before gave no
// answer to it.
func (d *draft) keepApart(questions []study.Question, apart []survey.Built, in Refresh, rows, more int) error {
	taken := map[string]bool{}
	for _, q := range questions {
		taken[strings.ToLower(q.Name)] = true
	}
	for i, c := range apart {
		named := func(end string) string { return shortened(c.Name, max(1, maxName-1-len([]rune(end)))) + "_" + end }
		name := named(cmp.Or(in.Wave, "2"))
		for n := 2; taken[strings.ToLower(name)]; n++ {
			name = named(fmt.Sprint(n))
		}
		taken[strings.ToLower(name)] = true
		column := c.Data
		if in.Add && rows > 0 {
			column = survey.Joined(survey.Blanks(c.Kind, rows), column)
		}
		q := study.Question{Position: len(questions) + 1 + i, KindReason: string(survey.Chosen), Question: c.Question}
		q.Name = name
		if c.Wording == c.Name {
			q.Wording = name
		}
		if _, err := d.add(q, column); err != nil {
			return err
		}
	}
	return nil
}

// noteWordings notes of questions how they were asked in a wave that asked them in other words, or whose codes meant
// something else.
func (d *draft) noteWordings(questions []study.Question, fits *Fit, in Refresh, wave string) error {
	if !in.Add || wave == "" {
		return nil
	}
	for _, m := range fits.Matched {
		o := m.Otherwise
		if o.Wording == "" && len(o.Relabelled) == 0 || m.Unreadable || o.Doubtful() && in.Matches[m.Name] != SameQuestion {
			continue
		}
		at := slices.IndexFunc(questions, func(q study.Question) bool { return q.Name == m.Name })
		before, err := d.question(questions[at].ID)
		if err != nil {
			return err
		}
		q := before
		said := []string{before.Note}
		if o.Wording != "" {
			said = append(said, d.s.words.Text("refresh.worded", map[string]string{"wave": wave, "wording": o.Wording}))
		}
		for _, r := range o.Relabelled {
			said = append(said, d.s.words.Text("refresh.relabelled", map[string]string{"wave": wave, "code": r.Code, "label": r.There}))
		}
		q.Note = shortened(strings.TrimSpace(strings.Join(said, " ")), maxWording)
		if err := d.save(before, q); err != nil {
			return err
		}
	}
	return nil
}
