package service

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// ListedAnswer is one answer of a shared list.
type ListedAnswer struct {
	Code    string   `json:"code"`
	Label   string   `json:"label"`
	Missing string   `json:"missing,omitempty"`
	Score   *float64 `json:"score,omitempty"`
}

// AnswerListView is a list of answers that several questions share.
type AnswerListView struct {
	ID      uint64
	Name    string
	Answers []ListedAnswer
	Version int
}

func listOf(p study.Part) (AnswerListView, error) {
	l := AnswerListView{ID: p.ID, Name: p.Name, Version: p.Version}
	if err := json.Unmarshal([]byte(p.Definition), &l.Answers); err != nil {
		return l, fmt.Errorf("service: list %d: %w", p.ID, err)
	}
	return l, nil
}

func (l AnswerListView) answers() survey.Question {
	var q survey.Question
	for _, a := range l.Answers {
		q.Answers = append(q.Answers, survey.Answer{Code: a.Code, Label: a.Label, Missing: a.Missing, Score: a.Score})
	}
	return q
}

// Lists returns a study's shared lists.
func (s *Codebooks) Lists(ctx context.Context, studyID uint64) ([]AnswerListView, error) {
	if _, err := s.seen(ctx, studyID); err != nil {
		return nil, err
	}
	parts, err := s.store.Parts(ctx, studyID, study.AnswerList)
	out := []AnswerListView{}
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		l, err := listOf(p)
		if err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, err
}

// SaveList stores a shared list, a new one when id is 0, and gives its labels, order,
// missing reasons and scores to every question that uses it.
func (s *Codebooks) SaveList(ctx context.Context, studyID, id uint64, version int, name string, answers []ListedAnswer) (savedID uint64, err error) {
	title := Title{ID: "list", Values: document.Values{"name": document.Text(name)}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		name, err := plain(name, "/name", maxName, true)
		if err != nil {
			return err
		}
		if answers, err = checkListed(answers); err != nil {
			return err
		}
		definition, err := json.Marshal(answers)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		p, err := d.part(study.Part{ID: id, Kind: study.AnswerList, Name: name, Definition: string(definition), Version: version})
		if err != nil {
			return err
		}
		savedID = p.ID
		return d.applyList(AnswerListView{ID: p.ID, Name: name, Answers: answers})
	})
	return savedID, err
}

func checkListed(answers []ListedAnswer) ([]ListedAnswer, error) {
	if len(answers) < 1 || len(answers) > survey.MostAnswers {
		return nil, invalid("list.answers", "/answers", nil)
	}
	seen := map[string]bool{}
	for i := range answers {
		field := fmt.Sprintf("/answers/%d", i)
		a := &answers[i]
		var err error
		if a.Code, err = plain(a.Code, field+"/code", maxLabel, true); err != nil {
			return nil, err
		}
		if a.Label, err = plain(a.Label, field+"/label", maxLabel, false); err != nil {
			return nil, err
		}
		if a.Missing, err = plain(a.Missing, field+"/missing", maxMissing, false); err != nil {
			return nil, err
		}
		if a.Label == "" {
			a.Label = a.Code
		}
		if seen[a.Code] {
			return nil, invalid("question.code_taken", field+"/code", map[string]string{"text": a.Code})
		}
		seen[a.Code] = true
	}
	return answers, nil
}

// applyList gives a list's answers to the questions that use it.
func (d *draft) applyList(l AnswerListView) error {
	all, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return err
	}
	var changed []edited
	for _, before := range all {
		if before.ListID == nil || *before.ListID != l.ID {
			continue
		}
		q := before
		q.Question = survey.Describe(q.Question, l.answers())
		changed = append(changed, edited{before, q})
	}
	return d.saveAll(changed)
}

// unlist lets the questions that use a list keep their answers without it.
func (d *draft) unlist(id uint64) error {
	all, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return err
	}
	var changed []edited
	for _, before := range all {
		if before.ListID != nil && *before.ListID == id {
			q := before
			q.ListID = nil
			changed = append(changed, edited{before, q})
		}
	}
	return d.saveAll(changed)
}

// ParseLabels reads pasted lines "code<tab>label", parted by a tab, a semicolon, an
// equals sign or, failing these, the first blank.
func ParseLabels(text string) []ListedAnswer {
	var out []ListedAnswer
	for _, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		for _, mark := range []string{"\t", ";", "=", " "} {
			if code, label, ok := strings.Cut(line, mark); ok && strings.TrimSpace(code) != "" {
				out = append(out, ListedAnswer{Code: strings.TrimSpace(code), Label: strings.TrimSpace(label)})
				break
			}
		}
	}
	return out
}
