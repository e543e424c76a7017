package analysis

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"widetally/core/document"
	"widetally/core/survey"
)

// Quick is what somebody typed who has no study, as it is written: the blanks of a sentence by
// their names, and the cells of a table, whose first row and first column are names.
type Quick struct {
	Blanks map[string]string `json:"blanks,omitempty"`
	Cells  [][]string        `json:"cells,omitempty"`
}

// QuickNames stand where no name was typed.
type QuickNames struct{ Yes, No, NotSo, First, Second, Question, Groups, Layers string }

// QuickAsked is what follows of what was typed.
type QuickAsked struct {
	Counts Typed
	// Keys are the questions that are asked.
	Keys []Key
	// Settings are what the shape itself says: which answer counts, which groups are compared, and
	// the expected figures that stand beside the counts.
	Settings map[string]any
}

// ErrNotYet says that something is still lacking: a blank is no 0.
var ErrNotYet = errors.New("analysis: not all is typed yet")

// SlipError says why the typed numbers cannot all be true.
type SlipError struct{ document.Message }

func (e *SlipError) Error() string { return "analysis: a slip: " + e.ID }

func slip(id string, v document.Values) error {
	return &SlipError{document.Say("quick.slip."+id, v)}
}

// The names of blanks that hold counts, by shape, and the columns of the cells that do.
var (
	quickCounts = map[QuickShape][]string{
		QuickYesNo:        {"yes", "n", "no"},
		QuickTwoYesNo:     {"yes", "n", "yes2", "n2"},
		QuickSummary:      {"n"},
		QuickTwoSummaries: {"n", "n2"},
	}
	quickColumns = map[QuickShape][2]int{
		QuickAnswers: {1, 2}, QuickTable: {1, math.MaxInt}, QuickSquare: {1, math.MaxInt}, QuickLayers: {1, 5}, QuickNumbers: {2, 3}, QuickPatterns: {0, 1},
	}
)

// Asked makes of what was typed the counts that a method asks of. Errors: ErrNotYet, a *SlipError.
func (q Quick) Asked(a *Asked, names QuickNames) (QuickAsked, error) {
	t := quick{Quick: q, shape: a.Quick, names: names, ordered: a.Ordered}
	if text, bad := t.noCount(); bad {
		id := "no_count"
		if survey.EitherCount(text) {
			id = "either_count"
		}
		return QuickAsked{}, slip(id, document.Values{"text": document.Text(text)})
	}
	out, err := t.counts()
	if err != nil {
		return QuickAsked{}, err
	}
	out.Counts.Units = q.Blanks["units"]
	if out.Settings == nil {
		out.Settings = map[string]any{}
	}
	if a.takesFigures() {
		out.Settings["shares"] = map[string]any{"figures": t.figures()}
	}
	return out, nil
}

// takesFigures says whether a method compares with a figure for each answer.
func (a *Asked) takesFigures() bool {
	for _, i := range a.Inputs {
		if i.Kind == FiguresInput {
			return true
		}
	}
	return false
}

// quick is what was typed, being read.
type quick struct {
	Quick
	shape   QuickShape
	names   QuickNames
	ordered bool
}

// noCount finds the first of what stands where a count belongs and is none.
func (t quick) noCount() (text string, bad bool) {
	var texts []string
	for _, blank := range quickCounts[t.shape] {
		texts = append(texts, t.Blanks[blank])
	}
	if within, ok := quickColumns[t.shape]; ok && !(t.shape == QuickNumbers && strings.TrimSpace(t.Blanks["list"]) != "") {
		for i, row := range t.Cells {
			if i > 0 && within[0] < len(row) {
				texts = append(texts, row[within[0]:min(within[1], len(row))]...)
			}
		}
	}
	for _, text := range texts {
		if _, ok := survey.ParseCount(text); !ok {
			return strings.TrimSpace(text), true
		}
	}
	return "", false
}

// count reads a count that must be there.
func count(text string) (int64, error) {
	if strings.TrimSpace(text) == "" {
		return 0, ErrNotYet
	}
	n, ok := survey.ParseCount(text)
	if !ok {
		return 0, ErrNotYet
	}
	return n, nil
}

func counted(texts []string) (out []int64, err error) {
	out = make([]int64, len(texts))
	for i, text := range texts {
		if out[i], err = count(text); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (t quick) name(blank, otherwise string) string {
	if text := t.Blanks[blank]; text != "" {
		return text
	}
	return otherwise
}

func (t quick) counts() (QuickAsked, error) {
	switch t.shape {
	case QuickNothing:
		return QuickAsked{Counts: Typed{Questions: []TypedQuestion{}}, Keys: []Key{}}, nil
	case QuickYesNo:
		return t.yesNo()
	case QuickTwoYesNo:
		return t.twoYesNo()
	case QuickAnswers:
		return t.answers()
	case QuickPatterns:
		return t.patterns()
	case QuickTable, QuickSquare:
		return t.table()
	case QuickLayers:
		return t.layers()
	case QuickSummary, QuickTwoSummaries:
		return t.summaries()
	case QuickNumbers:
		return t.numbers()
	}
	return QuickAsked{}, fmt.Errorf("analysis: nothing is typed for the shape %q", t.shape)
}

// The codes of what the shapes say themselves, and the keys of the questions.
const (
	quickYes, quickNo       = "yes", "no"
	quickFirst, quickSecond = "1", "2"
	keyQuestion, keyGroups  = Key("q"), Key("g")
	keyLayers               = Key("l")
)

// rest is how many did not say yes: as typed, or those asked less those who did. Only one group
// has a blank for those who said no.
func (t quick) rest(yes, n string) (said, not int64, err error) {
	if said, err = count(t.Blanks[yes]); err != nil && !(t.shape == QuickYesNo && t.Blanks[quickNo] != "") {
		return 0, 0, err
	}
	saidErr := err
	all, allErr := count(t.Blanks[n])
	if t.shape == QuickYesNo && t.Blanks[quickNo] != "" {
		if not, err = count(t.Blanks[quickNo]); err != nil {
			return 0, 0, err
		}
		if saidErr == nil && allErr == nil && said+not != all {
			return 0, 0, slip("no_sum", document.Values{"sum": document.N(said + not), "n": document.N(all)})
		}
		return said, not, saidErr
	}
	if allErr != nil {
		return 0, 0, allErr
	}
	if all < said {
		return 0, 0, slip("more_yes", nil)
	}
	return said, all - said, nil
}

// yes names what was said, and what was not; a name of its own where that was “no”.
func (t quick) yes() []TypedCategory {
	yes, no := t.name("label", t.names.Yes), t.names.No
	if yes == no {
		no = t.names.NotSo
	}
	return []TypedCategory{{Code: quickYes, Label: yes}, {Code: quickNo, Label: no}}
}

func (t quick) groups() []TypedCategory {
	return []TypedCategory{{Code: quickFirst, Label: t.name("first", t.names.First)}, {Code: quickSecond, Label: t.name("second", t.names.Second)}}
}

func (t quick) question() TypedQuestion {
	return TypedQuestion{Key: keyQuestion, Short: t.name("question", t.names.Question)}
}

// grouping is the question of the groups; two of them need no name together.
func (t quick) grouping(pair bool) TypedQuestion {
	if pair && t.Blanks["other"] == "" {
		none := ""
		return TypedQuestion{Key: keyGroups, Wording: &none}
	}
	return TypedQuestion{Key: keyGroups, Short: t.name("other", t.names.Groups)}
}

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
	return QuickAsked{Typed{Questions: []TypedQuestion{q, g}, Crosstabs: []TypedCrosstab{{Rows: keyGroups, Columns: keyQuestion, Counts: [][][]int64{{{a, b}, {c, d}}}}}},
		[]Key{keyQuestion, keyGroups}, settings}, nil
}

// filled are the rows below the first that hold something beside their name.
func (t quick) filled() (out [][]string) {
	for i, row := range t.Cells {
		for k, cell := range row {
			if i > 0 && k > 0 && strings.TrimSpace(cell) != "" {
				out = append(out, row)
				break
			}
		}
	}
	return out
}

func cell(row []string, k int) string {
	if k < len(row) {
		return row[k]
	}
	return ""
}

// categories names answers by their places where they have no name.
func categories(labels []string) []TypedCategory {
	out := make([]TypedCategory, len(labels))
	for i, label := range labels {
		code := strconv.Itoa(i + 1)
		if label == "" {
			label = code
		}
		out[i] = TypedCategory{Code: code, Label: label}
	}
	return out
}

func column(rows [][]string, k int) []string {
	out := make([]string, len(rows))
	for i, row := range rows {
		out[i] = cell(row, k)
	}
	return out
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

func (t quick) heads() []string {
	if len(t.Cells) == 0 {
		return nil
	}
	return t.Cells[0]
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
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q, g}, Crosstabs: []TypedCrosstab{{Rows: keyGroups, Columns: keyQuestion, Counts: [][][]int64{table}}}},
		Keys: []Key{keyQuestion, keyGroups}}, nil
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
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q, g, l}, Crosstabs: []TypedCrosstab{x}}, Keys: []Key{keyQuestion, keyGroups, keyLayers}}, nil
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
		q.Categories = append(q.Categories, TypedCategory{Code: strconv.Itoa(i + 1), Label: survey.FormatNumber(from) + "–" + survey.FormatNumber(to), From: &from, To: &to})
		q.Counts = append(q.Counts, n)
	}
	if len(q.Counts) == 0 {
		return QuickAsked{}, ErrNotYet
	}
	return QuickAsked{Counts: Typed{Questions: []TypedQuestion{q}}, Keys: []Key{keyQuestion}}, nil
}
