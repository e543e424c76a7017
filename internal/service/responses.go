package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// Responses is a stretch of a study's rows.
type Responses struct {
	Rows  int64 // that match
	First int64 // place of the first one given, from 0
	Lines []ResponseLine
	// Damaged are the questions whose answers cannot be read; their cells are empty.
	Damaged []uint64
}

// ResponseLine is one respondent's row: its number in the study from 1 and a cell a
// question. Missing tells per cell whether its answer is missing.
type ResponseLine struct {
	Number  int64
	Cells   []string
	Missing []bool
}

// Find says which rows are wanted: those whose answer to a question contains the text,
// written as code or label; the zero value wants all.
type Find struct {
	QuestionID uint64
	Text       string
}

const mostLines = 500

// Responses returns rows of a study as codes or labels.
func (s *Answers) Responses(ctx context.Context, studyID uint64, from, most int, labels bool, find Find) (*Responses, error) {
	var st study.Study
	var questions []study.Question
	err := s.store.Snapshot(ctx, func(ctx context.Context) (err error) {
		if err = s.may(ctx, studyID, study.ToSeeAnswers); err != nil {
			return err
		}
		if st, err = s.seen(ctx, studyID); err != nil {
			return err
		}
		questions, err = s.store.Questions(ctx, studyID)
		return err
	})
	if err != nil {
		return nil, err
	}
	most = min(max(most, 1), mostLines)
	out := &Responses{Rows: st.Rows, First: int64(max(0, from))}
	var rows []int
	if find.Text != "" {
		found, err := s.find(ctx, questions, st.Rows, find)
		if err != nil {
			return nil, err
		}
		out.Rows = int64(len(found))
		if from < len(found) {
			rows = found[max(0, from):min(len(found), from+most)]
		}
	} else {
		for i := max(0, from); i < int(st.Rows) && len(rows) < most; i++ {
			rows = append(rows, i)
		}
	}
	out.Lines = make([]ResponseLine, len(rows))
	for k, i := range rows {
		out.Lines[k] = ResponseLine{Number: int64(i) + 1, Cells: make([]string, len(questions)), Missing: make([]bool, len(questions))}
	}
	for j, q := range questions {
		column, err := s.load(ctx, q, st.Rows)
		var damaged *study.DamagedError
		if errors.As(err, &damaged) {
			out.Damaged = append(out.Damaged, q.ID)
			continue
		}
		if err != nil {
			return nil, err
		}
		cell := q.Writer(column, labels)
		missing := q.MissingAt(column)
		for k, i := range rows {
			out.Lines[k].Cells[j], out.Lines[k].Missing[j] = cell(i), missing(i)
		}
	}
	return out, nil
}

func (s *base) find(ctx context.Context, questions []study.Question, studyRows int64, find Find) ([]int, error) {
	at := slices.IndexFunc(questions, func(q study.Question) bool { return q.ID == find.QuestionID })
	if at < 0 {
		return nil, study.ErrNotFound
	}
	q := questions[at]
	column, err := s.load(ctx, q, studyRows)
	if err != nil {
		return nil, err
	}
	wanted := strings.ToLower(find.Text)
	known := map[string]bool{} // cells repeat, so each text is looked through once
	fits := func(cell string) bool {
		fit, ok := known[cell]
		if !ok {
			fit = strings.Contains(strings.ToLower(cell), wanted)
			if len(known) < 100_000 {
				known[cell] = fit
			}
		}
		return fit
	}
	code, label := q.Writer(column, false), q.Writer(column, true)
	rows := []int{}
	for i := range column.Rows() {
		if i%65536 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if fits(code(i)) || fits(label(i)) {
			rows = append(rows, i)
		}
	}
	return rows, nil
}

// CorrectCell gives one respondent another answer to a question at this version. The
// text is a code or a label of the question, a number, or a text of its own; a code
// that the question lacks becomes a new answer when isNew says so.
func (s *Answers) CorrectCell(ctx context.Context, studyID, questionID uint64, version int, row int64, text string, isNew bool) error {
	title := Title{ID: "cell", Values: document.Values{"row": document.N(row)}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		before, err := d.question(questionID)
		if err != nil {
			return err
		}
		title.Values["name"] = document.Text(before.Name)
		if before.Derivation != nil {
			return invalid("cell.derived", "/text", nil)
		}
		column, err := d.column(before)
		if err != nil {
			return err
		}
		if row < 1 || row > int64(column.Rows()) {
			return invalid("cell.row", "/row", nil)
		}
		text, err := plain(text, "/text", maxWording, false)
		if err != nil {
			return err
		}
		q := before
		q.Version = version
		var changed survey.Column
		q.Question, changed, err = survey.Correct(q.Question, column, int(row-1), text, isNew)
		switch {
		case errors.Is(err, survey.ErrUnknownAnswer):
			return invalid("cell.unknown", "/text", map[string]string{"text": text, "name": q.Wording})
		case errors.Is(err, survey.ErrTooManyAnswers):
			return invalid("question.too_many", "/text", map[string]string{"most": fmt.Sprint(survey.MostAnswers)})
		case errors.Is(err, survey.ErrNotACount):
			return invalid("cell.count", "/text", map[string]string{"text": text})
		case err != nil:
			return err
		}
		if q, err = d.newColumn(q, changed); err != nil {
			return err
		}
		return d.save(before, q)
	})
}
