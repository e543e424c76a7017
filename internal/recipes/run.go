package recipes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"strings"
	"time"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/recipe"
	"widetally/core/resultjson"
	"widetally/core/say"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/i18n"
	"widetally/internal/intake"
	"widetally/internal/said"
)

// Run is a recipe on a file: what came out of each analysis, and what of the file is not as the
// recipe has it.
type Run struct {
	*recipe.Prepared
	File    string
	At      time.Time
	Results []Result
	Books   []Book
	words   *i18n.Catalogue
	text    *Text
}

// Result is what came out of one analysis.
type Result struct {
	recipe.Analysis
	// Statement is what a claim says.
	Statement string
	Outcome   *analysis.Outcome
	Document  *document.Document
	// Whom says of how many respondents it speaks.
	Whom string
	// Problems keep it from being asked, each where it stands in the recipe; it is left out then.
	Problems []*Mistake
}

// Why says the problems.
func (r Result) Why() (out []string) {
	for _, p := range r.Problems {
		out = append(out, p.Why)
	}
	return out
}

// SettingsOf are those with which a file is read: what the recipe says, the rest as it is guessed.
// countedBy names the column that says how many respondents a row stands for; "" for none.
func SettingsOf(ctx context.Context, d recipe.Data, countedBy string, f intake.File) (intake.Settings, error) {
	s, err := intake.Sniff(ctx, f)
	if err != nil {
		return s, err
	}
	s.HeaderSaid, s.LastRow, s.Missing = d.Header != "" || d.HeaderRow > 0, intake.LastRow(d.LastRow), d.Missing
	if countedBy != "" && s.Shape == intake.Rows {
		s.Shape, s.CountColumn, s.BlankIsZero = intake.Counts, countedBy, true
	}
	if d.Delimiter != "" {
		s.Delimiter = d.Delimiter
	}
	if d.Encoding != "" {
		s.Encoding = intake.Encoding(d.Encoding)
	}
	if d.Sheet != "" {
		s.Part = d.Sheet
	}
	switch {
	case d.Header == "none":
		s.HeaderRow = 0
	case d.HeaderRow > 0:
		s.HeaderRow = d.HeaderRow
	case d.Header == "names":
		s.HeaderRow = max(1, s.HeaderRow)
	}
	return s, nil
}

// On runs a recipe on a file that was read. told is told how far it has come; nil for nobody. A
// mistake of the recipe is a *Mistake.
func On(ctx context.Context, t *Text, table *intake.Table, file string, words *i18n.Catalogue, told func(done, of int)) (*Run, error) {
	for _, q := range t.Recipe.Questions {
		table.Known(q.Name)
	}
	if len(table.Problems) > 0 {
		return nil, &table.Problems[0]
	}
	p, err := recipe.Prepare(t.Recipe, table.Columns, table.Rows)
	var wrong *recipe.Error
	if errors.As(err, &wrong) {
		return nil, t.At(wrong.Pointer, wrong.Message)
	}
	if err != nil {
		return nil, err
	}
	if p.Recipe.Study.Name == "" {
		p.Recipe.Study.Name = strings.TrimSuffix(file, path.Ext(file))
	}
	if p.Recipe.Study.Units == "" {
		p.Recipe.Study.Units = words.Text("claim.respondents", nil)
	}
	out := &Run{Prepared: p, File: file, At: time.Now(), words: words, text: t}
	from := p.Source()
	tests := 0
	for _, a := range t.Recipe.Analyses {
		if a.Spec.Settings.Tests() {
			tests++
		}
	}
	for i := range t.Recipe.Analyses {
		if told != nil {
			told(i, len(t.Recipe.Analyses))
		}
		r, err := out.one(ctx, from, i, tests)
		if err != nil {
			return nil, err
		}
		out.Results = append(out.Results, r)
	}
	for i := range p.Recipe.Books {
		b, err := out.book(ctx, i)
		if err != nil {
			return nil, err
		}
		out.Books = append(out.Books, b)
	}
	return out, nil
}

// about is what sentences need beyond the numbers.
func (r *Run) about(s analysis.Spec) claim.About {
	units := document.Text(r.Recipe.Study.Units)
	if r.Recipe.Study.Units == "" {
		units = document.Term("claim.respondents")
	}
	out := claim.About{Units: units}
	for _, q := range r.Questions {
		if q.Question.Kind == survey.Weight && (r.Recipe.Design == nil || s.Unweighted) {
			out.Weights = q.Question.Name
			break
		}
	}
	if s.Subgroup != "" {
		within := say.ClaimInSubgroup(units, string(s.Subgroup))
		out.Units = document.Value{Kind: document.Said, Message: &within}
	}
	return out
}

// faults are what keeps the analysis at a place of the recipe from being asked of the file.
func (r *Run) faults(place int) (out []*Mistake) {
	a := r.Recipe.Analyses[place]
	var questions []survey.Question
	for k, key := range a.Spec.Questions {
		q, ok := r.Question(string(key))
		if !ok {
			return append(out, r.lacking(place, fmt.Sprintf("/questions/%d", k), key))
		}
		questions = append(questions, q)
	}
	for _, p := range a.Spec.CheckBy(r.Recipe.Design != nil, questions) {
		if !p.Doubt {
			out = append(out, r.text.told(askedAt(place), a.Spec.Method, p))
		}
	}
	return out
}

// askedAt is where an analysis of the recipe says what it asks.
func askedAt(place int) string { return fmt.Sprintf("/analyses/%d/ask", place) }

func (r *Run) lacking(place int, pointer string, column analysis.Key) *Mistake {
	return r.text.At(askedAt(place)+pointer, document.Say("recipe.lacking", document.Values{"column": document.Text(string(column))}))
}

// one asks the analysis at a place of the recipe.
func (r *Run) one(ctx context.Context, from analysis.Source, place, tests int) (Result, error) {
	a := r.Recipe.Analyses[place]
	out := Result{Analysis: a}
	if out.Problems = r.faults(place); len(out.Problems) > 0 {
		return out, nil
	}
	var questions []survey.Question
	for _, key := range a.Spec.Questions {
		q, _ := r.Question(string(key)) // they are there
		questions = append(questions, q)
	}
	about := r.about(a.Spec)
	out.Statement = r.words.Say(a.Spec.Settings.Statement(questions, about))
	counted, err := analysis.Count(ctx, a.Spec, from)
	var refused *analysis.SpecError
	switch {
	case errors.Is(err, analysis.ErrUnknownKey):
		out.Problems = append(out.Problems, r.lacking(place, "/subgroup", a.Spec.Subgroup))
		return out, nil
	case errors.As(err, &refused):
		out.Problems = append(out.Problems, r.text.told(askedAt(place), a.Spec.Method, refused.Problem))
		return out, nil
	case err != nil:
		return out, err
	}
	if out.Outcome, err = analysis.Run(analysis.Work{Context: ctx, Steps: analysis.UsualSteps, Replicates: analysis.UsualReplicates}, a.Spec, counted); err != nil {
		return out, err
	}
	var cannot *infer.InputError
	if errors.As(out.Outcome.Refusal, &cannot) {
		id := "problem.analysis." + string(cannot.Reason)
		if !r.words.Has(id) {
			id = "problem.compute." + string(cannot.Reason)
		}
		out.Problems = append(out.Problems, r.text.At(askedAt(place), document.Say(id, nil)))
		return out, nil
	}
	doc := out.Outcome.Document(about)
	if a.Spec.Settings.Tests() {
		r.Recipe.Adjustment.Remind(&doc, tests, r.looks(), a.Spec.Settings.SignificanceLevel())
	}
	n, ok := counted.Respondents()
	doc = disclosure.Document(doc, r.rule(), n)
	if out.Document = &doc; ok {
		out.Whom = r.words.Say(say.LeavesCounted(n, about.Units))
	}
	return out, nil
}

// Results is what a run writes as JSON.
type Results struct {
	// Format is widetally/results.
	Format      string           `json:"format"`
	Version     int              `json:"version"`
	Study       string           `json:"study"`
	Units       string           `json:"units"`
	File        string           `json:"file"`
	At          time.Time        `json:"at"`
	Rows        int              `json:"rows"`
	Respondents int64            `json:"respondents"`
	Noticed     []NoticedResult  `json:"noticed"`
	Tallies     []TallyResult    `json:"tallies"`
	Analyses    []AnalysisResult `json:"analyses"`
	Books       []BookResult     `json:"books,omitempty"`
	// SafeToPublish says the rule by which figures are withheld and rounded; absent where there is none.
	SafeToPublish []string `json:"safeToPublish,omitempty"`
}

// NoticedResult is something of the file that is not as the recipe has it.
type NoticedResult struct {
	Pointer string `json:"pointer,omitempty"`
	Column  string `json:"column,omitempty"`
	Text    string `json:"text"`
}

// Told is what was noticed, in words.
func (r *Run) Told() []NoticedResult {
	out := []NoticedResult{}
	for _, n := range r.Noticed {
		out = append(out, NoticedResult{n.Pointer, n.Column, r.words.Say(n.Message)})
	}
	return out
}

// looks is how many crossings of one question with several the recipe asks for.
func (r *Run) looks() (n int) {
	for _, a := range r.Recipe.Analyses {
		n += a.Spec.Looks()
	}
	return n
}

// AnalysisResult is what came out of an analysis, or what keeps it from being asked.
type AnalysisResult struct {
	Name      string        `json:"name"`
	Ask       analysis.Spec `json:"ask"`
	Statement string        `json:"statement,omitempty"`
	Finding   string        `json:"finding,omitempty"`
	Outcome   string        `json:"outcome,omitempty"`
	// Computed is the method of the compute routes that takes Input and gives Result; absent where what was
	// counted is no input of one method.
	Computed string          `json:"computed,omitempty"`
	Input    json.RawMessage `json:"input,omitempty"`
	Result   json.RawMessage `json:"result,omitempty"`
	Problems []string        `json:"problems,omitempty"`
}

// JSON writes the results at full precision, with the tallies of all questions.
func (r *Run) JSON() ([]byte, error) {
	out := Results{Format: "widetally/results", Version: 1, Study: r.Recipe.Study.Name, Units: r.Recipe.Study.Units, File: r.File, At: r.At, Rows: r.Rows, Respondents: r.rule().Rounded(r.Respondents()),
		Noticed: r.Told(), Tallies: []TallyResult{}, Analyses: []AnalysisResult{}}
	for _, s := range r.Questions {
		if !s.Question.Kind.Tabulated() {
			continue
		}
		f, err := tally.Tabulate(s.Question, s.Column, survey.Sample{Frequency: r.Times})
		if err != nil {
			return nil, fmt.Errorf("recipes: %w", err)
		}
		out.Tallies = append(out.Tallies, TallyOf(s.Question, f, r.rule()))
	}
	for _, one := range r.Results {
		a := AnalysisResult{Name: one.Name, Ask: one.Spec, Statement: one.Statement, Problems: one.Why()}
		var err error
		whole := one.Outcome != nil && !r.rule().InForce() // else only what its document tells
		if whole && one.Outcome.Request != nil {
			if a.Input, err = resultjson.Encode(one.Outcome.Request); err != nil {
				return nil, fmt.Errorf("recipes: %w", err)
			}
			a.Computed = r.text.computes(one.Spec.Method, one.Outcome.Request, one.Outcome.Result)
		}
		if whole && one.Outcome.Result != nil {
			if a.Result, err = resultjson.Encode(one.Outcome.Result); err != nil {
				return nil, fmt.Errorf("recipes: %w", err)
			}
		}
		if doc := said.Of(one.Document, r.words); doc != nil {
			if a.Finding = doc.Finding(); doc.Outcome != nil {
				a.Outcome = doc.Outcome.Text
			}
		}
		out.Analyses = append(out.Analyses, a)
	}
	out.Books = r.booksResult()
	out.SafeToPublish = r.words.SayAll(r.rule().Said())
	raw, err := json.MarshalIndent(out, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("recipes: %w", err)
	}
	return append(raw, '\n'), nil
}
