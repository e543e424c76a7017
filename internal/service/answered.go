package service

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
)

// answeredNotes are the notes that were answered, by analysis and rule, each with its reason.
type answeredNotes map[uint64]map[string]string

// keptAnswers are the answered notes as they are kept. Rules is which names the rules bear: before
// they were numbered those of a method were called otherwise.
type keptAnswers struct {
	Rules    int           `json:"rules"`
	Answered answeredNotes `json:"answered"`
}

// rulesNow numbers the names that rules bear.
const rulesNow = 2

// renamed are the methods whose rules were called otherwise.
var renamed = map[string]string{
	"gof": "goodness_of_fit", "one_share": "one_proportion", "crossing": "crosstab", "crossings": "crosstabs", "intervals": "simultaneous_intervals",
	"ordered_groups": "ordered", "ordered": "ordered_summary", "chosen_items": "cochran_q", "two_means": "means", "two_shares": "two_proportions",
	"near": "equivalence", "two_samples": "homogeneity", "layers": "mantel_haenszel", "numbers": "numeric_summary", "responses": "multiple_response",
	"responses_by": "multiple_response_by_group", "summaries": "numeric_comparison",
}

// named gives rules the names that they bear now.
func (a answeredNotes) named(rules int) answeredNotes {
	if rules >= rulesNow {
		return a
	}
	out := answeredNotes{}
	for id, notes := range a {
		out[id] = map[string]string{}
		for rule, reason := range notes {
			if method, rest, ok := strings.Cut(strings.TrimPrefix(rule, "note."), "."); ok && renamed[method] != "" {
				rule = "note." + renamed[method] + "." + rest
			}
			out[id][rule] = reason
		}
	}
	return out
}

func answeredOf(parts []study.Part) (study.Part, answeredNotes, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		var kept keptAnswers
		err := json.Unmarshal([]byte(p.Definition), &kept)
		if err == nil && kept.Rules == 0 {
			err = json.Unmarshal([]byte(p.Definition), &kept.Answered)
		}
		if err != nil {
			return p, nil, fmt.Errorf("service: answered notes %d: %w", p.ID, err)
		}
		return p, kept.Answered.named(kept.Rules), nil
	}
	return study.Part{Kind: study.Answered, Name: "answered"}, answeredNotes{}, nil
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
	title := Title{To: study.ToAsk, ID: id, Values: document.Values{}}
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
		if part.Definition, err = jsonText(keptAnswers{rulesNow, all}); err != nil {
			return err
		}
		_, err = d.part(part)
		return err
	})
}
