package analysis

import (
	"context"
	"slices"

	"widetally/core/design"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Typed is a source of counts that somebody typed or that came with a request: no
// respondents, no subgroups.
type Typed struct {
	// Units is what is counted, in the plural: "households".
	Units     string          `json:"units,omitempty"`
	Questions []TypedQuestion `json:"questions"`
	Crosstabs []TypedCrosstab `json:"crosstabs,omitempty"`
	// DesignEffect is how many times the variance of a simple random sample theirs is, by which the
	// population is estimated; 0 counts respondents.
	DesignEffect float64 `json:"designEffect,omitempty"`
}

// TypedQuestion is a question with its counts. They may be left out where a crosstab holds
// them in its margin.
type TypedQuestion struct {
	Key Key `json:"key"`
	// Wording is the key where absent; "" names no question in sentences.
	Wording *string `json:"wording,omitempty"`
	Short   string  `json:"short,omitempty"`
	// Kind is single, ordered, choose_all, discrete or continuous; single where absent.
	Kind       survey.Kind     `json:"kind,omitempty"`
	Categories []TypedCategory `json:"categories,omitempty"`
	// Counts has the length of the categories.
	Counts []int64 `json:"counts,omitempty"`
	// Chosen is, for a choose-all question, how many respondents chose 0, 1, 2 … answers.
	Chosen []int64 `json:"chosen,omitempty"`
	// Patterns are, for a choose-all question, the combinations that were chosen; counts follow
	// from them.
	Patterns []TypedPattern `json:"patterns,omitempty"`
	// Values and ValueCounts are, for a number, the numbers and how often each was given.
	Values      NumberList `json:"values,omitempty"`
	ValueCounts []int64    `json:"valueCounts,omitempty"`
	// Summaries are, for a number of which only these are known, one, or one for each category
	// of the question of the groups.
	Summaries []TypedSummary `json:"summaries,omitempty"`
}

// TypedSummary is what is known of numbers; without a standard deviation that of the
// population has to be.
type TypedSummary struct {
	N    int64   `json:"n"`
	Mean Number  `json:"mean"`
	SD   *Number `json:"sd,omitempty"`
}

func (s TypedSummary) summary() *tally.Summary {
	return &tally.Summary{N: s.N, Mean: float64(s.Mean), SD: (*float64)(s.SD)}
}

// TypedPattern is one combination of answers, by code, and how many respondents chose it.
type TypedPattern struct {
	Chosen []string `json:"chosen"`
	Count  int64    `json:"count"`
}

// TypedCategory is one answer.
type TypedCategory struct {
	Code  string `json:"code"`
	Label string `json:"label,omitempty"`
	// Missing is the reason why it does not count as answered; "" for a proper answer.
	Missing string `json:"missing,omitempty"`
	// Score is the number that an ordered answer stands for, where somebody declared it.
	Score *float64 `json:"score,omitempty"`
	// From and To are the limits of an answer that is a class of numbers.
	From *float64 `json:"from,omitempty"`
	To   *float64 `json:"to,omitempty"`
}

// name is the label, or else the code.
func (c TypedCategory) name() string {
	if c.Label == "" {
		return c.Code
	}
	return c.Label
}

// TypedCrosstab is the counts of two questions crossed.
type TypedCrosstab struct {
	Rows    Key `json:"rows"`
	Columns Key `json:"columns"`
	// Layers is a third question; Counts then holds a table for each of its categories, else
	// a single one.
	Layers Key         `json:"layers,omitempty"`
	Counts [][][]int64 `json:"counts"`
}

var _ Source = Typed{}

func (t Typed) find(key Key) (TypedQuestion, survey.Question, error) {
	for _, q := range t.Questions {
		if q.Key != key {
			continue
		}
		out := survey.Question{Name: string(q.Key), Wording: string(q.Key), Short: q.Short, Kind: q.Kind}
		if q.Wording != nil {
			out.Wording = *q.Wording
		}
		if out.Kind == "" {
			out.Kind = survey.Single
		}
		for i, c := range q.Categories {
			out.Answers = append(
				out.Answers,
				survey.Answer{
					Slot:    survey.Slot(i + 1),
					Code:    c.Code,
					Label:   c.name(),
					Missing: c.Missing,
					Score:   c.Score,
					From:    c.From,
					To:      c.To,
				},
			)
		}
		return q, out, nil
	}
	return TypedQuestion{}, survey.Question{}, unknown(key)
}

// Drawn implements Source: of typed counts a design effect is all that can be told.
func (t Typed) Drawn() *Drawn {
	if t.DesignEffect == 0 {
		return nil
	}
	return &Drawn{effect: t.DesignEffect}
}

// Cells implements Source.
func (t Typed) Cells(ctx context.Context, questions []Key, subgroup Key) (*design.Cells, error) {
	if !(t.DesignEffect > 0 && t.DesignEffect <= 1000) {
		return nil, Refused("plan.effect", "/designEffect", nil)
	}
	var counts []int64
	switch len(questions) {
	case 1:
		f, err := t.Frequencies(ctx, questions[0], subgroup)
		if err != nil {
			return nil, err
		}
		counts = ProperCounts(f)
	case 2, 3:
		layers := Key("")
		if len(questions) == 3 {
			layers = questions[2]
		}
		x, err := t.Crosstab(ctx, questions[1], questions[0], layers, subgroup)
		if err != nil {
			return nil, err
		}
		tables := [][][]int64{}
		if layers == "" {
			tables = append(tables, x.Proper(0))
		} else {
			for _, k := range x.Layers.Proper() {
				tables = append(tables, x.Proper(k))
			}
		}
		for j := range tables[0][0] {
			for i := range tables[0] {
				for _, table := range tables {
					counts = append(counts, table[i][j])
				}
			}
		}
	default:
		return nil, Refused("design.no_form_typed", "/method", nil)
	}
	return design.Counted(counts, t.DesignEffect)
}

// Drawing implements Source.
func (Typed) Drawing(context.Context, Key, Key, Key) (*Drawing, error) {
	return nil, Refused("design.no_form_typed", "/method", nil)
}

// Items implements Source.
func (Typed) Items(context.Context, Key, Key, Key) ([]*design.Items, error) {
	return nil, ErrUnknownKey
}

// StrataNames implements Source.
func (Typed) StrataNames(context.Context) ([]string, error) { return nil, nil }

// Question implements Source.
func (t Typed) Question(_ context.Context, q Key) (survey.Question, error) {
	_, out, err := t.find(q)
	return out, err
}

// Frequencies implements Source.
func (t Typed) Frequencies(ctx context.Context, q, subgroup Key) (*tally.Frequency, error) {
	typed, question, err := t.find(q)
	if err != nil || subgroup != "" {
		return nil, firstOf(err, unknown(subgroup))
	}
	counts, chosen := typed.totals()
	if counts == nil {
		if counts, err = t.margin(ctx, q); err != nil {
			return nil, err
		}
	}
	return tally.FromCounts(question, counts, chosen), nil
}

func firstOf(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// margin adds up the crosstab in which a question stands.
func (t Typed) margin(ctx context.Context, q Key) ([]int64, error) {
	for _, x := range t.Crosstabs {
		if x.Rows != q && x.Columns != q {
			continue
		}
		c, err := t.Crosstab(ctx, x.Rows, x.Columns, x.Layers, "")
		if err != nil {
			return nil, err
		}
		c = c.Pooled()
		side := c.Rows
		if x.Columns == q {
			side = c.Columns
		}
		counts := make([]int64, len(side.Answers))
		for i := range c.Rows.Answers {
			for j := range c.Columns.Answers {
				at := i
				if x.Columns == q {
					at = j
				}
				counts[at] += c.At(0, i, j).N
			}
		}
		return counts, nil
	}
	return nil, unknown(q)
}

// Crosstab implements Source. A table may be asked for with its sides exchanged.
func (t Typed) Crosstab(_ context.Context, rows, columns, layers, subgroup Key) (*tally.Crosstab, error) {
	if subgroup != "" {
		return nil, unknown(subgroup)
	}
	for _, x := range t.Crosstabs {
		straight := x.Rows == rows && x.Columns == columns
		if !straight && (x.Rows != columns || x.Columns != rows) || layers != "" && layers != x.Layers {
			continue
		}
		_, r, err := t.find(rows)
		if err != nil {
			return nil, err
		}
		_, c, err := t.find(columns)
		if err != nil {
			return nil, err
		}
		out := &tally.Crosstab{Rows: tally.Axis{Answers: r.Answers}, Columns: tally.Axis{Answers: c.Answers}}
		if x.Layers != "" {
			_, l, err := t.find(x.Layers)
			if err != nil {
				return nil, err
			}
			out.Layers = &tally.Axis{Answers: l.Answers}
		}
		for _, table := range x.Counts {
			for i := range r.Answers {
				for j := range c.Answers {
					n := int64(0)
					if straight {
						n = table[i][j]
					} else {
						n = table[j][i]
					}
					out.Cells = append(out.Cells, tally.Cell{N: n})
				}
			}
		}
		if layers == "" {
			out = out.Pooled()
		}
		return out, nil
	}
	return nil, unknown(rows)
}

// MultipleResponse implements Source. Without how many chose how much, everybody is taken
// to have chosen once.
func (t Typed) MultipleResponse(ctx context.Context, q, subgroup Key) (*tally.MultipleResponse, error) {
	typed, _, err := t.find(q)
	if err != nil {
		return nil, err
	}
	f, err := t.Frequencies(ctx, q, subgroup)
	if err != nil {
		return nil, err
	}
	_, chosen := typed.totals()
	m := &tally.MultipleResponse{Frequency: f, Chosen: chosen}
	for _, r := range f.Rows {
		m.Responses += r.Count
	}
	for _, p := range typed.Patterns {
		m.Patterns = append(m.Patterns, tally.Pattern{Set: typed.set(p), Count: p.Count})
	}
	return m, nil
}

// set is a pattern as a column holds it: a bit for each category, by its place from 1.
func (q TypedQuestion) set(p TypedPattern) (set uint64) {
	for i, c := range q.Categories {
		if slices.Contains(p.Chosen, c.Code) {
			set |= 1 << (i + 1)
		}
	}
	return set
}

// totals gives how many gave each answer, nil where that is not said, and how many chose
// 0, 1, 2 … of them; both follow from the patterns where only these are there.
func (q TypedQuestion) totals() (counts, chosen []int64) {
	if q.Counts != nil || q.Patterns == nil {
		return q.Counts, q.Chosen
	}
	counts = make([]int64, len(q.Categories))
	for _, p := range q.Patterns {
		n := 0
		for i, c := range q.Categories {
			if slices.Contains(p.Chosen, c.Code) {
				counts[i] += p.Count
				n++
			}
		}
		chosen = append(chosen, make([]int64, max(0, n+1-len(chosen)))...)
		chosen[n] += p.Count
	}
	return counts, chosen
}

// Descriptives implements Source.
func (t Typed) Descriptives(_ context.Context, q, subgroup Key) (*tally.Summary, error) {
	typed, _, err := t.find(q)
	if err != nil || subgroup != "" {
		return nil, firstOf(err, unknown(subgroup))
	}
	if len(typed.Summaries) == 1 {
		return typed.Summaries[0].summary(), nil
	}
	return tally.SummariseNumbers(
		tally.NumbersInput{
			Values:     typed.Values,
			Counts:     typed.ValueCounts,
			Percents:   []float64{25, 50, 75},
			Confidence: UsualConfidence,
		},
	)
}

// MultipleResponseBy implements Source: counts do not tell who chose what in which group.
func (Typed) MultipleResponseBy(_ context.Context, _, groups, _ Key) ([]*tally.MultipleResponse, error) {
	return nil, unknown(groups)
}

// DescriptivesBy implements Source: nor who gave which number, so that the groups have to come
// summarised.
func (t Typed) DescriptivesBy(_ context.Context, q, groups, subgroup Key) (out []*tally.Summary, err error) {
	typed, _, err := t.find(q)
	if err != nil || subgroup != "" {
		return nil, firstOf(err, unknown(subgroup))
	}
	_, by, err := t.find(groups)
	if err != nil || len(typed.Summaries) != len(by.Proper()) {
		return nil, firstOf(err, unknown(groups))
	}
	for _, s := range typed.Summaries {
		out = append(out, s.summary())
	}
	return out, nil
}
