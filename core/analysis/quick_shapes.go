package analysis

import (
	"encoding/json"
	"errors"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// yesCounts says that the first answer is the one that counts.
func yesCounts() map[string]any { return map[string]any{"success": []any{quickYes}} }

func (t quick) yesNo() (QuickAsked, error) {
	yes, no, err := t.rest("yes", "n")
	if err != nil {
		return QuickAsked{}, err
	}
	none := ""
	q := TypedQuestion{Key: keyQuestion, Wording: &none, Categories: t.yes(), Counts: []int64{yes, no}}
	return QuickAsked{Typed{Questions: []TypedQuestion{q}}, []Key{keyQuestion}, yesCounts()}, nil
}

func (t quick) twoYesNo() (QuickAsked, error) {
	a, b, err := t.rest("yes", "n")
	c, d, err2 := t.rest("yes2", "n2")
	var wrong *SlipError
	switch err = errors.Join(err, err2); {
	case errors.As(err, &wrong): // what cannot be true is told before what lacks
		return QuickAsked{}, wrong
	case err != nil:
		return QuickAsked{}, ErrNotYet
	}
	none := ""
	q, g := TypedQuestion{Key: keyQuestion, Wording: &none, Categories: t.yes()}, t.grouping(true)
	g.Categories = t.groups()
	settings := yesCounts()
	settings["groups"] = map[string]any{"first": quickFirst, "second": quickSecond}
	return QuickAsked{
		Typed{
			Questions: []TypedQuestion{q, g},
			Crosstabs: []TypedCrosstab{{Rows: keyGroups, Columns: keyQuestion, Counts: [][][]int64{{{a, b}, {c, d}}}}},
		},
		[]Key{keyQuestion, keyGroups},
		settings,
	}, nil
}

func (t quick) answers() (QuickAsked, error) {
	rows := t.filled()
	counts, err := counted(column(rows, 1))
	if err != nil || len(counts) < 2 {
		return QuickAsked{}, ErrNotYet
	}
	q := t.question()
	q.Categories, q.Counts = categories(column(rows, 0)), counts
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
}

// figures are the expected ones, which stand behind the counts.
func (t quick) figures() []CategoryFigure {
	out := []CategoryFigure{}
	for i, row := range t.filled() {
		if figure := strings.TrimSpace(cell(row, 2)); figure != "" {
			out = append(out, CategoryFigure{Code: strconv.Itoa(i + 1), Figure: figure})
		}
	}
	return out
}

func (t quick) patterns() (QuickAsked, error) {
	heads, rows := t.heads(), t.filled()
	if len(rows) == 0 || len(heads) < 2 {
		return QuickAsked{}, ErrNotYet
	}
	q := t.question()
	q.Kind, q.Categories = survey.ChooseAll, categories(heads[1:])
	for _, row := range rows {
		n, err := count(cell(row, 0))
		if err != nil {
			return QuickAsked{}, err
		}
		p := TypedPattern{Chosen: []string{}, Count: n}
		for k, c := range q.Categories {
			if cell(row, k+1) != "" {
				p.Chosen = append(p.Chosen, c.Code)
			}
		}
		q.Patterns = append(q.Patterns, p)
	}
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
}

// table reads a table of two questions; of the same question twice the answers stand down in the
// order in which they stand across, and are named there.
func (t quick) table() (QuickAsked, error) {
	heads, rows := t.heads(), t.filled()
	mirrored := t.shape == QuickSquare
	var used []int
	for k := 1; k < len(heads); k++ {
		for _, row := range t.Cells {
			if strings.TrimSpace(cell(row, k)) != "" {
				used = append(used, k)
				break
			}
		}
	}
	across := make([]string, len(used))
	for i, k := range used {
		if across[i] = heads[k]; across[i] == "" {
			across[i] = strconv.Itoa(k)
		}
	}
	down := column(rows, 0)
	if mirrored {
		rows, down = nil, across
		for _, k := range used {
			if k >= len(t.Cells) {
				return QuickAsked{}, ErrNotYet
			}
			rows = append(rows, t.Cells[k])
		}
	}
	if len(rows) < 2 || len(used) == 0 {
		return QuickAsked{}, ErrNotYet
	}
	table, sum := make([][]int64, len(rows)), int64(0)
	for i, row := range rows {
		for _, k := range used {
			n, err := count(cell(row, k))
			if err != nil {
				return QuickAsked{}, err
			}
			table[i] = append(table[i], n)
			sum += n
		}
	}
	if sum == 0 {
		return QuickAsked{}, ErrNotYet
	}
	q, g := t.question(), t.grouping(false)
	q.Kind = survey.Single
	if t.ordered && !mirrored {
		q.Kind = survey.Ordered
	}
	g.Kind, q.Categories, g.Categories = q.Kind, categories(across), categories(down)
	return QuickAsked{
		Counts: Typed{
			Questions: []TypedQuestion{q, g},
			Crosstabs: []TypedCrosstab{{Rows: keyGroups, Columns: keyQuestion, Counts: [][][]int64{table}}},
		},
		Keys: []Key{keyQuestion, keyGroups},
	}, nil
}

// layers reads of each layer those of each group who said so, and those who did not.
func (t quick) layers() (QuickAsked, error) {
	rows := t.filled()
	if len(rows) == 0 {
		return QuickAsked{}, ErrNotYet
	}
	q, g := t.question(), t.grouping(false)
	q.Categories, g.Categories = t.yes(), t.groups()
	l := TypedQuestion{Key: keyLayers, Short: t.name("layers", t.names.Layers), Categories: categories(column(rows, 0))}
	x := TypedCrosstab{Rows: keyGroups, Columns: keyQuestion, Layers: keyLayers}
	for _, row := range rows {
		n, err := counted([]string{cell(row, 1), cell(row, 2), cell(row, 3), cell(row, 4)})
		if err != nil {
			return QuickAsked{}, err
		}
		x.Counts = append(x.Counts, [][]int64{{n[0], n[1]}, {n[2], n[3]}})
	}
	return QuickAsked{
		Counts: Typed{Questions: []TypedQuestion{q, g, l}, Crosstabs: []TypedCrosstab{x}},
		Keys:   []Key{keyQuestion, keyGroups, keyLayers},
	}, nil
}

// quoted is a text as it comes with a request.
func quoted(text string) []byte {
	raw, _ := json.Marshal(text) // a text can be written
	return raw
}

func (t quick) summary(n, mean, sd string) (TypedSummary, error) {
	var out TypedSummary
	var err error
	if out.N, err = count(t.Blanks[n]); err != nil || t.Blanks[mean] == "" {
		return out, ErrNotYet
	}
	if err := out.Mean.UnmarshalJSON(quoted(t.Blanks[mean])); err != nil {
		return out, err
	}
	if t.Blanks[sd] == "" {
		return out, nil
	}
	out.SD = new(Number)
	return out, out.SD.UnmarshalJSON(quoted(t.Blanks[sd]))
}

func (t quick) summaries() (QuickAsked, error) {
	first, err := t.summary("n", "mean", "sd")
	if err != nil {
		return QuickAsked{}, err
	}
	q := t.question()
	q.Kind, q.Summaries = survey.Continuous, []TypedSummary{first}
	if t.shape == QuickSummary {
		return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
	}
	second, err := t.summary("n2", "mean2", "sd2")
	if err != nil {
		return QuickAsked{}, err
	}
	if first.SD == nil || second.SD == nil {
		return QuickAsked{}, ErrNotYet
	}
	q.Summaries = append(q.Summaries, second)
	g := t.grouping(true)
	g.Categories = t.groups()
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q, g}}, Keys: []Key{keyQuestion, keyGroups}}, nil
}

// numbers reads a list of numbers, or classes with how many are in each.
func (t quick) numbers() (QuickAsked, error) {
	q := t.question()
	if list := strings.TrimSpace(t.Blanks["list"]); list != "" {
		q.Kind = survey.Continuous
		if err := q.Values.UnmarshalJSON(quoted(strings.Join(strings.Fields(list), " "))); err != nil {
			return QuickAsked{}, err
		}
		return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
	}
	q.Kind = survey.Ordered
	for i, row := range t.filled() {
		from, ok := survey.ParseNumber(strings.TrimSpace(cell(row, 0)), true)
		to, okTo := survey.ParseNumber(strings.TrimSpace(cell(row, 1)), true)
		n, err := count(cell(row, 2))
		if !ok || !okTo || err != nil {
			return QuickAsked{}, ErrNotYet
		}
		q.Categories = append(
			q.Categories,
			TypedCategory{
				Code:  strconv.Itoa(i + 1),
				Label: survey.FormatNumber(from) + "–" + survey.FormatNumber(to),
				From:  &from,
				To:    &to,
			},
		)
		q.Counts = append(q.Counts, n)
	}
	if len(q.Counts) == 0 {
		return QuickAsked{}, ErrNotYet
	}
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
}
