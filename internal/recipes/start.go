package recipes

import (
	"encoding/json"
	"errors"
	"io"
	"path"
	"slices"
	"strings"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/recipe"
	"widetally/core/survey"
	"widetally/internal/i18n"
	"widetally/internal/intake"
)

// Start writes a recipe to begin with: the columns of a file as they were read, a tally of each that has
// answers, and comments that say how to go on.
func Start(w io.Writer, words *i18n.Catalogue, table *intake.Table, as recipe.Data, file, units string) error {
	if units == "" {
		units = words.Text("claim.respondents", nil)
	}
	r := recipe.Recipe{Format: recipe.Format, Version: recipe.Version, Study: recipe.Study{Name: strings.TrimSuffix(file, path.Ext(file)), Units: units}, Data: as, Report: &recipe.Report{}}
	r.Data.Labels = "" // what it says stands in the questions
	example := ""
	for _, c := range table.Columns {
		q := recipe.QuestionOf(c.Question, nil)
		if q.Wording == q.Name {
			q.Wording = ""
		}
		if q.Answers = answersOf(q); q.Kind.Tabulated() {
			r.Report.Pieces = append(r.Report.Pieces, recipe.Piece{Tally: q.Name})
			if example == "" {
				example = q.Name
			}
		}
		r.Questions = append(r.Questions, q)
	}
	root, err := nodesOf(r)
	if err != nil {
		return err
	}
	comment := func(id string, values map[string]string) string { return words.Text("recipe.start."+id, values) }
	of := root.Content[0]
	root.HeadComment = comment("file", map[string]string{"file": file})
	for i := 0; i+1 < len(of.Content); i += 2 {
		switch key := of.Content[i]; key.Value {
		case "study":
			key.HeadComment = comment("study", nil)
		case "questions":
			var kinds []string
			for _, k := range survey.Kinds {
				kinds = append(kinds, string(k))
			}
			key.HeadComment = comment("questions", map[string]string{"list": strings.Join(kinds, ", ")})
		case "report":
			key.HeadComment = comment("asked", nil) + asked(example) + "\n" + comment("report", nil)
		}
	}
	return encoded(w, root)
}

// answersOf are the answers of a question without that of the empty cell, which needs no words.
func answersOf(q recipe.Question) (out []recipe.Answer) {
	for _, a := range q.Answers {
		if a.Code != "" {
			out = append(out, a)
		}
	}
	return out
}

// asked is an analysis as it could be asked of a question, in comments.
func asked(question string) string {
	if question == "" {
		return ""
	}
	name, _ := json.Marshal(question) // a text can be written
	return "\nanalyses:\n  - name: all shares\n    ask: {method: frequency, questions: [" + string(name) + "]}"
}

// Explained says in sentences what the recipe does.
func (t *Text) Explained(methods *analysis.Registry) (out []string) {
	r, w := t.Recipe, t.words
	say := func(id string, values map[string]string) string { return w.Text("recipe.says."+id, values) }
	number := func(n int) string { return w.Fixed(float64(n), 0) }
	units := r.Study.Units
	if units == "" {
		units = w.Text("claim.respondents", nil)
	}
	if r.Study.Name == "" {
		out = append(out, say("no_study", map[string]string{"units": units}))
	} else {
		out = append(out, say("study", map[string]string{"study": r.Study.Name, "units": units}))
	}
	derived := 0
	for _, q := range r.Questions {
		if q.Derive != nil {
			derived++
		}
	}
	if len(r.Questions) == 0 {
		out = append(out, say("no_questions", nil))
	} else {
		out = append(out, say("questions", map[string]string{"n": number(len(r.Questions)), "derived": number(derived)}))
	}
	if len(r.Subgroups) > 0 {
		var names []string
		for _, g := range r.Subgroups {
			names = append(names, w.Write(document.Value{Kind: document.Quoted, Text: g.Name}))
		}
		out = append(out, say("subgroups", map[string]string{"n": number(len(names)), "list": strings.Join(names, ", ")}))
	}
	if r.Design != nil {
		by := r.Design.Sampled(func(key analysis.Key) string { return string(key) })
		var how []string
		for _, m := range by.Drawn() {
			how = append(how, w.Say(m))
		}
		out = append(out, say("design", map[string]string{"how": strings.Join(how, " ")}))
	}
	run := Run{Prepared: &recipe.Prepared{Recipe: r}, words: w}
	for _, a := range r.Analyses {
		method := a.Spec.Method
		if m, ok := methods.Find(method); ok && m.Asked != nil {
			method = w.Text("method."+m.Asked.Texts, nil)
		}
		var questions []survey.Question
		for i, key := range a.Spec.Questions {
			questions = append(questions, withCodes(r.Described(string(key)), a.Spec.Settings.Codes(i)))
		}
		line := say("described", map[string]string{"name": a.Name, "method": method})
		if statement := w.Say(a.Spec.Settings.Statement(questions, run.about(a.Spec))); statement != "" {
			line = say("analysis", map[string]string{"name": a.Name, "method": method, "statement": statement})
		}
		if a.Spec.Settings.Tests() {
			line = say("level", map[string]string{"line": line, "level": w.Level(a.Spec.Settings.SignificanceLevel())})
		}
		out = append(out, line)
	}
	for _, b := range r.Books {
		out = append(out, say("book", map[string]string{"title": b.Title, "banner": string(b.Banner)}))
	}
	if r.SafeToPublish != nil && r.SafeToPublish.InForce() {
		out = append(out, say("safe", map[string]string{"how": strings.Join(w.SayAll(r.SafeToPublish.Said()), " ")}))
	}
	if r.Report == nil {
		return append(out, say("report_all", nil))
	}
	tallies, analyses, prose := 0, 0, 0
	for _, p := range r.Report.Pieces {
		switch {
		case p.Tally != "":
			tallies++
		case p.Analysis != "":
			analyses++
		default:
			prose++
		}
	}
	return append(out, say("report", map[string]string{"tallies": number(tallies), "analyses": number(analyses), "prose": number(prose)}))
}

// withCodes is a question that has the answers of some codes, which nobody may have described.
func withCodes(q survey.Question, codes []string) survey.Question {
	for _, code := range codes {
		if !slices.ContainsFunc(q.Answers, func(a survey.Answer) bool { return a.Code == code }) {
			q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(len(q.Answers) + 1), Code: code, Label: code}) //nolint:gosec // few
		}
	}
	return q
}

// Held holds the columns of a file against the recipe: what is noticed, and what keeps an analysis from being
// asked. A mistake of the recipe is a *Mistake.
func (t *Text) Held(table *intake.Table) (noticed []string, faults []*Mistake, err error) {
	for _, q := range t.Recipe.Questions {
		table.Known(q.Name)
	}
	if len(table.Problems) > 0 {
		return nil, nil, &table.Problems[0]
	}
	p, err := recipe.Prepare(t.Recipe, table.Columns, table.Rows)
	var wrong *recipe.Error
	if errors.As(err, &wrong) {
		return nil, nil, t.At(wrong.Pointer, wrong.Message)
	}
	if err != nil {
		return nil, nil, err
	}
	run := &Run{Prepared: p, words: t.words, text: t}
	for _, n := range run.Told() {
		noticed = append(noticed, n.Text)
	}
	for i := range p.Recipe.Analyses {
		faults = append(faults, run.faults(i)...)
	}
	for i := range p.Recipe.Books {
		faults = append(faults, run.told(p.Tabulate(i).Problems)...)
	}
	if len(noticed) == 0 && len(faults) == 0 {
		noticed = []string{t.words.Text("recipe.says.fits", nil)}
	}
	return noticed, faults, nil
}
