// Package demo makes the demo study: the household survey of Fernmouth, an
// invented borough, imported through the real intake and edited through the real
// use cases.
package demo

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/json"
	"fmt"

	"widetally/core/claim"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/internal/store"
	"widetally/internal/study"
)

//go:generate go run ./generate -out fernmouth.csv

// CSV is the file of answers, a row per household, as generate wrote it.
//
//go:embed fernmouth.csv
var CSV []byte

//go:embed fernmouth.json
var codebook []byte

// questionText is what the codebook says about one column.
type questionText struct {
	Wording string            `json:"wording"`
	Kind    survey.Kind       `json:"kind"`
	Labels  map[string]string `json:"labels"`  // by code
	Order   []string          `json:"order"`   // codes in the order to show
	Missing map[string]string `json:"missing"` // reason by code
}

type claimText struct {
	Column     string              `json:"column"`
	Source     string              `json:"source"`
	SourceDate string              `json:"sourceDate"`
	Kind       claim.ReferenceKind `json:"kind"`
	Mode       shares.Mode         `json:"mode"`
	Level      float64             `json:"level"`
	Role       claim.Role          `json:"role"`
	Shares     map[string]string   `json:"shares"` // by label
}

// Load makes the demo study, unless the shelf already holds something.
func Load(ctx context.Context, s *study.Service) (store.Study, error) {
	if list, err := s.List(ctx); err != nil || len(list) > 0 {
		return store.Study{}, err
	}
	var book struct {
		Name      string                  `json:"name"`
		Units     string                  `json:"units"`
		Questions map[string]questionText `json:"questions"`
		Claims    []claimText             `json:"claims"`
	}
	if err := json.Unmarshal(codebook, &book); err != nil {
		return store.Study{}, fmt.Errorf("demo: %w", err)
	}
	a, err := s.Arrive(ctx, "fernmouth.csv", bytes.NewReader(CSV))
	if err != nil {
		return store.Study{}, fmt.Errorf("demo: %w", err)
	}
	st, err := s.Create(ctx, study.NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: book.Name, Units: book.Units})
	if err != nil {
		return store.Study{}, fmt.Errorf("demo: %w", err)
	}
	page, err := s.Topline(ctx, st.ID, nil)
	if err != nil {
		return store.Study{}, fmt.Errorf("demo: %w", err)
	}
	for _, q := range page.Questions {
		text, ok := book.Questions[q.Name]
		if !ok {
			return store.Study{}, fmt.Errorf("demo: the codebook lacks %q", q.Name)
		}
		if err := s.EditQuestion(ctx, st.ID, q.ID, q.Version, text.edit(q.Question)); err != nil {
			return store.Study{}, fmt.Errorf("demo: question %q: %w", q.Name, err)
		}
		for _, c := range book.Claims {
			if c.Column != q.Name {
				continue
			}
			if err := c.state(ctx, s, st.ID, q.ID); err != nil {
				return store.Study{}, fmt.Errorf("demo: claim about %q: %w", q.Name, err)
			}
		}
	}
	return st, nil
}

// edit turns the codebook's text into an edit; answers that it does not name keep
// their label and come after those that it orders.
func (t questionText) edit(q store.Question) study.QuestionEdit {
	e := study.QuestionEdit{Wording: &t.Wording}
	if t.Kind != "" && t.Kind != q.Kind {
		e.Kind = &t.Kind
	}
	rank := map[string]int{}
	for i, code := range t.Order {
		rank[code] = i + 1
	}
	var ordered, rest []study.AnswerEdit
	ordered = make([]study.AnswerEdit, 0, len(q.Answers))
	place := func(a survey.Answer) study.AnswerEdit {
		out := study.AnswerEdit{Slot: a.Slot, Label: a.Label, Missing: a.Missing, SameAs: a.SameAs}
		if label, ok := t.Labels[a.Code]; ok {
			out.Label = label
		}
		if reason, ok := t.Missing[a.Code]; ok {
			out.Missing = reason
		}
		return out
	}
	byRank := map[int]study.AnswerEdit{}
	for _, a := range q.Answers {
		if r := rank[a.Code]; r > 0 {
			byRank[r] = place(a)
		} else {
			rest = append(rest, place(a))
		}
	}
	for r := 1; r <= len(t.Order); r++ {
		if a, ok := byRank[r]; ok {
			ordered = append(ordered, a)
		}
	}
	e.Answers = append(ordered, rest...)
	return e
}

func (c claimText) state(ctx context.Context, s *study.Service, studyID, questionID uint64) error {
	q, err := s.Question(ctx, studyID, questionID, nil)
	if err != nil {
		return err
	}
	figures := map[survey.Slot]string{}
	for _, a := range q.Answers {
		if f, ok := c.Shares[a.Label]; ok {
			figures[a.Slot] = f
		}
	}
	err = s.State(ctx, studyID, questionID, study.Statement{Role: c.Role, Level: c.Level, Mode: c.Mode, Kind: c.Kind, Source: c.Source, SourceDate: c.SourceDate, Figures: figures})
	if err != nil {
		return err
	}
	if q, err = s.Question(ctx, studyID, questionID, nil); err != nil {
		return err
	}
	_, err = s.RunClaim(ctx, studyID, q.Claims[len(q.Claims)-1].ID)
	return err
}
