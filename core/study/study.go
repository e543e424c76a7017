// Package study holds what a study consists of: its questions, its named definitions, what
// is asked of it, its edits and the files it was read from. These are the things that are
// kept, each with its id; how they are kept is not told here.
package study

import (
	"time"

	"widetally/core/survey"
)

// Study is a study on the shelf.
type Study struct {
	ID       uint64
	Name     string
	Units    string // what a row is, in the plural: "households"
	Decimals int    // of the percents shown
	Rows     int64
	// CountQuestion is the question that says how many respondents a row stands for;
	// nil when each row is one.
	CountQuestion *uint64
	CreatedAt     time.Time
	UpdatedAt     time.Time
	Version       int
	// Revision counts the changes of all that belongs to the study.
	Revision  uint64
	Questions int // only filled in a list of studies
	Claims    int // only filled in a list of studies
}

// Question is a question of a study, with its answers in the order shown.
type Question struct {
	survey.Question
	ID      uint64
	StudyID uint64
	// Position orders the questions; Number counts them from 1 as they stand.
	Position   int
	Number     int
	KindReason string
	ListID     *uint64 // the shared list of answers, a part of kind AnswerList
	Generation int     // of the stored column
	Deleted    bool
	Version    int
}

// Column is a question's answers in one generation: each state of the answers is a
// generation of its own, counted from 1, never changed once stored.
type Column struct {
	QuestionID uint64
	Generation int
	Column     survey.Column
}

// PartKind says what a part of a study is.
type PartKind string

// The kinds: a list of answers that several questions share, and a named condition.
const (
	AnswerList PartKind = "list"
	Subgroup   PartKind = "subgroup"
	Report     PartKind = "report"     // what of the topline is selected for it, in order
	Adjustment PartKind = "adjustment" // how the p-values of many claims are adjusted
	Design     PartKind = "design"     // how the respondents were drawn
	Answered   PartKind = "answered"   // notes in the margin of analyses that were answered
	Banner     PartKind = "banner"     // the columns of tables
	TableBook  PartKind = "book"       // questions tabulated by a banner
	Disclosure PartKind = "disclosure" // what may be told wherever something leaves
	Nets       PartKind = "nets"       // answers that are counted together, by question and by shared list
)

// Part is a named definition that belongs to a study, as JSON.
type Part struct {
	ID         uint64
	StudyID    uint64
	Kind       PartKind
	Name       string
	Definition string
	Deleted    bool
	Version    int
	// Author is the id of whoever made it; "" where that was not noted yet.
	Author string
}

// Analysis is something that is asked of a study and stays under a question of it: what is
// asked is a spec, as JSON.
type Analysis struct {
	ID, StudyID uint64
	// QuestionID is the question under which it stands.
	QuestionID uint64
	// Number counts the study's claims from 1 in the order in which they were stated; a
	// withdrawn one keeps its number. 0 for what is only described.
	Number int
	Spec   string
	// Uses lists what the spec names.
	Uses []Use
	// StatedAt is when the claim was stated, or the description made.
	StatedAt   time.Time
	FirstRunAt *time.Time
	// FirstInputs is, as JSON, what the result of the first run depended on; "" when it
	// was not noted.
	FirstInputs string
	// WithdrawnAt is set for one that has been deleted.
	WithdrawnAt *time.Time
	Version     int
	// Author is the id of whoever stated it; "" where that was not noted yet.
	Author string
}

// Use is a question or a part that an analysis names.
type Use struct {
	Subject Subject
	ID      uint64
}

// File is a file as it arrived, kept beside the answers read from it.
type File struct {
	ID        uint64
	StudyID   uint64
	Name      string
	Size      int64
	SHA256    string
	Settings  string // how it was read, as JSON
	Arrival   string // what was found when it arrived, as JSON
	ArrivedAt time.Time
	// EditID is the edit that brought a later file in; nil for the first one.
	EditID *uint64
	// Waiting names it beside the database as long as it has not been packed into it.
	Waiting string
	// Author is the id of whoever brought it; "" where that was not noted yet.
	Author string
}

// ShareSet is a version of a set of shares that the whole installation keeps, as JSON.
type ShareSet struct {
	ID         uint64
	Version    int
	Definition string
	CreatedAt  time.Time // of the version
	Deleted    bool
	Author     string // of the version, as an id; "" where that was not noted yet
}
