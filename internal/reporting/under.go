package reporting

import (
	"slices"
	"strconv"
	"strings"

	"widetally/core/document"
	"widetally/core/survey"
	"widetally/internal/i18n"
)

// Asked is a question as it was put; Number is 0 where there is no questionnaire.
type Asked struct {
	Number  int
	Wording string
}

// AskedOf are the questions that were counted, in the order of all of a questionnaire.
func AskedOf(counted []survey.Question, all []survey.Question, numbered bool) (out []Asked) {
	for i, q := range all {
		if !slices.ContainsFunc(counted, func(c survey.Question) bool { return c.Name == q.Name }) {
			continue
		}
		one := Asked{Wording: q.Wording}
		if numbered {
			one.Number = i + 1
		}
		out = append(out, one)
	}
	return out
}

// under is what stands under a table of the analysis: the wording of its questions, of how many it speaks,
// and how many gave no answer.
func (a Analysis) under(w *i18n.Catalogue) (out []string) {
	if len(a.Asked) <= mostWordings {
		var asked []string
		for _, q := range a.Asked {
			if q.Number > 0 {
				asked = append(asked, w.Text("report.asked_numbered", map[string]string{"n": strconv.Itoa(q.Number), "wording": q.Wording}))
			} else {
				asked = append(asked, w.Text("report.asked", map[string]string{"wording": q.Wording}))
			}
		}
		out = append(out, strings.Join(asked, " "))
	}
	whom := a.Whom
	if whom != "" && a.Missing != "" {
		whom = w.Text("report.and_missing", map[string]string{"whom": whom, "missing": a.Missing})
	}
	if whom == "" { // how a sample was drawn stands over the tables already
		for _, b := range a.Document.Blocks {
			if b.Kind == document.Basis && len(b.Lines) > 0 {
				out = append(out, b.Lines[0])
			}
		}
		return out
	}
	return append(out, whom)
}

// mostWordings is how many questions stand under a table; the rows of a battery say them themselves.
const mostWordings = 4
