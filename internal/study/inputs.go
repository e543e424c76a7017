package study

import (
	"encoding/json"
	"fmt"
	"reflect"

	"widetally/core/survey"
	"widetally/internal/store"
)

// claimInputs is all that the result of a claim depends on, kept as it was when its test
// was first run. Whether the result is still that one is told by comparing, not by
// listening to edits: a later file with the same answers changes nothing, and what a
// subgroup's questions count does.
type claimInputs struct {
	// Observed holds how many gave each answer of the test, by code.
	Observed map[string]int64 `json:"observed"`
	Missing  int64            `json:"missing"`
	// Claim is what the claim says.
	Claim string `json:"claim"`
	// Coding, Subgroup and Counts tell where a difference comes from: how the question's
	// answers are counted, whom the claim is about, and what counts the rows.
	Coding   map[string]codedAs `json:"coding"`
	Subgroup string             `json:"subgroup"`
	Counts   string             `json:"counts"`
}

type codedAs struct {
	Missing string `json:"missing,omitempty"`
	SameAs  string `json:"sameAs,omitempty"`
}

// Difference names what a result depends on that is not as it was at the first run; the
// texts are under claim.differs.
type Difference string

// The differences.
const (
	ClaimDiffers    Difference = "claim"
	CodingDiffers   Difference = "coding"
	SubgroupDiffers Difference = "subgroup"
	CountsDiffer    Difference = "counts"
	AnswersDiffer   Difference = "answers"
)

// since lists what differs from the inputs of the first run; nil when the result is the
// same one.
func (now claimInputs) since(first claimInputs) (out []Difference) {
	if reflect.DeepEqual(now.Observed, first.Observed) && now.Claim == first.Claim && now.Missing == first.Missing {
		return nil
	}
	if now.Claim != first.Claim {
		out = append(out, ClaimDiffers)
	}
	if reflect.DeepEqual(now.Observed, first.Observed) && now.Missing == first.Missing {
		return out
	}
	before := len(out)
	if !reflect.DeepEqual(now.Coding, first.Coding) {
		out = append(out, CodingDiffers)
	}
	if now.Subgroup != first.Subgroup {
		out = append(out, SubgroupDiffers)
	}
	if now.Counts != first.Counts {
		out = append(out, CountsDiffer)
	}
	if len(out) == before {
		out = append(out, AnswersDiffer)
	}
	return out
}

// inputsOf gathers the inputs of a claim from what has been counted for it.
func inputsOf(c store.Claim, q survey.Question, counts *survey.Counts, subgroup, countedBy string) (claimInputs, error) {
	in := claimInputs{Observed: map[string]int64{}, Missing: counts.Missing, Coding: map[string]codedAs{}, Subgroup: subgroup, Counts: countedBy}
	figures := map[string]string{}
	for _, a := range q.Answers {
		as := codedAs{Missing: a.Missing}
		if a.SameAs != nil {
			under, _ := q.Answer(*a.SameAs)
			as.SameAs = under.Code
		}
		if as != (codedAs{}) {
			in.Coding[a.Code] = as
			continue
		}
		in.Observed[a.Code] = counts.BySlot[a.Slot]
		if f, ok := c.Figures[a.Slot]; ok {
			figures[a.Code] = f
		}
	}
	said, err := json.Marshal([]any{c.Role, c.Level, c.Mode, c.Rescale, c.SubgroupID, figures})
	in.Claim = string(said)
	return in, err
}

// subgroupInputs tells whom a subgroup means: its definition, and how the questions that
// it looks at are counted.
func subgroupInputs(part store.Part, find func(id uint64) (store.Question, bool)) (string, error) {
	c, err := conditionOf(part)
	if err != nil {
		return "", err
	}
	used := map[string]any{}
	for _, id := range c.Questions() {
		if q, ok := find(id); ok {
			used[fmt.Sprint(id)] = []any{q.Generation, countingOf(q.Answers)}
		}
	}
	raw, err := json.Marshal([]any{c, used})
	return string(raw), err
}

// runInputs computes, within a transaction, what the result of a claim depends on now.
func (d *draft) runInputs(c store.Claim) (string, error) {
	q, err := d.question(c.QuestionID)
	if err != nil {
		return "", err
	}
	column, err := d.column(q)
	if err != nil {
		return "", err
	}
	var of survey.Respondents
	if of.Times, err = d.times(); err != nil {
		return "", err
	}
	all, err := d.tx.AllQuestions(d.ctx, d.study.ID)
	if err != nil {
		return "", err
	}
	subgroup, countedBy := "", ""
	if c.SubgroupID != nil {
		part, err := d.tx.Part(d.ctx, d.study.ID, *c.SubgroupID)
		if err != nil {
			return "", err
		}
		condition, err := conditionOf(part)
		if err != nil {
			return "", err
		}
		if of.In, err = condition.Evaluate(int(d.study.Rows), d.source); err != nil {
			return "", err
		}
		if subgroup, err = subgroupInputs(part, func(id uint64) (store.Question, bool) { q, ok := all[id]; return q, ok }); err != nil {
			return "", err
		}
	}
	if id := d.study.CountQuestion; id != nil {
		countedBy = all[*id].Name
	}
	counts, err := survey.CountAnswers(q.Question, column, of)
	if err != nil {
		return "", fmt.Errorf("study: %w", err)
	}
	in, err := inputsOf(c, q.Question, counts, subgroup, countedBy)
	if err != nil {
		return "", fmt.Errorf("study: %w", err)
	}
	return jsonText(in)
}
