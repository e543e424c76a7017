package analysis

import (
	"context"
	"errors"
	"fmt"

	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
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
	// MultipleResponse counts the answers to a choose-all question, MultipleResponseBy within
	// each proper answer of the question of the groups.
	MultipleResponse(ctx context.Context, q, subgroup Key) (*tally.MultipleResponse, error)
	MultipleResponseBy(ctx context.Context, q, groups, subgroup Key) ([]*tally.MultipleResponse, error)
	// Descriptives summarises numbers; nil when nobody gave one. DescriptivesBy does so within
	// each proper answer of the question of the groups.
	Descriptives(ctx context.Context, q, subgroup Key) (*tally.Summary, error)
	DescriptivesBy(ctx context.Context, q, groups, subgroup Key) ([]*tally.Summary, error)
	// Drawn is the design in force, by which populations are estimated; nil counts respondents.
	Drawn() *Drawn
	// Cells counts the combinations of the proper answers to questions by the design in force, the
	// last question running fastest; without a question all respondents are one cell.
	Cells(ctx context.Context, questions []Key, subgroup Key) (*design.Cells, error)
	// Drawing gives the design in force with a number of its respondents, and the groups of another
	// question, "" for none.
	Drawing(ctx context.Context, numbers, groups, subgroup Key) (*Drawing, error)
	// Items counts a choose-all question by the design in force, within each proper answer of the
	// question of the groups, "" for all; nil for a group that nobody is in.
	Items(ctx context.Context, question, groups, subgroup Key) ([]*design.Items, error)
	// Panel counts a question within waves, each respondent that an identifier recognises in several of them as
	// one cluster, by the design in force where there is one without clusters; overlap tells how many were
	// asked in each pair of waves.
	Panel(ctx context.Context, question, waves, identifier, subgroup Key) (cells *design.Cells, overlap [][]int64, err error)
	// StrataNames are the names of the strata in the order of the design; nil where they are not told.
	StrataNames(ctx context.Context) ([]string, error)
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
	// Each holds the frequencies of every question where there are several of one kind, and
	// Crosstabs those of every further question, its answers down, with the first.
	Each      []*tally.Frequency
	Crosstabs []*tally.Crosstab
	// Responses is set for a choose-all question, ResponsesBy within the groups of the second.
	Responses   *tally.MultipleResponse
	ResponsesBy []*tally.MultipleResponse
	// Summary is set for numbers; nil when nobody gave one. Summaries are those of several
	// questions, or of the groups of the second and then of all in them.
	Summary   *tally.Summary
	Summaries []*tally.Summary
	// Cells are the combinations of the answers to the questions by the design in force, which Sampled
	// tells in words; nil where respondents are counted.
	Cells *design.Cells
	// Drawing is the same of a number, or of one within groups.
	Drawing *Drawing
	// EachCells and Drawings are those of several questions, nil for one that nobody answered; Items are
	// those of a choose-all question, or of it within each group, nil for one that nobody is in.
	EachCells []*design.Cells
	Drawings  []*Drawing
	Items     []*design.Items
	// Panel is the respondents by their waves, recognised by an identifier, and Overlap how many were asked in
	// each pair of waves; nil where nobody is recognised.
	Panel   *design.Cells
	Overlap [][]int64
	// Whole is everybody who was asked one question, whether he answered or not.
	Whole   *design.Cells
	Sampled claim.Sampled
}

// Designed reports whether the population is estimated.
func (c *Counted) Designed() bool { return c.Sampled.Base.N > 0 }

// Respondents is how many a result speaks of where it counted one question, or one within
// groups; ok is false where a document says so itself.
func (c *Counted) Respondents() (n int64, ok bool) {
	switch {
	case c.ResponsesBy != nil:
	case c.Summary != nil:
		return c.Summary.N, true
	case c.Summaries != nil && c.Each == nil:
		for _, s := range c.Summaries {
			if s != nil {
				n += s.N
			}
		}
		return n, true
	case c.Frequency != nil:
		return c.Frequency.Answered, true
	}
	return 0, false
}

// Unanswered is how many gave no answer to the one question that was counted; ok is false where there
// are several, or numbers, whose documents say so themselves or are of those who gave one.
func (c *Counted) Unanswered() (n int64, ok bool) {
	if c.Frequency == nil || c.ResponsesBy != nil || c.Summary != nil {
		return 0, false
	}
	return c.Frequency.Missing, true
}

// Count has a source count what a spec needs. A spec that cannot be asked is a *SpecError.
func Count(ctx context.Context, s Spec, from Source) (*Counted, error) {
	c := &Counted{}
	for i, key := range s.Questions {
		q, err := from.Question(ctx, key)
		if errors.Is(err, ErrUnknownKey) {
			return nil, Refused(
				"spec.question",
				fmt.Sprintf("/questions/%d", i),
				document.Values{"text": document.Text(string(key))},
			)
		}
		if err != nil {
			return nil, err
		}
		c.Questions = append(c.Questions, q)
	}
	d := from.Drawn()
	if s.Unweighted {
		d = nil
	}
	err := Refuse(s.CheckBy(d != nil, c.Questions))
	if err != nil {
		return nil, err
	}
	needed := s.Settings.Needs()
	switch needed {
	case NeedCrosstab:
		c.Crosstab, err = from.Crosstab(ctx, s.Questions[1], s.Questions[0], "", s.Subgroup)
	case NeedTrend:
		c.Crosstab, err = from.Crosstab(ctx, s.Questions[1], s.Questions[0], "", s.Subgroup)
		if len(s.Questions) > 2 && err == nil {
			c.Panel, c.Overlap, err = from.Panel(ctx, s.Questions[0], s.Questions[1], s.Questions[2], s.Subgroup)
			if err = some(err); err == nil && c.Panel == nil {
				err = RefuseInput("trend", infer.NoObservations, -1)
			}
		}
	case NeedEachFrequencies:
		for _, key := range s.Questions {
			f, failed := from.Frequencies(ctx, key, s.Subgroup)
			if err = failed; err != nil {
				break
			}
			c.Each = append(c.Each, f)
		}
	case NeedEachCrosstab:
		for _, key := range s.Questions[1:] {
			t, failed := from.Crosstab(ctx, key, s.Questions[0], "", s.Subgroup)
			if err = failed; err != nil {
				break
			}
			c.Crosstabs = append(c.Crosstabs, t)
		}
	case NeedResponsesBy:
		if c.Frequency, err = from.Frequencies(ctx, s.Questions[0], s.Subgroup); err != nil {
			break
		}
		c.ResponsesBy, err = from.MultipleResponseBy(ctx, s.Questions[0], s.Questions[1], s.Subgroup)
	case NeedEachDescriptives:
		for _, key := range s.Questions {
			d, failed := from.Descriptives(ctx, key, s.Subgroup)
			if err = failed; err != nil {
				break
			}
			c.Summaries = append(c.Summaries, d)
			switch f, failed := from.Frequencies(ctx, key, s.Subgroup); {
			case failed == nil:
				c.Each = append(c.Each, f)
			case !errors.Is(failed, ErrUnknownKey): // of typed numbers nobody knows how many gave none
				err = failed
			}
		}
		if len(c.Each) < len(c.Summaries) {
			c.Each = nil
		}
	case NeedDescriptivesBy:
		if c.Frequency, err = from.Frequencies(ctx, s.Questions[0], s.Subgroup); err != nil && !errors.Is(err, ErrUnknownKey) {
			break // of typed numbers nobody knows how many gave none
		}
		c.Summaries, err = from.DescriptivesBy(ctx, s.Questions[0], s.Questions[1], s.Subgroup)
	case NeedNothing:
	case NeedLayers:
		c.Crosstab, err = from.Crosstab(ctx, s.Questions[1], s.Questions[0], s.Questions[2], s.Subgroup)
	case NeedResponses, NeedPatterns:
		if c.Responses, err = from.MultipleResponse(ctx, s.Questions[0], s.Subgroup); err == nil {
			c.Frequency = c.Responses.Frequency
			if needed == NeedPatterns && c.Responses.Patterns == nil {
				err = ErrUnknownKey
			}
		}
	case NeedDescriptives:
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
		return nil, Refused("compute."+string(TooManyCells), "/questions", nil)
	case errors.Is(err, ErrUnknownKey) && (needed == NeedPatterns || needed == NeedResponsesBy || needed == NeedDescriptivesBy):
		return nil, Refused("spec.respondents", "/questions", nil)
	case errors.Is(err, ErrUnknownKey):
		return nil, Refused("spec.counts", "/questions", nil)
	}
	if err == nil && d != nil && needed != NeedNothing {
		err = c.estimate(ctx, s, from, *d)
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

// What a result that stands on a page may take: an exact test a second or two, and simulation
// beyond. Who asks with the same bounds gets the same figures.
const (
	UsualSteps      = 5_000_000
	UsualReplicates = 20_000
)

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
	run := s.Settings.Run
	if d, ok := s.Settings.(Designed); ok && c.Designed() {
		run = d.RunDesigned
	}
	o, err := run(work, c)
	if err != nil {
		return nil, err
	}
	o.Spec, o.Counted = s, c
	return o, nil
}

// Document is what may be shown of an outcome that has no refusal.
func (o *Outcome) Document(about claim.About) document.Document {
	if d, ok := o.Spec.Settings.(Designed); ok && o.Counted.Designed() {
		return d.DocumentDesigned(o, about)
	}
	return o.Spec.Settings.Document(o, about)
}
