package study

import (
	"time"

	"widetally/core/document"
)

// Subject says what a change was made to.
type Subject string

// The subjects of changes.
const (
	OfQuestion Subject = "question"
	OfClaim    Subject = "claim" // what was changed in a claim, as it shows it
	OfAnalysis Subject = "analysis"
	OfPart     Subject = "part"
	OfStudy    Subject = "study"
)

// Change is one edit, with what was there before.
type Change struct {
	Subject   Subject
	SubjectID uint64
	Field     string
	Old, New  string
	// AfterRun is set for a change to a claim whose test had already been run.
	AfterRun bool
	At       time.Time
}

// EditState says where an edit stands in a study's line of undo.
type EditState string

// The states: in force; taken back and waiting to be done again; taken back for good,
// because something else was done after that.
const (
	Done    EditState = "done"
	Undone  EditState = "undone"
	Dropped EditState = "dropped"
)

// Edit is one thing that somebody did to a study's codebook or answers. Title is a
// message id with its values.
type Edit struct {
	ID      uint64
	StudyID uint64
	Title   string
	Values  document.Values
	State   EditState
	At      time.Time
	// Author is the id of whoever did it; "" where that was not noted yet.
	Author string
}

// Snapshot is one subject before and after an edit, as JSON; "" where there was none.
type Snapshot struct {
	Subject                           Subject
	SubjectID                         uint64
	Before, After                     string
	GenerationBefore, GenerationAfter int // of a question's column
}
