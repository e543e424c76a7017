// Package book makes tables of many questions by the same columns: a banner, whose breaks stand beside
// each other, and a table book, which says what is tabulated by it and which differences are told.
package book

import (
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/survey"
)

// Banner is the columns of tables, break by break.
type Banner struct {
	Breaks []Break `json:"breaks"`
}

// Break is columns that belong together: the answers of a question, also within those of others; a
// subgroup; or, naming neither, everyone.
type Break struct {
	// Questions are those whose answers are the columns, the outermost first.
	Questions []analysis.Key `json:"questions,omitempty"`
	// Answers are the codes of those that are columns, question by question; a list that is empty or left
	// out takes all.
	Answers [][]string `json:"answers,omitempty"`
	// Subgroup is whom the only column is about.
	Subgroup analysis.Key `json:"subgroup,omitempty"`
	// Label stands over the columns, or names the only one; "" for what the question or subgroup is called.
	Label string `json:"label,omitempty"`
}

const (
	// MostBreaks and MostColumns bound a banner, MostNested the questions of a break.
	MostBreaks  = 20
	MostColumns = 120
	MostNested  = 3
	// MostLabel bounds a label in characters.
	MostLabel = 120
)

// Everyone reports whether the break is one column of all.
func (b Break) Everyone() bool { return len(b.Questions) == 0 && b.Subgroup == "" }

// codes are those of the answers to a question of the break that are columns; nil for all.
func (b Break) codes(question int) []string {
	if question < len(b.Answers) {
		return b.Answers[question]
	}
	return nil
}

// columnsOf are the proper answers to a question of the break that are columns.
func (b Break) columnsOf(question int, q survey.Question) (out []survey.Answer) {
	codes := b.codes(question)
	for _, a := range q.Proper() {
		if len(codes) == 0 || slices.Contains(codes, a.Code) {
			out = append(out, a)
		}
	}
	return out
}

// Serves reports whether a question's answers can be columns; a choose-all question stands innermost.
func Serves(q survey.Question, innermost bool) bool {
	return q.Kind.Coded() || q.Kind == survey.ChooseAll && innermost
}

// Check lists what keeps a banner from being laid out; question and subgroup give those that there are.
func (b Banner) Check(
	question func(analysis.Key) (survey.Question, bool), subgroup func(analysis.Key) bool,
) (out []analysis.Problem) {
	add := func(code, pointer string, v document.Values) {
		out = append(out, analysis.Problem{Code: "banner." + code, Pointer: pointer, Values: v})
	}
	if len(b.Breaks) > MostBreaks {
		add("breaks", "/breaks", document.Values{"most": document.N(MostBreaks)})
		return out
	}
	columns := 0
	for i, one := range b.Breaks {
		at := fmt.Sprintf("/breaks/%d", i)
		switch {
		case len([]rune(one.Label)) > MostLabel:
			add("label", at+"/label", document.Values{"most": document.N(MostLabel)})
			continue
		case len(one.Questions) > MostNested:
			add("nested", at+"/questions", document.Values{"most": document.N(MostNested)})
			continue
		case one.Subgroup != "" && (len(one.Questions) > 0 || !subgroup(one.Subgroup)):
			add("subgroup", at+"/subgroup", nil)
			continue
		}
		width := 1
		for k, key := range one.Questions {
			q, known := question(key)
			place := fmt.Sprintf("%s/questions/%d", at, k)
			switch {
			case !known:
				add("question", place, nil)
			case slices.Contains(one.Questions[:k], key):
				add("same_question", place, document.Values{"question": document.Text(q.Name)})
			case !Serves(q, k == len(one.Questions)-1):
				add("kind", place, document.Values{"question": document.Text(q.Name)})
			default:
				answers := one.columnsOf(k, q)
				if len(answers) == 0 {
					add("no_answer", place, document.Values{"question": document.Text(q.Name)})
				}
				width *= len(answers)
			}
			width = min(width, MostColumns+1)
		}
		columns += width
	}
	if len(out) == 0 && columns > MostColumns {
		add("columns", "/breaks", document.Values{"most": document.N(MostColumns)})
	}
	return out
}
