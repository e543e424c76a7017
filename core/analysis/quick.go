package analysis

import (
	"errors"
	"fmt"
	"math"
	"slices"
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
		QuickAnswers: {
			1,
			2,
		}, QuickTable: {1, math.MaxInt}, QuickSquare: {1, math.MaxInt}, QuickLayers: {1, 5}, QuickNumbers: {2, 3}, QuickPatterns: {0, 1},
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
	if out.Counts.DesignEffect, err = t.effect(out.Counts); err != nil {
		return QuickAsked{}, err
	}
	if out.Settings == nil {
		out.Settings = map[string]any{}
	}
	if a.takesFigures() {
		out.Settings["shares"] = map[string]any{"figures": t.figures()}
	}
	return out, nil
}

// effectShapes are those whose counts can have a design effect.
var effectShapes = []QuickShape{QuickYesNo, QuickTwoYesNo, QuickAnswers, QuickTable, QuickSquare, QuickLayers}

// effect reads the design effect, or what the effective number makes it; 0 where neither is typed.
func (t quick) effect(counts Typed) (float64, error) {
	text, effective := strings.TrimSpace(t.Blanks["effect"]), strings.TrimSpace(t.Blanks["effective"])
	if text == "" && effective == "" || !slices.Contains(effectShapes, t.shape) {
		return 0, nil
	}
	if text != "" && effective != "" {
		return 0, slip("either_effect", nil)
	}
	x, ok := survey.ParseNumber(text+effective, true)
	if !ok || x <= 0 {
		return 0, slip("effect", document.Values{"text": document.Text(text + effective)})
	}
	if effective != "" {
		if len(counts.Questions) == 0 {
			return 0, ErrNotYet
		}
		x = float64(Total(counts.Questions[0].Counts)) / x
	}
	if x > 1000 {
		return 0, slip("effect", document.Values{"text": document.Text(text + effective)})
	}
	return x, nil
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
	return []TypedCategory{
		{Code: quickFirst, Label: t.name("first", t.names.First)},
		{Code: quickSecond, Label: t.name("second", t.names.Second)},
	}
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

func (t quick) heads() []string {
	if len(t.Cells) == 0 {
		return nil
	}
	return t.Cells[0]
}
