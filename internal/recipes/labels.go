package recipes

import (
	"errors"
	"fmt"

	"widetally/core/recipe"
	"widetally/core/survey"
	"widetally/internal/intake"
)

// ErrNoLabels says that a codebook describes no column of a file.
var ErrNoLabels = errors.New("it describes no column of the file")

// Labelled gives the columns of a file the wordings, kinds and answers of a codebook, by their names. What
// cannot be read as the codebook has it stays as it was guessed.
func Labelled(table *intake.Table, book []survey.Question) error {
	r := recipe.Recipe{}
	for _, q := range book {
		if survey.Named(q.Name, len(table.Columns), func(i int) string { return table.Columns[i].Name }) >= 0 {
			r.Questions = append(r.Questions, recipe.QuestionOf(q, nil))
		}
	}
	if len(r.Questions) == 0 {
		return ErrNoLabels
	}
	p, err := recipe.Prepare(r, table.Columns, table.Rows)
	if err != nil {
		return fmt.Errorf("recipes: %w", err)
	}
	for i, c := range table.Columns {
		at := survey.Named(c.Name, len(p.Questions), func(i int) string { return p.Questions[i].Question.Name })
		if at >= 0 {
			table.Columns[i].Question, table.Columns[i].Data = p.Questions[at].Question, p.Questions[at].Column
			table.Columns[i].Name = c.Name
		}
	}
	return nil
}
