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
	"os"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/service"
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
	Short   string            `json:"short"`
	Kind    survey.Kind       `json:"kind"`
	Labels  map[string]string `json:"labels"`  // by code
	Order   []string          `json:"order"`   // codes in the order to show
	Missing map[string]string `json:"missing"` // reason by code
	Section string            `json:"section"`
	// AskedOf names the column whose code AskedCode decided whether this was asked.
	AskedOf   string `json:"askedOf"`
	AskedCode string `json:"askedCode"`
}

// groupText is a named condition: one of these codes in a column.
type groupText struct {
	Name   string   `json:"name"`
	Column string   `json:"column"`
	Codes  []string `json:"codes"`
}

// setText is a choose-all question made of columns whose code Chosen means chosen.
type setText struct {
	Wording string   `json:"wording"`
	Short   string   `json:"short"`
	Columns []string `json:"columns"`
	Chosen  string   `json:"chosen"`
}

// listText is a shared list made of the answers of the first of its columns.
type listText struct {
	Name    string   `json:"name"`
	Columns []string `json:"columns"`
}

type claimText struct {
	Column     string              `json:"column"`
	Source     string              `json:"source"`
	SourceDate string              `json:"sourceDate"`
	Kind       claim.ReferenceKind `json:"kind"`
	Scale      shares.Scale        `json:"scale"`
	Level      float64             `json:"level"`
	Role       claim.Role          `json:"role"`
	Shares     map[string]string   `json:"shares"` // by label
}

// Load makes the demo study with its report and its table book, unless the shelf already holds something. The file mark
// stands while it is being made: one that is found tells of a start that was ended on
// the way, whose half-made study is put away first.
func Load(ctx context.Context, s *service.Places, mark string) error {
	list, err := s.Studies.List(ctx)
	if err != nil {
		return err
	}
	if _, err := os.Stat(mark); err == nil {
		for _, st := range list {
			if err := s.Studies.Delete(ctx, st.ID); err != nil {
				return fmt.Errorf("demo: %w", err)
			}
		}
		list = nil
	}
	if len(list) > 0 {
		return nil
	}
	if err := os.WriteFile(mark, nil, 0o600); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	st, err := Make(ctx, s)
	if err != nil {
		return err
	}
	if err := Waves(ctx, s); err != nil { // before the report, so that the study that one opens first was edited last
		return err
	}
	if err := Report(ctx, s, st); err != nil {
		return err
	}
	if err := Tables(ctx, s, st); err != nil {
		return err
	}
	return os.Remove(mark)
}

// Make makes the demo study.
func Make(ctx context.Context, s *service.Places) (study.Study, error) {
	var book struct {
		Name      string                  `json:"name"`
		Units     string                  `json:"units"`
		Questions map[string]questionText `json:"questions"`
		Claims    []claimText             `json:"claims"`
		Sets      []setText               `json:"sets"`
		Lists     []listText              `json:"lists"`
		Subgroups []groupText             `json:"subgroups"`
		// Described names its questions as the file does.
		Described []analysis.Spec `json:"described"`
		// Stated holds a claim of each further kind, named in the same way.
		Stated []analysis.Spec `json:"stated"`
		Shares []shares.Set    `json:"shares"`
	}
	if err := json.Unmarshal(codebook, &book); err != nil {
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	for _, list := range [][]analysis.Spec{book.Described, book.Stated} {
		for i := range list {
			if err := s.Methods().Resolve(&list[i]); err != nil {
				return study.Study{}, fmt.Errorf("demo: %w", err)
			}
		}
	}
	a, err := s.Uploads.Arrive(ctx, "fernmouth.csv", bytes.NewReader(CSV))
	if err != nil {
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	st, err := s.Studies.Create(ctx, service.NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: book.Name, Units: book.Units})
	if err != nil {
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	page, err := s.Codebooks.Codebook(ctx, st.ID)
	if err != nil {
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	shelf, err := shelve(ctx, s, book.Shares)
	if err != nil {
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	columns := byName(page.Questions)
	for _, q := range page.Questions {
		text, ok := book.Questions[q.Name]
		if !ok {
			return study.Study{}, fmt.Errorf("demo: the codebook lacks %q", q.Name)
		}
		if err := s.Codebooks.EditQuestion(ctx, st.ID, q.ID, q.Version, text.edit(q, columns)); err != nil {
			return study.Study{}, fmt.Errorf("demo: question %q: %w", q.Name, err)
		}
		for _, c := range book.Claims {
			if c.Column != q.Name {
				continue
			}
			if err := c.state(ctx, s, st.ID, q.ID, shelf[c.Source]); err != nil {
				return study.Study{}, fmt.Errorf("demo: claim about %q: %w", q.Name, err)
			}
		}
	}
	short := map[uint64]string{}
	for _, set := range book.Sets {
		id, err := s.Codebooks.AddDerived(ctx, st.ID, set.derived(columns))
		if err != nil {
			return study.Study{}, fmt.Errorf("demo: %q: %w", set.Wording, err)
		}
		short[id] = set.Short
	}
	for _, g := range book.Subgroups {
		if _, err := s.Codebooks.SaveSubgroup(ctx, st.ID, 0, 0, service.SubgroupEdit{Name: g.Name, Condition: anyOf(columns[g.Column], g.Codes...)}); err != nil {
			return study.Study{}, fmt.Errorf("demo: %q: %w", g.Name, err)
		}
	}
	if page, err = s.Codebooks.Codebook(ctx, st.ID); err != nil { // with the sets, by their wording
		return study.Study{}, fmt.Errorf("demo: %w", err)
	}
	columns = byName(page.Questions)
	for _, q := range page.Questions {
		if text := short[q.ID]; text != "" {
			if err := s.Codebooks.EditQuestion(ctx, st.ID, q.ID, q.Version, service.QuestionEdit{Short: &text}); err != nil {
				return study.Study{}, fmt.Errorf("demo: %q: %w", q.Name, err)
			}
		}
	}
	for _, list := range book.Lists {
		e := service.BulkEdit{MakeList: list.Name}
		for _, name := range list.Columns {
			e.Questions = append(e.Questions, service.Versioned{ID: columns[name].ID, Version: columns[name].Version})
		}
		if err := s.Codebooks.EditMany(ctx, st.ID, e); err != nil {
			return study.Study{}, fmt.Errorf("demo: list %q: %w", list.Name, err)
		}
	}
	for _, spec := range slices.Concat(book.Described, book.Stated) {
		for i, name := range spec.Questions {
			spec.Questions[i] = service.KeyOf(columns[string(name)].ID)
		}
		if _, _, err := s.Claims.State(ctx, st.ID, spec, spec.Settings.Tests()); err != nil {
			return study.Study{}, fmt.Errorf("demo: %s: %w", spec.Method, err)
		}
	}
	return st, s.UndoLine.Settle(ctx, st.ID)
}

func byName(questions []study.Question) map[string]study.Question {
	m := map[string]study.Question{}
	for _, q := range questions {
		m[q.Name] = q
	}
	return m
}

// slots finds the answers with these codes.
func slots(q study.Question, codes ...string) (out []survey.Slot) {
	for _, a := range q.Answers {
		if slices.Contains(codes, a.Code) {
			out = append(out, a.Slot)
		}
	}
	return out
}

func anyOf(q study.Question, codes ...string) survey.Condition {
	return survey.Condition{Op: survey.AnyOf, Question: q.ID, Answers: slots(q, codes...)}
}

func (t setText) derived(columns map[string]study.Question) service.DerivedEdit {
	d := survey.Derivation{Rule: survey.Together}
	for _, name := range t.Columns {
		d.Sources = append(d.Sources, columns[name].ID)
		d.Chosen = append(d.Chosen, slots(columns[name], t.Chosen))
	}
	return service.DerivedEdit{Wording: t.Wording, Derivation: d}
}

// edit turns the codebook's text into an edit; answers that it does not name keep
// their label and come after those that it orders.
func (t questionText) edit(q study.Question, columns map[string]study.Question) service.QuestionEdit {
	e := service.QuestionEdit{Wording: &t.Wording, Short: &t.Short, Section: &t.Section}
	if t.AskedOf != "" {
		asked := anyOf(columns[t.AskedOf], t.AskedCode)
		e.Base = &asked
	}
	if t.Kind != "" && t.Kind != q.Kind {
		e.Kind = &t.Kind
	}
	rank := map[string]int{}
	for i, code := range t.Order {
		rank[code] = i + 1
	}
	var ordered, rest []service.AnswerEdit
	ordered = make([]service.AnswerEdit, 0, len(q.Answers))
	place := func(a survey.Answer) service.AnswerEdit {
		out := service.AnswerEdit{Slot: a.Slot, Label: a.Label, Missing: a.Missing, SameAs: a.SameAs}
		if label, ok := t.Labels[a.Code]; ok {
			out.Label = label
		}
		if reason, ok := t.Missing[a.Code]; ok {
			out.Missing = reason
		}
		return out
	}
	byRank := map[int]service.AnswerEdit{}
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
	if t.Kind != survey.Text { // which has none
		e.Answers = append(ordered, rest...)
	}
	return e
}

// shelve puts the demo's shares on the shelf, unless something is there, and returns by title
// which they are.
func shelve(ctx context.Context, s *service.Places, sets []shares.Set) (map[string]*analysis.OnShelf, error) {
	there, err := s.Shares.ShareSets(ctx)
	if err != nil || len(there) > 0 {
		return nil, err
	}
	out := map[string]*analysis.OnShelf{}
	for _, set := range sets {
		made, err := s.Shares.AddShareSet(ctx, set)
		if err != nil {
			return nil, err
		}
		out[set.Title] = &analysis.OnShelf{Set: made.ID, Version: made.Version}
	}
	return out, nil
}

func (c claimText) state(ctx context.Context, s *service.Places, studyID, questionID uint64, shelf *analysis.OnShelf) error {
	q, err := s.Toplines.Question(ctx, studyID, questionID, nil)
	if err != nil {
		return err
	}
	settings := &goodnessoffit.Settings{Shares: analysis.ExpectedShares{Scale: c.Scale, Source: analysis.Reference{Kind: c.Kind, Title: c.Source, Date: c.SourceDate, Shelf: shelf}}, Role: c.Role, Level: analysis.Level(c.Level)}
	for _, a := range q.Answers {
		if f, ok := c.Shares[a.Label]; ok {
			settings.Shares.Figures = append(settings.Shares.Figures, analysis.CategoryFigure{Code: a.Code, Figure: f})
		}
	}
	_, _, err = s.Claims.State(ctx, studyID, analysis.Spec{Method: "goodness-of-fit", Version: 1, Questions: []analysis.Key{service.KeyOf(questionID)}, Settings: settings}, true)
	return err
}
