// Package report says what a report consists of, as data: which tallies and analyses of a
// study, in which order, the prose between them with its live figures, and what the survey
// discloses of itself. How it looks is not its business.
package report

import (
	"fmt"
	"slices"
	"unicode/utf8"

	"widetally/core/document"
)

// Report is the definition of a report.
type Report struct {
	// Title is that of the report; "" for the name of the study.
	Title string `json:"title,omitempty"`
	// Facts are what the survey discloses of itself, in the order of Disclosed.
	Facts []Fact `json:"facts,omitempty"`
	// Pieces stand in the order in which they are read.
	Pieces []Piece `json:"pieces"`
	// Without are the parts that the report would make of itself and that are left out.
	Without []Part `json:"without,omitempty"`
	// Compared says since which wave the report tells what changed; nil for none.
	Compared *Compared `json:"compared,omitempty"`
}

// Compared is two waves of a survey: what the report tells of those of one wave stands beside what it would tell of
// those of the other.
type Compared struct {
	// Question is the one whose answers are the waves, Wave and Since the codes of two.
	Question uint64 `json:"question"`
	Wave     string `json:"wave"`
	Since    string `json:"since"`
}

// Fact is one thing that the survey discloses of itself.
type Fact struct {
	Key  FactKey `json:"key"`
	Text string  `json:"text"`
}

// FactKey names what is disclosed.
type FactKey string

// What is disclosed. Respondents is how many there are, which the study itself tells; of the weighting it
// may tell that there was none.
const (
	Population  FactKey = "population"
	Frame       FactKey = "frame"
	Mode        FactKey = "mode"
	Dates       FactKey = "dates"
	Respondents FactKey = "n"
	Response    FactKey = "response"
	Design      FactKey = "design"
	Weighting   FactKey = "weighting"
	Sponsor     FactKey = "sponsor"
	Wording     FactKey = "wording"
	Missing     FactKey = "missing"
)

// Disclosed is what the profession asks a survey to disclose, in the order in which it is told.
var Disclosed = []FactKey{
	Population, Frame, Mode, Dates, Respondents, Response, Design, Weighting, Sponsor, Wording, Missing,
}

// FactKeys are those of them that are written.
var FactKeys = slices.DeleteFunc(slices.Clone(Disclosed), func(k FactKey) bool { return k == Respondents })

// Part is a part that the report makes of itself.
type Part string

// The parts.
const (
	Facts   Part = "facts"   // what the survey discloses
	Changes Part = "changes" // what changed since another wave, where two are compared
	Methods Part = "methods" // every method, level and source in use
	Claims  Part = "claims"  // the list of claims, when they were stated and what changed
)

// Parts lists them in their order.
var Parts = []Part{Facts, Changes, Methods, Claims}

// Piece is one piece: the tally of a question, an analysis, or prose. One of the three is set.
type Piece struct {
	// ID tells the pieces of a report apart; it is kept as long as the piece is.
	ID       int    `json:"id"`
	Question uint64 `json:"question,omitempty"`
	Analysis uint64 `json:"analysis,omitempty"`
	// Among is the subgroup of a tally; 0 for everyone.
	Among uint64 `json:"among,omitempty"`
	// Prose is Markdown with references to figures.
	Prose string `json:"prose,omitempty"`
	// Figures are those of the prose as they stood when it was written.
	Figures map[string]string `json:"figures,omitempty"`
	// Base is that of a tally, "answered" or "everyone"; answered where it is "".
	Base string `json:"base,omitempty"`
	// Shown are the places of an analysis that are shown; Usual where it is nil.
	Shown []document.Place `json:"shown,omitempty"`
}

// Places are those of an analysis that can be shown, in the order in which they are read.
var Places = []document.Place{
	document.Hypotheses,
	document.Basis,
	document.Sentence,
	document.Facts,
	document.Figures,
	document.Chart,
	document.Working,
	document.WriteUp,
}

// Usual are the places that are shown where nobody chose.
var Usual = []document.Place{document.Basis, document.Heading, document.Sentence, document.Facts, document.Figures, document.Chart}

// Shows says whether a place is shown. What stands over a part of several like it goes with them, and
// that the ways to decide agree with the tables, one of which it stands for.
func (p Piece) Shows(place document.Place) bool {
	if place == document.Agreement {
		place = document.Figures
	}
	if p.Shown == nil {
		return slices.Contains(Usual, place)
	}
	return place == document.Heading || slices.Contains(p.Shown, place)
}

// Bounds of a report.
const (
	MostPieces = 1000
	MostProse  = 20_000 // characters of one piece
	MostFact   = 2_000
	MostTitle  = 300
)

// Problem says what cannot be, by its code under problem.report, and where.
type Problem struct {
	Code    string
	Pointer string
}

func (p *Problem) Error() string { return fmt.Sprintf("report: %s at %s", p.Code, p.Pointer) }

// Check refuses, as a *Problem, what cannot be a report.
func (r Report) Check() error {
	if utf8.RuneCountInString(r.Title) > MostTitle {
		return &Problem{"title", "/title"}
	}
	if len(r.Pieces) > MostPieces {
		return &Problem{"pieces", "/pieces"}
	}
	for i, f := range r.Facts {
		if !slices.Contains(FactKeys, f.Key) || utf8.RuneCountInString(f.Text) > MostFact {
			return &Problem{"fact", fmt.Sprintf("/facts/%d", i)}
		}
	}
	for i, p := range r.Without {
		if !slices.Contains(Parts, p) {
			return &Problem{"part", fmt.Sprintf("/without/%d", i)}
		}
	}
	ids := map[int]bool{}
	for i, p := range r.Pieces {
		at := fmt.Sprintf("/pieces/%d", i)
		of := 0
		for _, is := range []bool{p.Question != 0, p.Analysis != 0, p.Prose != ""} {
			if is {
				of++
			}
		}
		switch {
		case of > 1 || p.Among != 0 && p.Question == 0 || p.ID <= 0 || ids[p.ID]:
			return &Problem{"piece", at}
		case utf8.RuneCountInString(p.Prose) > MostProse:
			return &Problem{"prose", at + "/prose"}
		case p.Base != "" && p.Base != "answered" && p.Base != "everyone":
			return &Problem{"base", at + "/base"}
		case slices.ContainsFunc(p.Shown, func(s document.Place) bool { return !slices.Contains(Places, s) }):
			return &Problem{"place", at + "/shown"}
		}
		ids[p.ID] = true
	}
	return nil
}

// NextID is one that no piece has.
func (r Report) NextID() int {
	next := 1
	for _, p := range r.Pieces {
		next = max(next, p.ID+1)
	}
	return next
}

// Fact is the text of what is disclosed; "" where nothing is said.
func (r Report) Fact(key FactKey) string {
	for _, f := range r.Facts {
		if f.Key == key {
			return f.Text
		}
	}
	return ""
}
