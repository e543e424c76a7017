package recipe

import (
	"fmt"

	"widetally/core/document"
	"widetally/core/survey"
)

// Described is the question of a name as the recipe describes it; one that it does not describe has its
// name alone.
func (r Recipe) Described(name string) survey.Question {
	for _, q := range r.Questions {
		if q.Name == name {
			return q.question()
		}
	}
	return Question{Name: name}.question()
}

// QuestionOf writes a question in names and codes. find gives the questions that it names.
func QuestionOf(q survey.Question, find func(id uint64) (survey.Question, bool)) Question {
	out := Question{Name: q.Name, Wording: q.Wording, Short: q.Short, Note: q.Note, Section: q.Section, Kind: q.Kind}
	for _, a := range q.Answers {
		one := Answer{Code: a.Code, Label: a.Label, Missing: a.Missing, Score: a.Score, From: a.From, To: a.To}
		if a.SameAs != nil {
			under, _ := q.Answer(*a.SameAs)
			one.SameAs = &under.Code
		}
		if a.Label == a.Code {
			one.Label = ""
		}
		out.Answers = append(out.Answers, one)
	}
	if q.Base != nil {
		c := ConditionOf(*q.Base, find)
		out.Base = &c
	}
	if d := q.Derivation; d != nil {
		out.Derive = derivationOf(*d, find)
	}
	return out
}

func derivationOf(d survey.Derivation, find func(id uint64) (survey.Question, bool)) *Derivation {
	out := &Derivation{
		Rule:        d.Rule,
		Cut:         d.Cut,
		Limits:      d.Limits,
		Number:      d.Number,
		UpperClosed: d.UpperClosed,
		Separator:   d.Separator,
	}
	var sources []survey.Question
	for _, id := range d.Sources {
		q, _ := find(id)
		sources, out.Sources = append(sources, q), append(out.Sources, q.Name)
	}
	for _, g := range d.Groups {
		out.Groups = append(out.Groups, Group{g.Label, codesOf(sources[0], g.Answers)})
	}
	for _, g := range d.Summaries {
		out.Summaries = append(out.Summaries, Summary{codesOf(sources[0], []survey.Slot{g.Answer})[0], g.N, g.Mean, g.SD})
	}
	for i, chosen := range d.Chosen {
		out.Chosen = append(out.Chosen, codesOf(sources[i], chosen))
	}
	return out
}

func codesOf(q survey.Question, slots []survey.Slot) []string {
	out := make([]string, len(slots))
	for i, s := range slots {
		a, _ := q.Answer(s)
		out[i] = a.Code
	}
	return out
}

// ConditionOf writes a condition in names and codes.
func ConditionOf(c survey.Condition, find func(id uint64) (survey.Question, bool)) Condition {
	out := Condition{Op: c.Op, From: c.From, To: c.To}
	if c.Question != 0 {
		q, _ := find(c.Question)
		out.Question = q.Name
		if len(c.Answers) > 0 {
			out.Answers = codesOf(q, c.Answers)
		}
	}
	for _, part := range c.Of {
		out.Of = append(out.Of, ConditionOf(part, find))
	}
	return out
}

// named finds a question with its id, by its name.
type named func(name string) (id uint64, q survey.Question, ok bool)

// condition reads a condition; at is where it stands in the recipe. A code that no answer has
// stands for nobody: it may come with another year's file.
func (c Condition) condition(at string, find named) (survey.Condition, error) {
	out := survey.Condition{Op: c.Op, From: c.From, To: c.To}
	if c.Question != "" {
		id, q, ok := find(c.Question)
		if !ok {
			return out, wrongText(at+"/question", "no_question", c.Question)
		}
		out.Question = id
		out.Answers = slotsOf(q, c.Answers)
		if len(c.Answers) > 0 && len(out.Answers) == 0 {
			return out, wrongText(at+"/answers", "no_such_answers", c.Question)
		}
	}
	for i, part := range c.Of {
		one, err := part.condition(fmt.Sprintf("%s/of/%d", at, i), find)
		if err != nil {
			return out, err
		}
		out.Of = append(out.Of, one)
	}
	return out, nil
}

func slotsOf(q survey.Question, codes []string) (out []survey.Slot) {
	for _, code := range codes {
		for _, a := range q.Answers {
			if a.Code == code {
				out = append(out, a.Slot)
			}
		}
	}
	return out
}

// question reads what stands of a column: its answers get slots in their order, the empty cell
// that of the blank.
func (q Question) question() survey.Question {
	out := survey.Question{Name: q.Name, Wording: q.Wording, Short: q.Short, Note: q.Note, Section: q.Section, Kind: q.Kind}
	if out.Wording == "" {
		out.Wording = q.Name
	}
	slot, blank := survey.Slot(0), false
	for _, a := range q.Answers {
		one := survey.Answer{Code: a.Code, Label: a.Label, Missing: a.Missing, Score: a.Score, From: a.From, To: a.To}
		if a.Label == "" {
			one.Label = a.Code
		}
		if a.Code == "" {
			blank = true
			if one.Missing == "" {
				one.Missing = survey.NoAnswerReason
			}
		} else {
			slot++
			one.Slot = slot
		}
		out.Answers = append(out.Answers, one)
	}
	for i, a := range q.Answers {
		if a.SameAs != nil {
			for _, other := range out.Answers {
				if other.Code == *a.SameAs {
					out.Answers[i].SameAs = &other.Slot
				}
			}
		}
	}
	if !blank {
		out.Answers = append(out.Answers, survey.Answer{Label: survey.NoAnswerReason, Missing: survey.NoAnswerReason})
	}
	return out
}

func (d Derivation) derivation(at string, find named) (survey.Derivation, []survey.Question, error) {
	out := survey.Derivation{
		Rule:        d.Rule,
		Cut:         d.Cut,
		Limits:      d.Limits,
		Number:      d.Number,
		UpperClosed: d.UpperClosed,
		Separator:   d.Separator,
	}
	var sources []survey.Question
	for i, name := range d.Sources {
		id, q, ok := find(name)
		if !ok {
			return out, nil, wrongText(fmt.Sprintf("%s/sources/%d", at, i), "no_question", name)
		}
		sources, out.Sources = append(sources, q), append(out.Sources, id)
	}
	if len(sources) == 0 || len(d.Chosen) > len(sources) {
		return out, nil, wrong(at+"/sources", "no_sources", nil)
	}
	for _, g := range d.Groups {
		out.Groups = append(out.Groups, survey.Group{Label: g.Label, Answers: slotsOf(sources[0], g.Answers)})
	}
	for i, codes := range d.Chosen {
		out.Chosen = append(out.Chosen, slotsOf(sources[i], codes))
	}
	for i, g := range d.Summaries {
		slots := slotsOf(sources[0], []string{g.Answer})
		if len(slots) != 1 {
			return out, nil, wrong(
				fmt.Sprintf("%s/summaries/%d/answer", at, i),
				"no_answer",
				document.Values{"name": document.Text(d.Sources[0]), "text": document.Text(g.Answer)},
			)
		}
		out.Summaries = append(out.Summaries, survey.GroupSummary{Answer: slots[0], N: g.N, Mean: g.Mean, SD: g.SD})
	}
	return out, sources, nil
}
