package service

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"

	"widetally/core/document"
	"widetally/core/study"
)

// answeredNotes are the notes that were answered, by analysis and rule, each with its reason.
type answeredNotes map[uint64]map[string]string

func answeredOf(parts []study.Part) (study.Part, answeredNotes, error) {
	out := answeredNotes{}
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		if err := json.Unmarshal([]byte(p.Definition), &out); err != nil {
			return p, nil, fmt.Errorf("service: answered notes %d: %w", p.ID, err)
		}
		return p, out, nil
	}
	return study.Part{Kind: study.Answered, Name: "answered"}, out, nil
}

// ruleID is what names a rule.
var ruleID = regexp.MustCompile(`^note\.[a-z0-9_.]{1,80}$`)

const mostReason = 300

// AnswerNote notes that a note beside an analysis has been seen, with a reason if one is given,
// or takes that back. It then stays quiet, whatever comes out.
func (s *Claims) AnswerNote(ctx context.Context, studyID, analysisID uint64, rule string, seen bool, reason string) (questionID uint64, err error) {
	if !ruleID.MatchString(rule) {
		return 0, invalid("note.rule", "/id", nil)
	}
	if reason, err = plain(reason, "/reason", mostReason, false); err != nil {
		return 0, err
	}
	id := "note_unseen"
	if seen {
		id = "note_seen"
	}
	title := Title{ID: id, Values: document.Values{}}
	return questionID, s.change(ctx, studyID, title, func(d *draft) error {
		a, err := d.standing(analysisID)
		if err != nil {
			return err
		}
		questionID, title.Values["what"] = a.QuestionID, nameOf(a)
		parts, err := d.store.Parts(d.ctx, studyID, study.Answered)
		if err != nil {
			return err
		}
		part, all, err := answeredOf(parts)
		if err != nil {
			return err
		}
		if all[analysisID] == nil {
			all[analysisID] = map[string]string{}
		}
		if seen {
			all[analysisID][rule] = reason
		} else {
			delete(all[analysisID], rule)
		}
		if part.Definition, err = jsonText(all); err != nil {
			return err
		}
		_, err = d.part(part)
		return err
	})
}
