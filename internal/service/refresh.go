package service

import (
	"context"
	"slices"
	"strings"

	"widetally/core/analysis"
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
	// Matches say what becomes of questions that are matched by name but not by answers.
	Matches map[string]Match
}

// Match says what becomes of a column of a file that has the name of a question and other answers.
type Match string

// What becomes of it: it is that question, another one that is kept apart, or left out.
const (
	SameQuestion Match = "same"
	KeptApart    Match = "apart"
	LeftOut      Match = "out"
)

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
	// Otherwise says in what it is not the question that the study has.
	Otherwise survey.Otherwise
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
	drawn, err := drawnBy(ctx, s.base.store, studyID)
	f, _ := fit(questions, table, drawn)
	return f, err
}

// fit matches a file's columns to a study's questions. columns holds per question what
// the file says, read as the question's kind; nil where it lacks it.
func fit(questions []study.Question, table *intake.Table, drawn []analysis.Key) (*Fit, []*survey.Built) {
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
			m.Otherwise = survey.OtherwiseThan(q.Question, c.Question)
			m.Otherwise.Strange = m.Otherwise.Strange && !slices.Contains(drawn, KeyOf(q.ID))
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

// drawnBy are the questions that say how the respondents of a study were drawn.
func drawnBy(ctx context.Context, rows partReader, studyID uint64) ([]analysis.Key, error) {
	parts, err := rows.Parts(ctx, studyID, study.Design)
	if err != nil {
		return nil, err
	}
	_, is, err := designOf(parts)
	return is.Drawn.Questions(), err
}

// matched leaves out of the columns those that are no question of the study, as was said, and gives those that are
// kept apart. What is doubtful and nobody has said of is refused.
func (in Refresh) matched(questions []study.Question, f *Fit, columns []*survey.Built) (apart []survey.Built, err error) {
	for _, m := range f.Matched {
		at := slices.IndexFunc(questions, func(q study.Question) bool { return q.Name == m.Name })
		if !m.Otherwise.Doubtful() || columns[at] == nil || strings.EqualFold(m.Name, in.WaveQuestion) && in.Wave != "" {
			continue
		}
		switch in.Matches[m.Name] {
		case SameQuestion:
			continue
		case KeptApart:
			apart = append(apart, *columns[at])
		case LeftOut:
		default:
			return nil, invalid("refresh.doubtful", "/matches", map[string]string{"name": m.Name})
		}
		columns[at] = nil
	}
	return apart, nil
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
	in.Wave = wave
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
		drawn, err := drawnBy(d.ctx, d.store, studyID)
		if err != nil {
			return err
		}
		fits, columns := fit(questions, table, drawn)
		apart, err := in.matched(questions, fits, columns)
		if err != nil {
			return err
		}
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
		if err := d.keepApart(questions, apart, in, before, table.Rows); err != nil {
			return err
		}
		if err := d.noteWordings(questions, fits, in, wave); err != nil {
			return err
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
