package service

import (
	"context"
	"fmt"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

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
