// Package recipe is a whole analysis as one document that people read and write: what the
// columns of a file mean, what is derived from them, subgroups, what is asked, what is reported.
// Questions go by the names of their columns, answers by their codes, so that it serves this
// year's file and the next.
package recipe

import (
	"encoding/json"
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/survey"
)

// Format and Version say what the document is; a newer version is refused.
const (
	Format  = "widetally/recipe"
	Version = 1
)

// Recipe is the document. What has a default may be left out: Filled gives it.
type Recipe struct {
	Format  string `json:"format,omitempty"`
	Version int    `json:"version,omitempty"`
	// Include are further recipes, by the paths of their files, that this one takes over and adds to.
	Include []string `json:"include,omitempty"`
	// Parameters are texts, numbers or truths that stand for ${name} anywhere in the recipe, by name; null
	// for one that has to be given when it is run.
	Parameters map[string]any `json:"parameters,omitempty"`
	Study      Study          `json:"study,omitzero"`
	// Data says how the file is read; each part that is left out is guessed.
	Data Data `json:"data,omitzero"`
	// Questions are the columns as they are meant; one that is not among them is taken as it is guessed.
	Questions []Question `json:"questions,omitempty"`
	Subgroups []Subgroup `json:"subgroups,omitempty"`
	// Design is how the respondents were drawn, by which the population is estimated; absent: they are
	// counted.
	Design   *analysis.Drawn `json:"design,omitempty"`
	Analyses []Analysis      `json:"analyses,omitempty"`
	// Adjustment is how the p-values of all claims are adjusted for being many.
	Adjustment analysis.Adjustment `json:"adjustment,omitempty"`
	// Banners are columns of tables, Books the questions that are tabulated by them.
	Banners []Banner    `json:"banners,omitempty"`
	Books   []book.Book `json:"books,omitempty"`
	// SafeToPublish is what may be told in what a run writes; absent: everything.
	SafeToPublish *disclosure.Rule `json:"safeToPublish,omitempty"`
	Report        *Report          `json:"report,omitempty"`
}

// Study names the study.
type Study struct {
	Name string `json:"name,omitempty"`
	// Units is what a row is, in the plural: "households"; respondents where it is left out.
	Units string `json:"units,omitempty"`
	// Decimals are those of percents; 1 where they are left out.
	Decimals *int `json:"decimals,omitempty"`
	// CountedBy is the column that says how many respondents a row stands for.
	CountedBy string `json:"countedBy,omitempty"`
}

// Data says how a file is read.
type Data struct {
	Delimiter string `json:"delimiter,omitempty"`
	Encoding  string `json:"encoding,omitempty"`
	// Sheet is the sheet of a workbook, or the table of a package.
	Sheet string `json:"sheet,omitempty"`
	// HeaderRow is the line that holds the names of the columns; 0 for the one that is guessed.
	HeaderRow int `json:"headerRow,omitempty"`
	// Header says whether the first line holds the names of the columns, “names”, or none does,
	// “none”; guessed where it is left out.
	Header string `json:"header,omitempty"`
	// Missing are codes that mean a missing answer in every column.
	Missing []string `json:"missing,omitempty"`
	// LastRow says what a last row is that looks like a total of those above it: “total”, which
	// is left out, or “respondent”.
	LastRow string `json:"lastRow,omitempty"`
	// Labels is the path of a codebook, as CSV, DDI or a Data Package, that describes the columns that the
	// recipe does not.
	Labels string `json:"labels,omitempty"`
}

// Question is a column, or what is derived from some.
type Question struct {
	Name    string `json:"name"`
	Wording string `json:"wording,omitempty"`
	Short   string `json:"short,omitempty"`
	Note    string `json:"note,omitempty"`
	Section string `json:"section,omitempty"`
	// Kind is guessed from the column where it is left out.
	Kind    survey.Kind `json:"kind,omitempty"`
	Answers []Answer    `json:"answers,omitempty"`
	Base    *Condition  `json:"base,omitempty"`
	Derive  *Derivation `json:"derive,omitempty"`
	// Nets are answers that the tables of a book also show counted together.
	Nets []book.Net `json:"nets,omitempty"`
}

// Answer is an answer by its code; “” is an empty cell.
type Answer struct {
	Code  string `json:"code"`
	Label string `json:"label,omitempty"`
	// Missing is the reason why it does not count as answered.
	Missing string `json:"missing,omitempty"`
	// SameAs is the code of the answer under which this spelling is counted.
	SameAs *string  `json:"sameAs,omitempty"`
	Score  *float64 `json:"score,omitempty"`
	From   *float64 `json:"from,omitempty"`
	To     *float64 `json:"to,omitempty"`
}

// Derivation is survey.Derivation in names and codes.
type Derivation struct {
	Rule        survey.Rule `json:"rule"`
	Sources     []string    `json:"sources"`
	Groups      []Group     `json:"groups,omitempty"`
	Cut         survey.Cut  `json:"cut,omitempty"`
	Limits      []float64   `json:"limits,omitempty"`
	Number      int         `json:"number,omitempty"`
	UpperClosed bool        `json:"upperClosed,omitempty"`
	Chosen      [][]string  `json:"chosen,omitempty"`
	Separator   string      `json:"separator,omitempty"`
	Summaries   []Summary   `json:"summaries,omitempty"`
}

// Summary is what is known of a number among those who gave an answer.
type Summary struct {
	Answer string  `json:"answer"`
	N      int64   `json:"n"`
	Mean   float64 `json:"mean"`
	SD     float64 `json:"sd"`
}

// Group is answers that are counted together.
type Group struct {
	Label   string   `json:"label"`
	Answers []string `json:"answers"`
}

// Condition is survey.Condition in names and codes.
type Condition struct {
	Op       survey.Op   `json:"op"`
	Of       []Condition `json:"of,omitempty"`
	Question string      `json:"question,omitempty"`
	Answers  []string    `json:"answers,omitempty"`
	From     *float64    `json:"from,omitempty"`
	To       *float64    `json:"to,omitempty"`
}

// Subgroup is a named condition.
type Subgroup struct {
	Name      string    `json:"name"`
	Condition Condition `json:"condition"`
}

// Analysis is what is asked: a spec whose questions are named by their columns and whose
// subgroup by its name.
type Analysis struct {
	// Name is that by which the report speaks of it. Where it is left out, claims are called “claim 1” and
	// so on, what is only described “analysis 1”.
	Name string `json:"name,omitempty"`
	// Under is the question under which it stands; the first one of the spec where it is "".
	Under string `json:"under,omitempty"`
	// Stated is when a claim was stated, FirstRun when it was first run, as they were in the study.
	Stated   string        `json:"stated,omitempty"`
	FirstRun string        `json:"firstRun,omitempty"`
	Changed  []Change      `json:"changed,omitempty"`
	Spec     analysis.Spec `json:"ask"`
}

// Report is what is reported, in order.
type Report struct {
	Title   string        `json:"title,omitempty"`
	Facts   []report.Fact `json:"facts,omitempty"`
	Pieces  []Piece       `json:"pieces"`
	Without []report.Part `json:"without,omitempty"`
	// Compared says since which wave the report tells what changed; absent for none.
	Compared *Compared `json:"compared,omitempty"`
}

// Compared is two waves, by the codes of the question that tells them.
type Compared struct {
	Question string `json:"question"`
	Wave     string `json:"wave"`
	Since    string `json:"since"`
}

// Piece is a tally, an analysis or prose; one of the three is set.
type Piece struct {
	Tally    string            `json:"tally,omitempty"` // the question
	Among    string            `json:"among,omitempty"` // the subgroup
	Base     string            `json:"base,omitempty"`
	Analysis string            `json:"analysis,omitempty"` // its name
	Shown    []document.Place  `json:"shown,omitempty"`
	Prose    string            `json:"prose,omitempty"`
	Figures  map[string]string `json:"figures,omitempty"`
}

// Error says what is wrong with a recipe, and where, as a JSON pointer.
type Error struct {
	Pointer string
	Message document.Message
}

func (e *Error) Error() string { return fmt.Sprintf("recipe: %s: %s", e.Pointer, e.Message.ID) }

// wrong makes an error of a message below recipe.wrong.
func wrong(pointer, id string, values document.Values) error {
	return &Error{pointer, document.Say("recipe.wrong."+id, values)}
}

// wrongText is wrong with a text.
func wrongText(pointer, id, text string) error {
	return wrong(pointer, id, document.Values{"text": document.Text(text)})
}

// Filled is the recipe with the defaults of what was left out.
func (r Recipe) Filled() Recipe {
	if r.Format == "" {
		r.Format = Format
	}
	if r.Version == 0 {
		r.Version = Version
	}
	if r.Study.Decimals == nil {
		usual := usualDecimals
		r.Study.Decimals = &usual
	}
	taken := map[string]bool{}
	for _, a := range r.Analyses {
		taken[a.Name] = true
	}
	r.Analyses = slices.Clone(r.Analyses)
	for i, a := range r.Analyses {
		if a.Name != "" {
			continue
		}
		kind := "analysis"
		if a.Spec.Settings != nil && a.Spec.Settings.Tests() {
			kind = "claim"
		}
		name := ""
		for n := 1; name == "" || taken[name]; n++ {
			name = fmt.Sprintf("%s %d", kind, n)
		}
		taken[name] = true
		r.Analyses[i].Name = name
	}
	return r
}

// usualDecimals are those of percents where nobody says.
const usualDecimals = 1

// Bounds of a recipe.
const (
	mostQuestions = 10_000
	mostAnalyses  = 5_000
)

// Check refuses, as an *Error, what cannot be a recipe whatever the file.
func (r Recipe) Check() error {
	switch {
	case r.Format != Format:
		return wrong("/format", "format", document.Values{"format": document.Text(r.Format), "wanted": document.Text(Format)})
	case r.Version > Version:
		return wrong("/version", "newer", document.Values{"version": document.N(int64(r.Version)), "known": document.N(Version)})
	case r.Version < 1:
		return wrong("/version", "version", nil)
	case len(r.Questions) > mostQuestions:
		return wrong("/questions", "questions", document.Values{"most": document.N(mostQuestions)})
	case len(r.Analyses) > mostAnalyses:
		return wrong("/analyses", "analyses", document.Values{"most": document.N(mostAnalyses)})
	case r.Study.Decimals != nil && (*r.Study.Decimals < 0 || *r.Study.Decimals > 6):
		return wrong("/study/decimals", "decimals", nil)
	case !slices.Contains([]string{"", "total", "respondent"}, r.Data.LastRow):
		return wrong("/data/lastRow", "last_row", nil)
	case !slices.Contains([]string{"", "names", "none"}, r.Data.Header):
		return wrong("/data/header", "header", nil)
	case r.Adjustment != "" && !slices.Contains(analysis.Adjustments, r.Adjustment):
		return wrong("/adjustment", "adjustment", nil)
	}
	known := map[string]bool{}
	for i, q := range r.Questions {
		at := fmt.Sprintf("/questions/%d", i)
		switch {
		case q.Name == "":
			return wrong(at+"/name", "no_name", nil)
		case known[q.Name]:
			return wrongText(at+"/name", "same_name", q.Name)
		case q.Kind == "" && (q.Derive == nil || q.Derive.Rule != survey.Summaries):
		case !q.Kind.Known() || (q.Kind == survey.Summarised) != (q.Derive != nil && q.Derive.Rule == survey.Summaries):
			return wrongText(at+"/kind", "kind", string(q.Kind))
		}
		known[q.Name] = true
		if q.Base != nil {
			if err := q.Base.check(at + "/base"); err != nil {
				return err
			}
		}
		codes := map[string]bool{}
		for k, a := range q.Answers {
			if codes[a.Code] {
				return wrongText(fmt.Sprintf("%s/answers/%d/code", at, k), "same_code", a.Code)
			}
			codes[a.Code] = true
		}
		for k, a := range q.Answers {
			if a.SameAs != nil && (!codes[*a.SameAs] || *a.SameAs == a.Code) {
				return wrongText(fmt.Sprintf("%s/answers/%d/sameAs", at, k), "same_as", *a.SameAs)
			}
		}
	}
	groups, names := map[string]bool{}, map[string]bool{}
	for i, g := range r.Subgroups {
		if g.Name == "" || groups[g.Name] {
			return wrong(fmt.Sprintf("/subgroups/%d/name", i), "subgroup_name", nil)
		}
		groups[g.Name] = true
		if err := g.Condition.check(fmt.Sprintf("/subgroups/%d/condition", i)); err != nil {
			return err
		}
	}
	for i, a := range r.Analyses {
		at := fmt.Sprintf("/analyses/%d", i)
		switch {
		case a.Name == "" || names[a.Name]:
			return wrong(at+"/name", "analysis_name", nil)
		case a.Spec.Settings == nil:
			return wrong(at+"/ask", "nothing_asked", nil)
		case a.Spec.Subgroup != "" && !groups[string(a.Spec.Subgroup)]:
			return wrongText(at+"/ask/subgroup", "no_subgroup", string(a.Spec.Subgroup))
		}
		names[a.Name] = true
	}
	if err := r.checkTables(groups); err != nil || r.Report == nil {
		return err
	}
	for i, p := range r.Report.Pieces {
		at := fmt.Sprintf("/report/pieces/%d", i)
		switch {
		case p.Analysis != "" && !names[p.Analysis]:
			return wrongText(at+"/analysis", "no_analysis", p.Analysis)
		case p.Among != "" && !groups[p.Among]:
			return wrongText(at+"/among", "no_subgroup", p.Among)
		}
	}
	return nil
}

// check refuses an operation that nobody knows.
func (c Condition) check(at string) error {
	if !slices.Contains(survey.Ops, c.Op) {
		return wrong(at+"/op", "op", document.Values{"text": document.Text(string(c.Op)), "list": document.Quotes(document.Listed, opNames())})
	}
	for i, part := range c.Of {
		if err := part.check(fmt.Sprintf("%s/of/%d", at, i)); err != nil {
			return err
		}
	}
	return nil
}

func opNames() (out []string) {
	for _, op := range survey.Ops {
		out = append(out, string(op))
	}
	return out
}

// Change is what was changed of a claim after it was stated. What a recipe of before says in words
// stays as it was said.
type Change struct {
	Field string `json:"field"`
	Old   string `json:"old,omitempty"`
	New   string `json:"new,omitempty"`
	Text  string `json:"text,omitempty"`
}

// UnmarshalJSON takes words, too.
func (c *Change) UnmarshalJSON(raw []byte) error {
	if len(raw) > 0 && raw[0] == '"' {
		return json.Unmarshal(raw, &c.Text)
	}
	type plain Change
	return json.Unmarshal(raw, (*plain)(c))
}

// Schema describes what is taken.
func (Change) Schema() map[string]any {
	text := map[string]any{"type": "string"}
	return map[string]any{
		"description": "What was changed of a claim after it was stated: the member with what it was and became, or words",
		"oneOf": []any{
			text,
			map[string]any{
				"type":                 "object",
				"additionalProperties": false,
				"required":             []string{"field"},
				"properties":           map[string]any{"field": text, "old": text, "new": text, "text": text},
			},
		},
	}
}
