// Package studyfile is a study as documents that leave and come back: what its questions mean,
// what is asked of it, what it reports. The answers themselves stand beside them as a table.
// Questions, lists, subgroups and analyses go by the numbers that they have in the file.
package studyfile

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/report"
	"widetally/core/shares"
	"widetally/core/survey"
)

// Version is that of the documents written; older ones are read, newer ones are refused.
const Version = 1

// The documents by the names that they have in the file.
const (
	CodebookName = "codebook.json"
	AnalysesName = "analyses.json"
	ReportName   = "report.json"
	HistoryName  = "history.json"
	// TablesName is there where a study has banners, table books or nets.
	TablesName = "tables.json"
	// RecipeName is the same analysis as a recipe; it is not read back.
	RecipeName = "recipe.json"
)

// Head says what a document is.
type Head struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
}

// The formats of the documents.
const (
	CodebookFormat = "widetally/codebook"
	AnalysesFormat = "widetally/analyses"
	ReportFormat   = "widetally/report"
	HistoryFormat  = "widetally/history"
	TablesFormat   = "widetally/tables"
)

// Codebook is what the questions of a study mean.
type Codebook struct {
	Head
	Study     Study      `json:"study"`
	Questions []Question `json:"questions"`
	Lists     []List     `json:"lists"`
	Subgroups []Subgroup `json:"subgroups"`
	// Design is how the respondents were drawn, its questions by their numbers here.
	Design json.RawMessage `json:"design,omitempty"`
}

// Study is the study itself.
type Study struct {
	Name string `json:"name"`
	// Units is what a row is, in the plural.
	Units    string `json:"units"`
	Decimals int    `json:"decimals"`
	Rows     int64  `json:"rows"`
	// CountedBy is the question that says how many respondents a row stands for; 0 for none.
	CountedBy uint64 `json:"countedBy,omitempty"`
}

// Question is a question with its answers in the order in which they are shown.
type Question struct {
	ID         uint64             `json:"id"`
	Name       string             `json:"name"` // of its column in the table of answers
	Wording    string             `json:"wording"`
	Short      string             `json:"short,omitempty"`
	Note       string             `json:"note,omitempty"`
	Section    string             `json:"section,omitempty"`
	Kind       survey.Kind        `json:"kind"`
	KindReason string             `json:"kindReason,omitempty"`
	Answers    []Answer           `json:"answers"`
	List       uint64             `json:"list,omitempty"`
	Base       *survey.Condition  `json:"base,omitempty"`
	Derivation *survey.Derivation `json:"derivation,omitempty"`
}

// Answer is an answer of a question; its fields are those of survey.Answer.
type Answer struct {
	Slot    survey.Slot  `json:"slot"`
	Code    string       `json:"code"`
	Label   string       `json:"label"`
	Missing string       `json:"missing,omitempty"`
	SameAs  *survey.Slot `json:"sameAs,omitempty"`
	Score   *float64     `json:"score,omitempty"`
	From    *float64     `json:"from,omitempty"`
	To      *float64     `json:"to,omitempty"`
}

// List is a list of answers that several questions share.
type List struct {
	ID      uint64          `json:"id"`
	Name    string          `json:"name"`
	Answers json.RawMessage `json:"answers"`
}

// Subgroup is a named condition.
type Subgroup struct {
	ID        uint64           `json:"id"`
	Name      string           `json:"name"`
	Condition survey.Condition `json:"condition"`
}

// Analyses is what is asked of a study.
type Analyses struct {
	Head
	Analyses []Analysis `json:"analyses"`
	// Changes are those that claims tell of.
	Changes []Change `json:"changes"`
	// Adjustment is how claims are adjusted for being many.
	Adjustment json.RawMessage `json:"adjustment,omitempty"`
	// Answered are the notes in the margin that were answered, by analysis and rule.
	Answered map[uint64]map[string]string `json:"answered,omitempty"`
	// Rules numbers the names that the rules bear; 0 for those of before they were numbered.
	Rules int `json:"rules,omitempty"`
	// Shares are the sets of the shelf that claims were stated with, by the number that they
	// have in the claims.
	Shares map[uint64]shares.Set `json:"shares,omitempty"`
}

// Analysis is one claim or description.
type Analysis struct {
	ID uint64 `json:"id"`
	// Question is the one under which it stands.
	Question uint64 `json:"question"`
	// Claim is the number of a claim; 0 for what is only described.
	Claim       int           `json:"claim,omitempty"`
	Spec        analysis.Spec `json:"spec"`
	StatedAt    time.Time     `json:"statedAt"`
	FirstRunAt  *time.Time    `json:"firstRunAt,omitempty"`
	WithdrawnAt *time.Time    `json:"withdrawnAt,omitempty"`
	// FirstInputs is what the result of the first run depended on; SameSubgroup says that its
	// subgroup still means the same respondents.
	FirstInputs  json.RawMessage `json:"firstInputs,omitempty"`
	SameSubgroup bool            `json:"sameSubgroup,omitempty"`
}

// Change is what was changed of a claim or of a question.
type Change struct {
	Of       string    `json:"of"` // claim or question
	ID       uint64    `json:"id"`
	Field    string    `json:"field"`
	Old      string    `json:"old"`
	New      string    `json:"new"`
	AfterRun bool      `json:"afterRun,omitempty"`
	At       time.Time `json:"at"`
}

// Report is the report of a study.
type Report struct {
	Head
	Report report.Report `json:"report"`
}

// Tables is the banners, table books and nets of a study; books name banners by their numbers here, nets lists by
// theirs in the codebook.
type Tables struct {
	Head
	Banners []Banner    `json:"banners"`
	Books   []book.Book `json:"books"`
	Nets    book.NetsOf `json:"nets"`
}

// Banner is a banner.
type Banner struct {
	ID     uint64      `json:"id"`
	Name   string      `json:"name"`
	Banner book.Banner `json:"banner"`
}

// History lists what was done to a study; it is told and not done again.
type History struct {
	Head
	Edits []Edit `json:"edits"`
}

// Edit is one thing that was done.
type Edit struct {
	At time.Time `json:"at"`
	// Message is the id of the text, Values what it says.
	Message string          `json:"message"`
	Values  json.RawMessage `json:"values,omitempty"`
	// Undone says that it was taken back.
	Undone bool `json:"undone,omitempty"`
}

// Errors of documents that come back.
var (
	ErrNewer  = errors.New("studyfile: written by a newer version")
	ErrBroken = errors.New("studyfile: not readable")
)

// headed is a document with its head.
type headed interface {
	*Codebook | *Analyses | *Report | *History | *Tables
	head() Head
}

func (h Head) head() Head { return h }

// Read reads a document. One of a newer version is ErrNewer, what is no such document
// ErrBroken.
func Read[T headed](raw []byte, format string, into T) error {
	var h Head
	if err := json.Unmarshal(raw, &h); err != nil || h.Format != format || h.Version < 1 {
		return fmt.Errorf("%w: %q", ErrBroken, format)
	}
	if h.Version > Version {
		return fmt.Errorf("%w: %s %d", ErrNewer, format, h.Version)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return fmt.Errorf("%w: %s: %w", ErrBroken, format, err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return fmt.Errorf("%w: %s goes on", ErrBroken, format)
	}
	return nil
}
