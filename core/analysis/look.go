package analysis

import (
	"encoding/json"
	"math"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// MostRows bounds the questions of a battery.
const MostRows = 100

// CodesOf lists the codes of the proper answers in their order.
func CodesOf(q survey.Question) (out []string) {
	for _, a := range q.Proper() {
		out = append(out, a.Code)
	}
	return out
}

// ScoresOf are the scores of the answers, where somebody gave one to each; nil elsewhere.
func ScoresOf(q survey.Question) (out []float64) {
	for _, a := range q.Proper() {
		if a.Score == nil {
			return nil
		}
		out = append(out, *a.Score)
	}
	return out
}

// Whole checks a number of respondents that has to be given.
func Whole(n *Number, member string) []Problem {
	pointer := "/settings/" + member
	switch {
	case n == nil:
		return []Problem{{Code: "plan.n", Pointer: pointer}}
	case !(*n >= 1 && *n <= infer.MaxCount && float64(*n) == math.Trunc(float64(*n))):
		return []Problem{{Code: "plan.whole", Pointer: pointer}}
	}
	return nil
}

// CountOf is a number that counts; nil where none was given.
func CountOf(n *Number) *int64 {
	if n == nil {
		return nil
	}
	out := int64(*n)
	return &out
}

// Number is a number, as it is or as a person types it: "2,5" is 2.5.
type Number float64

// UnmarshalJSON reads a number as it is, a text as a person writes it.
func (n *Number) UnmarshalJSON(raw []byte) error {
	s, err := text(raw)
	if err != nil {
		return err
	}
	x, ok := survey.ParseNumber(strings.ReplaceAll(strings.TrimSpace(s), "−", "-"), true)
	if !ok {
		return Refused("numeric_summary.typed", "/settings", document.Values{"text": document.Text(s)})
	}
	*n = Number(x)
	return nil
}

// Schema describes what is taken.
func (Number) Schema() map[string]any {
	return map[string]any{"type": []string{"number", "string"}, "description": "a number: 2.5, or as a person writes it, \"2,5\""}
}

// NumberList is numbers in a list, or as a person types them, parted by spaces or semicolons,
// or by commas that a space follows.
type NumberList []float64

// UnmarshalJSON reads a list as it is, a text as a person writes it.
func (l *NumberList) UnmarshalJSON(raw []byte) error {
	if len(raw) > 0 && raw[0] != '"' {
		return json.Unmarshal(raw, (*[]float64)(l))
	}
	s, err := text(raw)
	if err != nil {
		return err
	}
	*l = nil
	for _, part := range strings.FieldsFunc(s, func(r rune) bool { return r == ';' || r == ' ' || r == '\t' || r == '\u00a0' }) {
		var n Number
		quoted, _ := json.Marshal(strings.TrimSuffix(part, ","))
		if err := n.UnmarshalJSON(quoted); err != nil {
			return err
		}
		*l = append(*l, float64(n))
	}
	return nil
}

// Schema describes what is taken.
func (NumberList) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"array", "string"},
		"items":       map[string]any{"type": "number"},
		"description": "numbers: [0, 10, 25], or as a person writes them, \"0 10 25\"",
	}
}

// shownOnly are the members of settings that only say how a result is shown; changing them
// is no change of a claim.
var shownOnly = []string{
	"reading",
	"show",
	"swapped",
	"hideEmpty",
	"missing",
	"picture",
	"frame",
	"height",
	"order",
	"width",
	"start",
	"number",
	"limits",
	"normal",
	"intervals",
}

// ShownOnly reports whether a change of a spec only changes how its result is shown.
func (c Change) ShownOnly() bool {
	rest, ok := strings.CutPrefix(c.At, "/settings/")
	member, _, _ := strings.Cut(rest, "/")
	return ok && slices.Contains(shownOnly, member)
}

// Look is what of the settings of a spec only says how its result is shown, as far as it is
// set.
func (s Spec) Look() map[string]any {
	all := map[string]any{}
	if raw, err := json.Marshal(s.Settings); err == nil {
		_ = json.Unmarshal(raw, &all) // what was just made of settings
	}
	for member := range all {
		if !slices.Contains(shownOnly, member) {
			delete(all, member)
		}
	}
	return all
}

// CheckFrame checks what a person wants of a picture.
func CheckFrame(f *claim.Frame) (out []Problem) {
	if f == nil {
		return nil
	}
	for member, s := range map[string]string{"title": f.Title, "across": f.Across, "up": f.Up} {
		out = append(out, plainText(s, "/settings/frame/"+member, claim.MostFrameText)...)
	}
	if !slices.Contains(claim.Sizes, f.Size) {
		out = append(out, Problem{Code: "frame.size", Pointer: "/settings/frame/size"})
	}
	return out
}

// CheckOneOf checks a setting that has one of a list of values.
func CheckOneOf[T comparable](values []T, chosen T, code, member string) []Problem {
	if slices.Contains(values, chosen) {
		return nil
	}
	return []Problem{{Code: code, Pointer: "/settings/" + member}}
}

// LabelsOf are the labels of the proper answers of a question.
func LabelsOf(q survey.Question) (out []string) {
	for _, a := range q.Proper() {
		out = append(out, a.Label)
	}
	return out
}

// CellsFit checks how many cells a table of all answers of some questions with those of the
// first would have.
func CellsFit(q []survey.Question) []Problem {
	cells, columns := 0, 1
	for i, one := range q {
		switch n := len(one.Proper()); {
		case i == 0:
			columns = n
		default:
			cells += n * columns
		}
	}
	if cells > MaxCells {
		return []Problem{{Code: "compute." + string(TooManyCells), Pointer: "/questions"}}
	}
	return nil
}

// Several checks how many questions are asked together.
func Several(q []survey.Question, least int) []Problem {
	if len(q) < least || len(q) > MostRows {
		return []Problem{
			{
				Code:    "several.questions",
				Pointer: "/questions",
				Values:  document.Values{"least": document.N(int64(least)), "most": document.N(MostRows)},
			},
		}
	}
	return nil
}
