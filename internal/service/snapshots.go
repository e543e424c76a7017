package service

import (
	"encoding/json"
	"fmt"

	"widetally/core/study"
	"widetally/core/survey"
)

// Snapshots are what the line of undo keeps of a subject. They have a form of their own
// with a version, so that renaming a member of the program's own types changes nothing that
// is kept. Version 1 had no version: the members of those types by their names at that
// time; it is read, and never written.

const snapshotVersion = 2

type questionSnapshot struct {
	Version    int                `json:"version"`
	ID         uint64             `json:"id"`
	StudyID    uint64             `json:"studyId"`
	Name       string             `json:"name"`
	Wording    string             `json:"wording"`
	Short      string             `json:"short"`
	Note       string             `json:"note"`
	Section    string             `json:"section"`
	Kind       survey.Kind        `json:"kind"`
	KindReason string             `json:"kindReason"`
	Answers    []answerSnapshot   `json:"answers"`
	Base       *survey.Condition  `json:"base"`
	Derivation *survey.Derivation `json:"derivation"`
	ListID     *uint64            `json:"listId"`
	Generation int                `json:"generation"`
	Deleted    bool               `json:"deleted"`
}

type answerSnapshot struct {
	Slot    survey.Slot  `json:"slot"`
	Code    string       `json:"code"`
	Label   string       `json:"label"`
	Missing string       `json:"missing"`
	SameAs  *survey.Slot `json:"sameAs"`
	Score   *float64     `json:"score"`
	From    *float64     `json:"from"`
	To      *float64     `json:"to"`
}

type partSnapshot struct {
	Version    int            `json:"version"`
	ID         uint64         `json:"id"`
	StudyID    uint64         `json:"studyId"`
	Kind       study.PartKind `json:"kind"`
	Name       string         `json:"name"`
	Definition string         `json:"definition"`
	Deleted    bool           `json:"deleted"`
}

type studySnapshot struct {
	Version       int     `json:"version"`
	Rows          int64   `json:"rows"`
	CountQuestion *uint64 `json:"countQuestion"`
}

type analysisSnapshot struct {
	Version   int             `json:"version"`
	Spec      json.RawMessage `json:"spec"`
	Withdrawn bool            `json:"withdrawn"`
}

func snapshotText(v any) (string, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return "", fmt.Errorf("service: history: %w", err)
	}
	return string(raw), nil
}

// stateOf is a question as the history keeps it: what it says, without what only
// tells where and how often.
func stateOf(q study.Question) (snapshot, error) {
	out := questionSnapshot{snapshotVersion, q.ID, q.StudyID, q.Name, q.Wording, q.Short, q.Note, q.Section, q.Kind, q.KindReason, make([]answerSnapshot, len(q.Answers)), q.Base, q.Derivation, q.ListID, q.Generation, q.Deleted}
	for i, a := range q.Answers {
		out.Answers[i] = answerSnapshot(a)
	}
	text, err := snapshotText(out)
	return snapshot{text, q.Generation}, err
}

// readQuestion reads the snapshot of a question.
func readQuestion(state string) (study.Question, error) {
	var in questionSnapshot
	version, err := readSnapshot(state, &in)
	if err != nil {
		return study.Question{}, err
	}
	if version == 1 {
		return readQuestion1(state)
	}
	q := study.Question{ID: in.ID, StudyID: in.StudyID, KindReason: in.KindReason, ListID: in.ListID, Generation: in.Generation, Deleted: in.Deleted,
		Question: survey.Question{Name: in.Name, Wording: in.Wording, Short: in.Short, Note: in.Note, Section: in.Section, Kind: in.Kind, Base: in.Base, Derivation: in.Derivation, Answers: make([]survey.Answer, len(in.Answers))}}
	for i, a := range in.Answers {
		q.Answers[i] = survey.Answer(a)
	}
	return q, nil
}

// readSnapshot reads a snapshot and tells its version.
func readSnapshot(state string, into any) (int, error) {
	var form struct {
		Version int `json:"version"`
		// Old is the version of the subject that a snapshot of version 1 held under this
		// name, which is 0 there.
		Old *int `json:"Version"`
	}
	if err := json.Unmarshal([]byte(state), &form); err != nil {
		return 0, fmt.Errorf("service: history: %w", err)
	}
	switch form.Version {
	case 0:
		return 1, nil
	case snapshotVersion:
		if err := json.Unmarshal([]byte(state), into); err != nil {
			return 0, fmt.Errorf("service: history: %w", err)
		}
		return snapshotVersion, nil
	}
	return 0, fmt.Errorf("service: history: a snapshot of version %d", form.Version)
}

// readQuestion1 reads a question of version 1.
func readQuestion1(state string) (study.Question, error) {
	var in struct {
		ID, StudyID                                     uint64
		Name, Wording, Short, Note, Section, KindReason string
		Kind                                            survey.Kind
		Base                                            *survey.Condition
		Derivation                                      *survey.Derivation
		ListID                                          *uint64
		Generation                                      int
		Deleted                                         bool
		Answers                                         []struct {
			Slot                 survey.Slot
			Code, Label, Missing string
			SameAs               *survey.Slot
			Score, From, To      *float64
		}
	}
	if err := json.Unmarshal([]byte(state), &in); err != nil {
		return study.Question{}, fmt.Errorf("service: history: %w", err)
	}
	q := study.Question{ID: in.ID, StudyID: in.StudyID, KindReason: in.KindReason, ListID: in.ListID, Generation: in.Generation, Deleted: in.Deleted,
		Question: survey.Question{Name: in.Name, Wording: in.Wording, Short: in.Short, Note: in.Note, Section: in.Section, Kind: in.Kind, Base: in.Base, Derivation: in.Derivation}}
	for _, a := range in.Answers {
		q.Answers = append(q.Answers, survey.Answer{Slot: a.Slot, Code: a.Code, Label: a.Label, Missing: a.Missing, SameAs: a.SameAs, Score: a.Score, From: a.From, To: a.To})
	}
	return q, nil
}

func partState(p study.Part) (snapshot, error) {
	text, err := snapshotText(partSnapshot{snapshotVersion, p.ID, p.StudyID, p.Kind, p.Name, p.Definition, p.Deleted})
	return snapshot{state: text}, err
}

func readPart(state string) (study.Part, error) {
	var in partSnapshot
	version, err := readSnapshot(state, &in)
	if err == nil && version == 1 {
		var old struct {
			ID, StudyID      uint64
			Kind             study.PartKind
			Name, Definition string
			Deleted          bool
		}
		err = json.Unmarshal([]byte(state), &old)
		in = partSnapshot{1, old.ID, old.StudyID, old.Kind, old.Name, old.Definition, old.Deleted}
	}
	return study.Part{ID: in.ID, StudyID: in.StudyID, Kind: in.Kind, Name: in.Name, Definition: in.Definition, Deleted: in.Deleted}, err
}

func studyState(st study.Study) (snapshot, error) {
	text, err := snapshotText(studySnapshot{snapshotVersion, st.Rows, st.CountQuestion})
	return snapshot{state: text}, err
}

func readStudy(state string) (rows int64, countQuestion *uint64, err error) {
	var in studySnapshot
	version, err := readSnapshot(state, &in)
	if err == nil && version == 1 {
		var old struct {
			Rows          int64
			CountQuestion *uint64
		}
		err = json.Unmarshal([]byte(state), &old)
		in = studySnapshot{1, old.Rows, old.CountQuestion}
	}
	return in.Rows, in.CountQuestion, err
}

func analysisState(a study.Analysis) (snapshot, error) {
	text, err := snapshotText(analysisSnapshot{snapshotVersion, json.RawMessage(a.Spec), a.WithdrawnAt != nil})
	return snapshot{state: text}, err
}

func readAnalysis(state string) (spec string, withdrawn bool, err error) {
	var in analysisSnapshot
	_, err = readSnapshot(state, &in)
	return string(in.Spec), in.Withdrawn, err
}
