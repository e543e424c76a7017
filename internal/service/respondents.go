package service

import (
	"context"
	"fmt"
	"reflect"
	"strings"

	"widetally/core/study"
	"widetally/core/survey"
)

// Respondents names those who gave an answer to a question; without a code, any proper one.
type Respondents struct {
	Question uint64
	Code     string
}

// SubgroupOf returns the subgroup of those of whom all holds, and makes it, named after its
// answers, where there is none.
func (s *Codebooks) SubgroupOf(ctx context.Context, studyID uint64, who []Respondents) (id uint64, err error) {
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return 0, err
	}
	condition, name, err := s.respondents(p, who)
	if err != nil {
		return 0, err
	}
	id, fits, err := subgroupWith(p.parts, condition, name)
	if err != nil || id != 0 {
		return id, err
	}
	return s.SaveSubgroup(ctx, studyID, 0, 0, SubgroupEdit{Name: fits, Condition: condition})
}

// subgroupWith is the subgroup of a condition or, where there is none, 0 with a name like this one that no other
// subgroup has.
func subgroupWith(parts []study.Part, condition survey.Condition, name string) (id uint64, fits string, err error) {
	taken := map[string]bool{}
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		is, err := conditionOf(p)
		if err != nil {
			return 0, "", err
		}
		if reflect.DeepEqual(is, condition) {
			return p.ID, p.Name, nil
		}
		taken[strings.ToLower(p.Name)] = true
	}
	fits = name
	for n := 2; taken[strings.ToLower(fits)]; n++ {
		more := fmt.Sprintf(" (%d)", n)
		fits = shortened(name, maxName-len(more)) + more
	}
	return 0, fits, nil
}

// respondents makes a condition and its name of answers.
func (s *base) respondents(p *page, who []Respondents) (survey.Condition, string, error) {
	all := survey.Condition{Op: survey.And}
	var names []string
	for i, w := range who {
		field := fmt.Sprintf("/who/%d", i)
		q, ok := p.question(w.Question)
		if !ok {
			return all, "", study.ErrNotFound
		}
		called := q.Short
		if called == "" {
			called = q.Name
		}
		if w.Code == "" {
			all.Of, names = append(all.Of, survey.Condition{Op: survey.Answered, Question: q.ID}), append(names, s.words.Text("subgroup_named.answered", map[string]string{"question": called}))
			continue
		}
		found := false
		for _, a := range q.Proper() {
			if found = a.Code == w.Code; found {
				all.Of = append(all.Of, survey.Condition{Op: survey.AnyOf, Question: q.ID, Answers: []survey.Slot{a.Slot}})
				names = append(names, s.words.Text("subgroup_named.answer", map[string]string{"question": called, "answer": a.Label}))
				break
			}
		}
		if !found {
			return all, "", invalid("spec.category", field, map[string]string{"text": w.Code, "name": q.Name})
		}
	}
	if len(all.Of) == 0 {
		return all, "", invalid("condition.empty", "/who", nil)
	}
	name := shortened(strings.Join(names, ", "), maxName)
	if len(all.Of) == 1 {
		return all.Of[0], name, checkCondition(p.questions, all.Of[0], "/who")
	}
	return all, name, checkCondition(p.questions, all, "/who")
}

// shortened cuts a text to so many characters.
func shortened(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return strings.TrimSpace(string(r[:most-1])) + "…"
	}
	return s
}
