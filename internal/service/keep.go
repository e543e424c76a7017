package service

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/intake"
)

// KeepTyped makes a study of counts that somebody typed, and asks in it what was asked of
// them. A claim bears that it had been looked at before it was stated. Counts that no study can
// be made of, such as a mean alone, are an *InvalidError; nothing is kept then.
func (s *QuickChecks) KeepTyped(ctx context.Context, name string, spec analysis.Spec, counts analysis.Typed) (st study.Study, err error) {
	if err := counts.Check(); err != nil {
		return st, err
	}
	sheet, err := sheetOf(spec, counts)
	if err != nil {
		return st, err
	}
	raw, err := sheet.csv()
	if err != nil {
		return st, err
	}
	a, err := s.uploads.Arrive(ctx, "quick-check.csv", bytes.NewReader(raw))
	if err != nil {
		return st, err
	}
	settings := a.Settings
	settings.HeaderRow, settings.Delimiter = 1, ","
	if sheet.counted {
		settings.Shape, settings.CountColumn = intake.Counts, countName
	}
	in := NewStudy{ArrivalID: a.ID, Settings: settings, Name: name, Units: counts.Units}
	single := survey.Single
	for i, name := range sheet.names {
		kind := &single
		if !sheet.items {
			kind = &sheet.inColumns()[i].Kind
		}
		in.Choices = append(in.Choices, ColumnChoice{Name: name, Kind: kind})
	}
	if st, err = s.studies.Create(ctx, in); err != nil {
		return st, err
	}
	if err = s.settleTyped(ctx, st.ID, spec, sheet); err != nil {
		_ = s.studies.Delete(context.WithoutCancel(ctx), st.ID) // nothing half made stays
	}
	return st, err
}

// Keepable says whether a study can be made of what was typed.
func (s *QuickChecks) Keepable(spec analysis.Spec, counts analysis.Typed) bool {
	_, err := sheetOf(spec, counts)
	return err == nil && counts.DesignEffect == 0 // a study’s respondents have a design, not an effect
}

// sheet is typed counts as a file in which each line is a combination of answers.
type sheet struct {
	questions []survey.Question
	names     []string // of the columns, one for each question
	rows      [][]string
	counted   bool
	// items says that the columns are those of the items of one choose-all question.
	items bool
	// summaries are what is known of the number that the first question asks for, within the
	// answers of the only column.
	summaries []analysis.TypedSummary
}

// countName is that of the column of counts; itemChosen and itemNot stand in the column of an item.
const (
	countName  = "count"
	itemChosen = "yes"
	itemNot    = "no"
)

// named adds a column, which is called otherwise where the name is taken.
func (s *sheet) named(name, otherwise string) {
	if name == "" || slices.Contains(s.names, name) || name == countName {
		name = otherwise
	}
	s.names = append(s.names, name)
}

// chosen makes the sheet of a choose-all question: a column for each item.
func (s *sheet) chosen(typed analysis.TypedQuestion) {
	s.items, s.counted = true, true
	for i, item := range s.questions[0].Answers {
		s.named(item.Label, fmt.Sprintf("item %d", i+1))
	}
	for _, p := range typed.Patterns {
		row := make([]string, len(s.names))
		for i, item := range s.questions[0].Answers {
			row[i] = itemNot
			if slices.Contains(p.Chosen, item.Code) {
				row[i] = itemChosen
			}
		}
		s.add(p.Count, row...)
	}
}

func sheetOf(spec analysis.Spec, counts analysis.Typed) (*sheet, error) {
	out := &sheet{}
	typed := counts.Questions
	for i, key := range spec.Questions {
		q, err := counts.Question(context.Background(), key)
		if err != nil {
			return nil, err
		}
		out.questions = append(out.questions, q)
		if i == 0 && len(spec.Questions) == 2 && typed[0].Key == key {
			out.summaries = typed[0].Summaries
		}
		if q.Kind != survey.ChooseAll && (i > 0 || out.summaries == nil) {
			out.named(cmp.Or(q.Short, q.Wording), []string{"answer", "group", "layer"}[min(i, 2)])
		}
	}
	switch {
	case out.summaries != nil:
		out.counted = true
		groups := out.questions[1].Answers
		for i, s := range out.summaries {
			if i >= len(groups) || s.SD == nil || s.N < 2 {
				return nil, invalid("keep.cannot", "/counts", nil)
			}
			out.add(s.N, groups[i].Label)
		}
	case len(out.questions) == 1 && out.questions[0].Kind == survey.ChooseAll && len(typed) > 0 && typed[0].Patterns != nil:
		out.chosen(typed[0])
	case len(out.questions) == 1 && len(typed) > 0 && typed[0].Counts != nil:
		out.counted = true
		for i, n := range typed[0].Counts {
			out.add(n, out.questions[0].Answers[i].Label)
		}
	case len(out.questions) == 1 && len(typed) > 0 && len(typed[0].Values) > 0 && typed[0].ValueCounts == nil:
		for _, x := range typed[0].Values {
			out.rows = append(out.rows, []string{strconv.FormatFloat(x, 'f', -1, 64)})
		}
	case len(out.questions) > 1 && len(counts.Crosstabs) == 1:
		out.counted = true
		table := counts.Crosstabs[0]
		for k, layer := range table.Counts {
			for i, row := range layer {
				for j, n := range row {
					labels := []string{out.questions[0].Answers[j].Label, out.questions[1].Answers[i].Label}
					if len(out.questions) > 2 {
						labels = append(labels, out.questions[2].Answers[k].Label)
					}
					out.add(n, labels...)
				}
			}
		}
	default:
		return nil, invalid("keep.cannot", "/counts", nil)
	}
	return out, nil
}

// inColumns are the questions whose answers stand in the columns.
func (s *sheet) inColumns() []survey.Question {
	if s.summaries != nil {
		return s.questions[1:]
	}
	return s.questions
}

func (s *sheet) add(n int64, labels ...string) {
	if n > 0 {
		s.rows = append(s.rows, append(labels, fmt.Sprint(n)))
	}
}

func (s *sheet) csv() ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	head := slices.Clone(s.names)
	if s.counted {
		head = append(head, countName)
	}
	if err := w.WriteAll(append([][]string{head}, s.rows...)); err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	return b.Bytes(), nil
}

// settleTyped gives the questions of a new study the answers that were typed, those that nobody
// gave too, and asks what was asked.
func (s *QuickChecks) settleTyped(ctx context.Context, studyID uint64, spec analysis.Spec, from *sheet) error {
	var err error
	switch {
	case from.items:
		err = s.settleItems(ctx, studyID, spec, from)
	case from.summaries != nil:
		err = s.settleSummaries(ctx, studyID, spec, from)
	default:
		err = s.settleAnswers(ctx, studyID, spec.Questions, from)
	}
	if err != nil {
		return err
	}
	settings, err := s.relabelled(spec, from)
	if err != nil {
		return err
	}
	id, _, err := s.claims.State(ctx, studyID, settings, settings.Settings.Tests())
	if err != nil || !settings.Settings.Tests() {
		return err
	}
	return s.change(ctx, studyID, Title{To: study.ToAsk, ID: "quick", Values: document.Values{}}, func(d *draft) error {
		return d.store.AddChanges(d.ctx, studyID, []study.Change{{Subject: study.OfClaim, SubjectID: id, Field: "quick", AfterRun: true}})
	})
}

// settleItems reads the columns of the items as one choose-all question.
func (s *QuickChecks) settleItems(ctx context.Context, studyID uint64, spec analysis.Spec, from *sheet) error {
	page, err := s.codebooks.Codebook(ctx, studyID)
	if err != nil {
		return err
	}
	together := survey.Derivation{Rule: survey.Together}
	for _, q := range page.Questions {
		if !slices.Contains(from.names, q.Name) {
			continue
		}
		var chosen []survey.Slot
		for _, a := range q.Answers {
			if a.Code == itemChosen {
				chosen = append(chosen, a.Slot)
			}
		}
		if len(chosen) == 0 { // nobody chose it, so that the file holds no such answer
			edit := QuestionEdit{NewAnswer: &NewAnswer{itemChosen, itemChosen}}
			if err := s.codebooks.EditQuestion(ctx, studyID, q.ID, q.Version, edit); err != nil {
				return err
			}
			kept, err := s.keptQuestion(ctx, studyID, q.ID)
			if err != nil {
				return err
			}
			chosen = append(chosen, kept.Answers[len(kept.Answers)-1].Slot)
		}
		together.Sources, together.Chosen = append(together.Sources, q.ID), append(together.Chosen, chosen)
	}
	q := from.questions[0]
	id, err := s.codebooks.AddDerived(ctx, studyID, DerivedEdit{Wording: cmp.Or(q.Short, q.Wording), Derivation: together})
	spec.Questions[0] = KeyOf(id)
	return err
}

// settleSummaries adds the number of which only summaries are known, behind that of the groups.
func (s *QuickChecks) settleSummaries(ctx context.Context, studyID uint64, spec analysis.Spec, from *sheet) error {
	if err := s.settleAnswers(ctx, studyID, spec.Questions[1:], from); err != nil {
		return err
	}
	by, _ := idOf(spec.Questions[1])
	groups, err := s.keptQuestion(ctx, studyID, by)
	if err != nil {
		return err
	}
	d := survey.Derivation{Rule: survey.Summaries, Sources: []uint64{by}}
	for i, one := range from.summaries {
		for _, a := range groups.Answers {
			if a.Code == from.questions[1].Answers[i].Label {
				d.Summaries = append(d.Summaries, survey.GroupSummary{Answer: a.Slot, N: one.N, Mean: float64(one.Mean), SD: float64(*one.SD)})
			}
		}
	}
	q := from.questions[0]
	id, err := s.codebooks.AddDerived(ctx, studyID, DerivedEdit{Wording: cmp.Or(q.Short, q.Wording, s.words.Text("kept.number", nil)), Derivation: d})
	spec.Questions[0] = KeyOf(id)
	return err
}

// settleAnswers gives the questions their answers in their order, and keys their keys.
func (s *QuickChecks) settleAnswers(ctx context.Context, studyID uint64, keys []analysis.Key, from *sheet) error {
	for i, q := range from.inColumns() {
		page, err := s.codebooks.Codebook(ctx, studyID)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(page.Questions, func(one study.Question) bool { return one.Name == from.names[i] })
		if at < 0 {
			return invalid("keep.cannot", "/counts", nil)
		}
		kept := page.Questions[at]
		keys[i] = KeyOf(kept.ID)
		for _, a := range q.Answers {
			if !slices.ContainsFunc(kept.Answers, func(k survey.Answer) bool { return k.Code == a.Label }) {
				if err := s.codebooks.EditQuestion(ctx, studyID, kept.ID, kept.Version, QuestionEdit{NewAnswer: &NewAnswer{a.Label, a.Label}}); err != nil {
					return err
				}
				if kept, err = s.keptQuestion(ctx, studyID, kept.ID); err != nil {
					return err
				}
			}
		}
		e := QuestionEdit{}
		if q.Short != "" {
			e.Short = &q.Short
		}
		for _, a := range q.Answers {
			for _, k := range kept.Answers {
				if k.Code == a.Label {
					e.Answers = append(e.Answers, AnswerEdit{Slot: k.Slot, Label: k.Label, Missing: k.Missing, SameAs: k.SameAs})
				}
			}
		}
		for _, k := range kept.Answers {
			if !slices.ContainsFunc(e.Answers, func(a AnswerEdit) bool { return a.Slot == k.Slot }) {
				e.Answers = append(e.Answers, AnswerEdit{Slot: k.Slot, Label: k.Label, Missing: k.Missing, SameAs: k.SameAs})
			}
		}
		if err := s.codebooks.EditQuestion(ctx, studyID, kept.ID, kept.Version, e); err != nil {
			return err
		}
	}
	return nil
}

func (s *QuickChecks) keptQuestion(ctx context.Context, studyID, id uint64) (study.Question, error) {
	page, err := s.codebooks.Codebook(ctx, studyID)
	if err != nil {
		return study.Question{}, err
	}
	for _, q := range page.Questions {
		if q.ID == id {
			return q, nil
		}
	}
	return study.Question{}, study.ErrNotFound
}

// relabelled names the answers of a spec as the study does, by their labels.
func (s *QuickChecks) relabelled(spec analysis.Spec, from *sheet) (out analysis.Spec, err error) {
	raw, err := json.Marshal(spec)
	if err != nil {
		return out, fmt.Errorf("service: %w", err)
	}
	var all struct {
		Method    string         `json:"method"`
		Version   int            `json:"version"`
		Questions []analysis.Key `json:"questions"`
		Settings  map[string]any `json:"settings"`
	}
	if err := json.Unmarshal(raw, &all); err != nil {
		return out, fmt.Errorf("service: %w", err)
	}
	label := func(question int, code any) any {
		for i, a := range from.questions[min(question, len(from.questions)-1)].Answers {
			switch {
			case a.Code == code && from.items:
				return from.names[i]
			case a.Code == code:
				return a.Label
			}
		}
		return code
	}
	if list, ok := all.Settings["success"].([]any); ok {
		for i := range list {
			list[i] = label(0, list[i])
		}
	}
	if groups, ok := all.Settings["groups"].(map[string]any); ok {
		for member, code := range groups {
			groups[member] = label(1, code)
		}
	}
	if entered, ok := all.Settings["shares"].(map[string]any); ok {
		list, _ := entered["figures"].([]any)
		for _, one := range list {
			if figure, ok := one.(map[string]any); ok {
				figure["code"] = label(0, figure["code"])
			}
		}
	}
	if raw, err = json.Marshal(all); err != nil {
		return out, fmt.Errorf("service: %w", err)
	}
	return s.methods.Spec(raw)
}
