package study

import (
	"context"
	"sort"
	"strconv"
	"strings"

	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/store"
)

// Topline is the living page: every question with its tally and claims.
type Topline struct {
	Study     store.Study
	Questions []QuestionView
}

// QuestionView is one question as the page shows it.
type QuestionView struct {
	store.Question
	Units     string // of the study
	Decimals  int    // of the study
	Frequency *tally.Frequency
	// Numeric is set for numbers when there are any.
	Numeric *tally.Numeric
	// SumAnswered and SumEveryone are what the percent columns add to as printed.
	SumAnswered, SumEveryone float64
	// Examples are a few different texts, for text and identifiers.
	Examples []string
	// Different counts the different texts.
	Different  int
	Lookalikes []survey.Lookalike
	Claims     []ClaimView
}

const mostExamples = 3

// Topline tabulates every question of a study.
func (s *Service) Topline(ctx context.Context, studyID uint64) (*Topline, error) {
	st, err := s.store.Study(ctx, studyID)
	if err != nil {
		return nil, err
	}
	questions, err := s.store.Questions(ctx, studyID)
	if err != nil {
		return nil, err
	}
	claims, err := s.claimsOf(ctx, studyID)
	if err != nil {
		return nil, err
	}
	t := &Topline{Study: st, Questions: make([]QuestionView, len(questions))}
	for i, q := range questions {
		v, err := s.view(ctx, st, q, claims)
		if err != nil {
			return nil, err
		}
		t.Questions[i] = *v
	}
	return t, nil
}

// Question tabulates one question of a study.
func (s *Service) Question(ctx context.Context, studyID, id uint64) (*QuestionView, error) {
	st, err := s.store.Study(ctx, studyID)
	if err != nil {
		return nil, err
	}
	q, err := s.store.Question(ctx, studyID, id)
	if err != nil {
		return nil, err
	}
	claims, err := s.claimsOf(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.view(ctx, st, q, claims)
}

func (s *Service) view(ctx context.Context, st store.Study, q store.Question, claims *studyClaims) (*QuestionView, error) {
	column, err := s.column(ctx, q.ID)
	if err != nil {
		return nil, err
	}
	v := &QuestionView{Question: q, Units: st.Units, Decimals: st.Decimals}
	if v.Frequency, err = tally.Tabulate(q.Question, column); err != nil {
		return nil, err
	}
	var answered, everyone []float64
	for _, r := range v.Frequency.Rows {
		if r.PercentOfAnswered != nil {
			answered = append(answered, *r.PercentOfAnswered)
		}
		if r.PercentOfEveryone != nil {
			everyone = append(everyone, *r.PercentOfEveryone)
		}
	}
	for _, r := range v.Frequency.MissingRows {
		if r.PercentOfEveryone != nil {
			everyone = append(everyone, *r.PercentOfEveryone)
		}
	}
	v.SumAnswered, v.SumEveryone = tally.RoundedSum(answered, st.Decimals), tally.RoundedSum(everyone, st.Decimals)
	switch {
	case q.Kind.Numeric():
		v.Numeric = tally.Summarise(column, numbersOf(q))
	case !q.Kind.Tabulated():
		v.Examples, v.Different = examples(column)
	}
	if q.Kind.Tabulated() {
		counts, err := column.Count(slots(q))
		if err != nil {
			return nil, err
		}
		v.Lookalikes = survey.Lookalikes(q.Answers, counts)
	}
	for _, c := range claims.byQuestion[q.ID] {
		v.Claims = append(v.Claims, s.claimView(st, c, v, claims))
	}
	return v, nil
}

// column loads a question's column, from memory where it is kept.
func (s *Service) column(ctx context.Context, questionID uint64) (survey.Column, error) {
	if c, ok := s.columns.get(questionID); ok {
		return c, nil
	}
	c, err := s.store.LoadColumn(ctx, questionID)
	if err == nil {
		s.columns.put(questionID, c)
	}
	return c, err
}

func slots(q store.Question) int {
	n := 1
	for _, a := range q.Answers {
		n = max(n, int(a.Slot)+1)
	}
	return n
}

// numbersOf gives the number that each proper answer of a coded question stands
// for. A spelling counted under another answer takes that answer's number.
func numbersOf(q store.Question) map[survey.Slot]float64 {
	values := map[survey.Slot]float64{}
	for _, a := range q.Answers {
		if a.Missing != "" || a.SameAs != nil {
			continue
		}
		if x, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(a.Code), ",", ".", 1), 64); err == nil {
			values[a.Slot] = x
		}
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			if x, ok := values[*a.SameAs]; ok {
				values[a.Slot] = x
			}
		}
	}
	return values
}

func examples(c survey.Column) (some []string, different int) {
	seen := map[string]struct{}{}
	for _, text := range c.Text {
		if text == "" {
			continue
		}
		if _, known := seen[text]; known {
			continue
		}
		seen[text] = struct{}{}
		if len(some) < mostExamples {
			some = append(some, text)
		}
	}
	sort.Strings(some)
	return some, len(seen)
}
