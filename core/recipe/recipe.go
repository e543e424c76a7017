// Package recipe is a whole analysis as one document that people read and write: what the
// columns of a file mean, what is derived from them, subgroups, what is asked, what is reported.
// Questions go by the names of their columns, answers by their codes, so that it serves this
// year's file and the next.
package recipe

import (
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/survey"
)

// Format and Version say what the document is; a newer version is refused.
const (
	Format  = "widetally/recipe"
	Version = 1
)

// Recipe is the document.
type Recipe struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Study   Study  `json:"study"`
	// Data says how the file is read; each part that is left out is guessed.
	Data      Data       `json:"data,omitzero"`
	Questions []Question `json:"questions"`
	Subgroups []Subgroup `json:"subgroups,omitempty"`
	Analyses  []Analysis `json:"analyses"`
	// Adjustment is how the p-values of all claims are adjusted for being many.
	Adjustment analysis.Adjustment `json:"adjustment,omitempty"`
	Report     *Report             `json:"report,omitempty"`
}

// Study names the study.
type Study struct {
	Name string `json:"name"`
	// Units is what a row is, in the plural: "households".
	Units    string `json:"units"`
	Decimals int    `json:"decimals"`
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
}

// Question is a column, or what is derived from some.
type Question struct {
	Name    string      `json:"name"`
	Wording string      `json:"wording,omitempty"`
	Short   string      `json:"short,omitempty"`
	Note    string      `json:"note,omitempty"`
	Section string      `json:"section,omitempty"`
	Kind    survey.Kind `json:"kind"`
	Answers []Answer    `json:"answers,omitempty"`
	Base    *Condition  `json:"base,omitempty"`
	Derive  *Derivation `json:"derive,omitempty"`
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
	// Name is that by which the report speaks of it; claims are called “claim 1” and so on.
	Name string `json:"name"`
	// Under is the question under which it stands; the first one of the spec where it is "".
	Under string `json:"under,omitempty"`
	// Stated is when a claim was stated, FirstRun when it was first run, as they were in the study.
	Stated   string        `json:"stated,omitempty"`
	FirstRun string        `json:"firstRun,omitempty"`
	Changed  []string      `json:"changed,omitempty"`
	Spec     analysis.Spec `json:"ask"`
}

// Report is what is reported, in order.
type Report struct {
	Title   string        `json:"title,omitempty"`
	Facts   []report.Fact `json:"facts,omitempty"`
	Pieces  []Piece       `json:"pieces"`
	Without []report.Part `json:"without,omitempty"`
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
	Why     string
}

func (e *Error) Error() string { return fmt.Sprintf("%s: %s", e.Pointer, e.Why) }

// Bounds of a recipe.
const (
	mostQuestions = 10_000
	mostAnalyses  = 5_000
)

// Check refuses, as an *Error, what cannot be a recipe whatever the file.
func (r Recipe) Check() error {
	fail := func(pointer, format string, a ...any) error { return &Error{pointer, fmt.Sprintf(format, a...)} }
	switch {
	case r.Format != Format:
		return fail("/format", "this is no recipe: its format is %q, not %q", r.Format, Format)
	case r.Version > Version:
		return fail("/version", "this recipe is of version %d, and this program knows %d; update Wide Tally", r.Version, Version)
	case r.Version < 1:
		return fail("/version", "the version has to be 1")
	case len(r.Questions) > mostQuestions:
		return fail("/questions", "at most %d questions", mostQuestions)
	case len(r.Analyses) > mostAnalyses:
		return fail("/analyses", "at most %d analyses", mostAnalyses)
	case r.Study.Decimals < 0 || r.Study.Decimals > 6:
		return fail("/study/decimals", "from 0 to 6 decimals")
	case !slices.Contains([]string{"", "total", "respondent"}, r.Data.LastRow):
		return fail("/data/lastRow", "one of total and respondent")
	case !slices.Contains([]string{"", "names", "none"}, r.Data.Header):
		return fail("/data/header", "one of names and none")
	case r.Adjustment != "" && !slices.Contains(analysis.Adjustments, r.Adjustment):
		return fail("/adjustment", "one of none, holm and benjamini_hochberg")
	}
	known := map[string]bool{}
	for i, q := range r.Questions {
		at := fmt.Sprintf("/questions/%d", i)
		switch {
		case q.Name == "":
			return fail(at+"/name", "a question needs the name of its column")
		case known[q.Name]:
			return fail(at+"/name", "two questions are called %q", q.Name)
		case !q.Kind.Known() || (q.Kind == survey.Summarised) != (q.Derive != nil && q.Derive.Rule == survey.Summaries):
			return fail(at+"/kind", "there is no kind %q", q.Kind)
		}
		known[q.Name] = true
		codes := map[string]bool{}
		for k, a := range q.Answers {
			if codes[a.Code] {
				return fail(fmt.Sprintf("%s/answers/%d/code", at, k), "two answers have the code %q", a.Code)
			}
			codes[a.Code] = true
		}
		for k, a := range q.Answers {
			if a.SameAs != nil && (!codes[*a.SameAs] || *a.SameAs == a.Code) {
				return fail(fmt.Sprintf("%s/answers/%d/sameAs", at, k), "there is no other answer with the code %q", *a.SameAs)
			}
		}
	}
	groups, names := map[string]bool{}, map[string]bool{}
	for i, g := range r.Subgroups {
		if g.Name == "" || groups[g.Name] {
			return fail(fmt.Sprintf("/subgroups/%d/name", i), "a subgroup needs a name of its own")
		}
		groups[g.Name] = true
	}
	for i, a := range r.Analyses {
		at := fmt.Sprintf("/analyses/%d", i)
		switch {
		case a.Name == "" || names[a.Name]:
			return fail(at+"/name", "an analysis needs a name of its own")
		case a.Spec.Settings == nil:
			return fail(at+"/ask", "it says nothing that could be asked")
		case a.Spec.Subgroup != "" && !groups[string(a.Spec.Subgroup)]:
			return fail(at+"/ask/subgroup", "there is no subgroup %q", a.Spec.Subgroup)
		}
		names[a.Name] = true
		for k, key := range a.Spec.Questions {
			if !known[string(key)] {
				return fail(fmt.Sprintf("%s/ask/questions/%d", at, k), "there is no question %q", key)
			}
		}
	}
	if r.Report == nil {
		return nil
	}
	for i, p := range r.Report.Pieces {
		at := fmt.Sprintf("/report/pieces/%d", i)
		switch {
		case p.Tally != "" && !known[p.Tally]:
			return fail(at+"/tally", "there is no question %q", p.Tally)
		case p.Analysis != "" && !names[p.Analysis]:
			return fail(at+"/analysis", "there is no analysis %q", p.Analysis)
		case p.Among != "" && !groups[p.Among]:
			return fail(at+"/among", "there is no subgroup %q", p.Among)
		}
	}
	return nil
}
