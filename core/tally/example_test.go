package tally_test

import (
	"fmt"

	"widetally/core/survey"
	"widetally/core/tally"
)

// A column of cells becomes a question with its answers, and is counted.
func ExampleTabulate() {
	b := survey.NewBuilder(false)
	for _, cell := range []string{"own", "rent", "own", ""} {
		b.Add([]byte(cell))
	}
	column := b.As("tenure", survey.Single)
	f, err := tally.Tabulate(column.Question, column.Data, survey.Sample{})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, row := range f.Rows {
		answer, _ := column.Question.Answer(row.Slot)
		fmt.Printf("%s %d, %.1f %% of those who answered\n", answer.Label, row.Count, *row.PercentOfAnswered)
	}
	fmt.Println("missing", f.Missing)
	// Output:
	// own 2, 66.7 % of those who answered
	// rent 1, 33.3 % of those who answered
	// missing 1
}
