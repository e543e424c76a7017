package intake

import (
	"widetally/core/analysis"
	"widetally/core/survey"
)

// Source makes what was read a source of counts, in which columns go by their names.
// What would keep it from being kept keeps it from being counted: the error is the first
// *Problem.
func (t *Table) Source() (analysis.Columns, error) {
	if len(t.Problems) > 0 {
		return analysis.Columns{}, &t.Problems[0]
	}
	columns, counts := make([]survey.Source, len(t.Columns)), ""
	for i, c := range t.Columns {
		columns[i] = survey.Source{Question: c.Question, Column: c.Data}
		if i == t.CountColumn {
			counts = c.Name
		}
	}
	return analysis.NewTable(columns, counts)
}
