package analysis

import (
	"context"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// MultipleResponseRequest is how many respondents chose each answer of a choose-all
// question, and how many chose 0, 1, 2 … answers.
type MultipleResponseRequest struct {
	Counts []int64 `json:"counts"`
	Chosen []int64 `json:"chosen"`
}

const responsesName = "multiple-response"

var multipleResponse = figures(responsesName, "A choose-all question: shares of respondents and of responses, and how many answers were chosen", nil, MultipleResponseRequest{},
	func(_ context.Context, in *MultipleResponseRequest) (*tally.ResponseShares, error) {
		if len(in.Counts) > maxAnswers {
			return nil, refuse("multiple response", TooManyAnswers, -1)
		}
		return tally.ShareResponses(in.Counts, in.Chosen)
	})

// ResponsesSettings asks for a choose-all question over both its bases.
type ResponsesSettings struct{ describing }

var askedResponses = &Asked{Version: 1, Questions: []Part{TheQuestion}, Inputs: []Input{}, Texts: "responses", Lines: []Line{}, Key: "d",
	Of:  func(q survey.Question) bool { return q.Kind == survey.ChooseAll },
	New: func() Settings { return &ResponsesSettings{} }}

// Check implements Settings.
func (*ResponsesSettings) Check([]survey.Question) []Problem { return nil }

// Essence implements Settings.
func (s *ResponsesSettings) Essence() any { return *s }

// Statement implements Settings.
func (*ResponsesSettings) Statement([]survey.Question, claim.About) document.Message {
	return claim.Responses{}.Statement()
}

func (*ResponsesSettings) needs() need { return responses }

// responseCounts are those of the proper answers.
func responseCounts(c *Counted) (out []int64) {
	for _, r := range c.Responses.Frequency.Rows {
		out = append(out, r.Count)
	}
	return out
}

func (*ResponsesSettings) run(work Work, c *Counted) (*Outcome, error) {
	return outcomeOf(work, responsesName, &MultipleResponseRequest{Counts: responseCounts(c), Chosen: c.Responses.Chosen})
}

func (*ResponsesSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := claim.Responses{About: about, Question: named(o.Counted.Questions[0])}
	for _, a := range o.Counted.Questions[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c.Document(o.Result.(*tally.ResponseShares), responseCounts(o.Counted))
}
