package analysis

import (
	"context"
	"errors"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// CrossingsRequest is several tables.
type CrossingsRequest struct {
	Tables [][][]int64 `json:"tables"`
}

const crossingsName = "crosstabs"

var crossings = figures(crossingsName, "Several tables, each with its shares of rows, of columns and of everyone", nil, CrossingsRequest{},
	func(_ context.Context, in *CrossingsRequest) ([]*tally.TableShares, error) {
		cells := 0
		for _, table := range in.Tables {
			for _, row := range table {
				cells += len(row)
			}
		}
		if len(in.Tables) > mostRows || cells > maxCells {
			return nil, refuse("crossings", TooManyCells, -1)
		}
		var out []*tally.TableShares
		for _, table := range in.Tables {
			t, err := tally.ShareTable(table)
			if err != nil && !nobody(err) {
				return nil, err
			}
			out = append(out, t)
		}
		return out, nil
	})

// nobody reports whether the core refused because nobody is counted.
func nobody(err error) bool {
	var input *infer.InputError
	return errors.As(err, &input) && input.Reason == infer.NoObservations
}

// CrossingsSettings crosses several questions with the first, whose answers are the groups.
type CrossingsSettings struct {
	describing
	Reading claim.Reading `json:"reading"`
}

var askedCrossings = &Asked{Version: 1, Seldom: true, Questions: []Part{TheGroups}, More: TheOthers, Inputs: []Input{}, Texts: "crosstabs", Lines: []Line{},
	New: func() Settings { return &CrossingsSettings{Reading: claim.OfEachColumn} }}

// Check implements Settings.
func (s *CrossingsSettings) Check(q []survey.Question) []Problem {
	out := append(several(q, 2), checkOneOf(claim.CrossingsReadings, s.Reading, "crosstab.reading", "reading")...)
	return append(out, cellsFit(q)...)
}

// Looks is how many crossings somebody looks at in a spec of several; 0 for one of a single one.
func (s Spec) Looks() int {
	if _, several := s.Settings.(*CrossingsSettings); several {
		return len(s.Questions) - 1
	}
	return 0
}

// Essence implements Settings: all is how it is shown.
func (*CrossingsSettings) Essence() any { return CrossingsSettings{} }

func (s *CrossingsSettings) claim(q []survey.Question, about claim.About) claim.Crossings {
	c := claim.Crossings{About: about, Groups: named(q[0]), GroupLabels: labelsOf(q[0]), Reading: s.Reading}
	for _, one := range q[1:] {
		c.Questions, c.Labels = append(c.Questions, named(one)), append(c.Labels, labelsOf(one))
	}
	return c
}

// Statement implements Settings.
func (s *CrossingsSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*CrossingsSettings) needs() need { return eachCrosstab }

func tablesOf(c *Counted) (out [][][]int64) {
	for _, t := range c.Crosstabs {
		out = append(out, t.Proper(0))
	}
	return out
}

func (*CrossingsSettings) run(work Work, c *Counted) (*Outcome, error) {
	return outcomeOf(work, crossingsName, &CrossingsRequest{Tables: tablesOf(c)})
}

func (s *CrossingsSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Counts = tablesOf(o.Counted)
	return c.Document(o.Result.([]*tally.TableShares))
}

// ResponsesByRequest is how many respondents of each group chose each answer of a choose-all
// question, and how many respondents each group has.
type ResponsesByRequest struct {
	Counts [][]int64 `json:"counts"`
	Bases  []int64   `json:"bases"`
}

const responsesByName = "multiple-response-by-group"

var responsesWithin = figures(responsesByName, "A choose-all question within groups: shares of the respondents of each", nil, ResponsesByRequest{},
	func(_ context.Context, in *ResponsesByRequest) (*tally.RespondentShares, error) {
		if err := checkTable("choose-all by group", in.Counts); err != nil {
			return nil, err
		}
		return tally.ShareRespondents(in.Counts, in.Bases)
	})

// ResponsesBySettings crosses a choose-all question with another one, of respondents.
type ResponsesBySettings struct {
	describing
	Reading claim.Reading         `json:"reading"`
	Picture claim.CrossingPicture `json:"picture,omitempty"`
	Frame   *claim.Frame          `json:"frame,omitempty"`
}

var askedResponsesBy = &Asked{Version: 1, Questions: []Part{TheQuestion, TheGroups}, Inputs: []Input{}, Texts: "responses_by", Lines: []Line{}, Key: "x",
	Of: func(q survey.Question) bool { return q.Kind == survey.ChooseAll }, With: func(q survey.Question) bool { return q.Kind.Coded() },
	New: func() Settings { return &ResponsesBySettings{Reading: claim.OfEachColumn} }}

// Check implements Settings.
func (s *ResponsesBySettings) Check(q []survey.Question) []Problem {
	out := append(checkOneOf(claim.CrossingsReadings, s.Reading, "crosstab.reading", "reading"), checkOneOf(claim.ResponsesPictures, s.Picture, "crosstab.picture", "picture")...)
	return append(append(out, cellsFit(q)...), checkFrame(s.Frame)...)
}

// Essence implements Settings: all is how it is shown.
func (*ResponsesBySettings) Essence() any { return ResponsesBySettings{} }

func (s *ResponsesBySettings) claim(q []survey.Question, about claim.About) claim.ResponsesBy {
	return claim.ResponsesBy{About: about, Question: named(q[0]), Groups: named(q[1]), Labels: labelsOf(q[0]), GroupLabels: labelsOf(q[1]), Reading: s.Reading, Picture: s.Picture, Frame: s.Frame}
}

// Statement implements Settings.
func (s *ResponsesBySettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*ResponsesBySettings) needs() need { return responsesBy }

func (*ResponsesBySettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &ResponsesByRequest{}
	for _, m := range c.ResponsesBy {
		in.Counts, in.Bases = append(in.Counts, countsOf(m.Frequency).Counts), append(in.Bases, m.Frequency.Answered)
	}
	return outcomeOf(work, responsesByName, in)
}

func (s *ResponsesBySettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := s.claim(o.Counted.Questions, about)
	c.Counts = o.Request.(*ResponsesByRequest).Counts
	return c.Document(o.Result.(*tally.RespondentShares))
}
