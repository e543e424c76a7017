package analysis

import (
	"context"
	"errors"
	"fmt"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Source counts what a spec needs. A study's columns, a file's, and counts that somebody
// typed are sources. A key that it lacks is an ErrUnknownKey.
type Source interface {
	// Question returns a question with its answers.
	Question(ctx context.Context, q Key) (survey.Question, error)
	// Frequencies counts the answers to a question.
	Frequencies(ctx context.Context, q, subgroup Key) (*tally.Frequency, error)
	// Crosstab crosses two questions, within the answers of a third where layers is one.
	Crosstab(ctx context.Context, rows, columns, layers, subgroup Key) (*tally.Crosstab, error)
	// MultipleResponse counts the answers to a choose-all question.
	MultipleResponse(ctx context.Context, q, subgroup Key) (*tally.MultipleResponse, error)
	// Descriptives summarises numbers; nil when nobody gave one.
	Descriptives(ctx context.Context, q, subgroup Key) (*tally.Summary, error)
}

// ErrUnknownKey says that a source lacks a question or a subgroup, or counts that would
// be needed.
var ErrUnknownKey = errors.New("analysis: unknown key")

func unknown(key Key) error { return fmt.Errorf("%w: %q", ErrUnknownKey, key) }

// Paired crosses two questions that the same respondents answered by the same answers, as
// a square table over the proper answers of both, matched by code.
func Paired(ctx context.Context, from Source, first, second, subgroup Key) (*tally.Paired, error) {
	t, err := from.Crosstab(ctx, first, second, "", subgroup)
	if err != nil {
		return nil, err
	}
	return tally.Pair(t), nil
}

// Counted is what a source counted for a spec.
type Counted struct {
	Questions []survey.Question
	// Frequency is set for one question, Crosstab for two: the second is that of the rows.
	Frequency *tally.Frequency
	Crosstab  *tally.Crosstab
	// Each holds the frequencies of every question where there are several of one kind.
	Each []*tally.Frequency
	// Responses is set for a choose-all question.
	Responses *tally.MultipleResponse
	// Summary is set for numbers; nil when nobody gave one.
	Summary *tally.Summary
}

// Count has a source count what a spec needs. A spec that cannot be asked is a *SpecError.
func Count(ctx context.Context, s Spec, from Source) (*Counted, error) {
	c := &Counted{}
	for i, key := range s.Questions {
		q, err := from.Question(ctx, key)
		if errors.Is(err, ErrUnknownKey) {
			return nil, refused("spec.question", fmt.Sprintf("/questions/%d", i), document.Values{"text": document.Text(string(key))})
		}
		if err != nil {
			return nil, err
		}
		c.Questions = append(c.Questions, q)
	}
	err := Refuse(s.Check(c.Questions))
	if err != nil {
		return nil, err
	}
	switch s.Settings.needs() {
	case crosstab:
		c.Crosstab, err = from.Crosstab(ctx, s.Questions[1], s.Questions[0], "", s.Subgroup)
	case eachFrequencies:
		for _, key := range s.Questions {
			f, failed := from.Frequencies(ctx, key, s.Subgroup)
			if err = failed; err != nil {
				break
			}
			c.Each = append(c.Each, f)
		}
	case layered:
		c.Crosstab, err = from.Crosstab(ctx, s.Questions[1], s.Questions[0], s.Questions[2], s.Subgroup)
	case responses:
		if c.Responses, err = from.MultipleResponse(ctx, s.Questions[0], s.Subgroup); err == nil {
			c.Frequency = c.Responses.Frequency
		}
	case descriptives:
		if c.Questions[0].Kind.Numeric() {
			if c.Summary, err = from.Descriptives(ctx, s.Questions[0], s.Subgroup); err != nil {
				break
			}
		}
		// Of typed numbers nobody knows how many gave none.
		if c.Frequency, err = from.Frequencies(ctx, s.Questions[0], s.Subgroup); c.Summary != nil && errors.Is(err, ErrUnknownKey) {
			err = nil
		}
	default:
		c.Frequency, err = from.Frequencies(ctx, s.Questions[0], s.Subgroup)
	}
	switch {
	case errors.Is(err, tally.ErrTooManyCells):
		return nil, refused("compute."+string(TooManyCells), "/questions", nil)
	case errors.Is(err, ErrUnknownKey):
		return nil, refused("spec.counts", "/questions", nil)
	}
	return c, err
}

// Work bounds what computing a result may take.
type Work struct {
	Context context.Context
	// Steps bounds an exact test, Replicates a simulation beyond it.
	Steps      int64
	Replicates int
}

// Outcome is a result with what it was computed from.
type Outcome struct {
	Spec    Spec
	Counted *Counted
	// Request and Result are those of the method's own figures, in the form in which they
	// are sent; nil where nothing was computed.
	Request, Result any
	// Refusal says why the method has no result for these counts.
	Refusal error
}

// Run computes what a spec asks for from what was counted for it. Refusals of the core are
// part of the outcome; the error is that of a context that ended.
func Run(work Work, s Spec, c *Counted) (*Outcome, error) {
	o, err := s.Settings.run(work, c)
	if err != nil {
		return nil, err
	}
	o.Spec, o.Counted = s, c
	return o, nil
}

// Document is what may be shown of an outcome that has no refusal.
func (o *Outcome) Document(about claim.About) document.Document {
	return o.Spec.Settings.document(o, about)
}
