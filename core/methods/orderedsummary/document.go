package orderedsummary

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// OrderedAnswers describes answers that have an order: median and quartiles as answers, a
// mean only of scores that somebody declared.
type OrderedAnswers struct {
	claim.About
	Question claim.Question
	Labels   []string
}

// Statement says what is described.
func (OrderedAnswers) Statement() document.Message {
	return say.ClaimOrderedSummaryDescribed()
}

// Document shows the answers at which a quarter, a half and three quarters are reached.
func (c OrderedAnswers) Document(s *tally.OrderedSummary) document.Document {
	answer := func(i int) document.Message {
		lower, upper := c.Labels[s.Lower[i]], c.Labels[s.Upper[i]]
		if lower == upper {
			return claim.Plain(document.Text(lower))
		}
		return say.FactBetween(lower, upper)
	}
	const median = 1 // of the percents asked for
	said := answer(median)
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"n":        document.N(s.N),
		"median":   {Kind: document.Said, Message: &said},
	}
	id := "read.ordered_summary.median"
	if s.Lower[median] != s.Upper[median] {
		id = "read.ordered_summary.between"
		v["lower"], v["upper"] = document.Text(c.Labels[s.Lower[median]]), document.Text(c.Labels[s.Upper[median]])
	}
	sentence := document.Say(id, v)
	facts := []document.Fact{claim.Fact("n", "n", nil, claim.Plain(document.N(s.N)))}
	for i, key := range []string{"q1", "median", "q3"} {
		facts = append(facts, claim.Fact(key, key, nil, answer(i)))
	}
	if len(s.Modes) == 1 {
		facts = append(facts, claim.Fact("mode", "mode", nil, claim.Plain(document.Text(c.Labels[s.Modes[0]]))))
	}
	var notes claim.NotesOf
	notes.LeftOut(c.About, s.N)
	if s.MeanScore != nil {
		facts = append(facts, claim.Fact("mean_score", "mean_score", nil, claim.Plain(claim.Rounded(*s.MeanScore))))
		if s.SDScore != nil {
			facts = append(facts, claim.Fact("sd_score", "sd_score", nil, claim.Plain(claim.Rounded(*s.SDScore))))
		}
		notes.Add(document.Facts, "ordered_summary.scores", nil)
	} else {
		notes.Add(document.Facts, "ordered_summary.no_scores", nil)
	}
	notes.Unweighted(c.About)
	return document.Document{
		Blocks: []document.Block{
			{Kind: document.Sentence, Said: []document.Message{sentence}},
			{Kind: document.Facts, Facts: facts},
			{Kind: document.WriteUp, Said: []document.Message{sentence}},
		},
		Notes: notes,
	}
}
