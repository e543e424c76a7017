package analysis

import (
	"encoding/json"
	"errors"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/survey"
)

// WhenIs is where an input has a value.
func WhenIs(input, value string) *When { return &When{input, value} }

// TextsOf are the values of a choice.
func TextsOf[T ~string](values []T) (out []string) {
	for _, v := range values {
		out = append(out, string(v))
	}
	return out
}

// CheckRole checks which hypothesis a claim is; member is the path below the settings.
func CheckRole(r claim.Role, member string) []Problem {
	if !slices.Contains(claim.Roles, r) {
		return []Problem{{Code: "claim.role", Pointer: "/settings/" + member}}
	}
	return nil
}

// Asked tells how a method is asked of a source: what its form holds, and how its settings
// begin.
type Asked struct {
	// Version is that of the settings.
	Version int `json:"version"`
	// Questions names the part that each question plays.
	Questions []Part `json:"questions"`
	// More is the part of any number of further questions; "" for none.
	More Part `json:"more,omitempty"`
	// Inputs are the members of the settings that a person fills in.
	Inputs []Input `json:"inputs"`
	// Texts names where its texts stand in the catalogue, below "ui.ask": the name of the method
	// with low lines.
	Texts string `json:"texts"`
	// Lines are the sentences of the form, whose blanks are the inputs.
	Lines []Line `json:"lines"`
	// Key opens the form from a question; "" for none.
	Key string `json:"key,omitempty"`
	// Quick is what a person types to ask it without a study; "" where that cannot be.
	Quick QuickShape `json:"quick,omitempty"`
	// Mode says whether asking it tests something; where empty, what its settings begin with
	// decides.
	Mode Mode `json:"mode"`
	// Ordered says that answers which are typed for it stand in their order.
	Ordered bool `json:"ordered,omitempty"`
	// Seldom asks for a place among the further things to ask.
	Seldom bool `json:"seldom,omitempty"`
	// New gives settings with what may be presumed filled in.
	New func() Settings `json:"-"`
	// Of tells of which questions it can be asked; nil for those that give each respondent
	// one answer of a list.
	Of func(q survey.Question) bool `json:"-"`
	// With tells which can be a further question; nil for the same ones.
	With func(q survey.Question) bool `json:"-"`
}

// Takes reports whether a question can be at a place of what is asked, 0 for the first.
func (a *Asked) Takes(place int, q survey.Question) bool {
	switch {
	case place > 0 && a.With != nil:
		return a.With(q)
	case a.Of == nil:
		return q.Kind.Coded()
	}
	return a.Of(q)
}

// Purpose is what somebody wants who asks it.
type Purpose string

// The purposes.
const (
	ToLook    Purpose = "look"    // see what was answered
	ToCompare Purpose = "compare" // hold it against figures that somebody claims
	ToCross   Purpose = "cross"   // see how another question goes with it
)

// Purpose tells what it is asked for: what takes groups, layers or a second question crosses, else
// what only describes looks, and the rest compares.
func (a *Asked) Purpose() Purpose {
	crosses := func(p Part) bool { return p == TheGroups || p == TheLayers || p == TheSecond }
	switch {
	case slices.ContainsFunc(a.Questions, crosses):
		return ToCross
	case a.Mode == Describes || a.Mode == Both:
		return ToLook
	}
	return ToCompare
}

// Rank puts the usual before the seldom, and of what is seldom the difference before the agreement,
// which needs a margin.
func (a *Asked) Rank() (n int) {
	if a.Seldom {
		n++
	}
	for _, i := range a.Inputs {
		if i.Name == "margin" {
			n++
		}
	}
	return n
}

// Mode says what asking a method does.
type Mode string

// The modes.
const (
	Describes Mode = "describes" // a source is described, nothing is tested
	Tests     Mode = "tests"     // a claim is made, and tested
	Both      Mode = "both"      // it describes at first, and a claim can be made of it
)

// QuickShape is what is typed where there is no study.
type QuickShape string

// The shapes.
const (
	QuickYesNo        QuickShape = "yes_no"        // how many said yes, of how many
	QuickTwoYesNo     QuickShape = "two_yes_no"    // the same in two groups
	QuickAnswers      QuickShape = "answers"       // a count for each answer
	QuickTable        QuickShape = "table"         // two questions crossed
	QuickSquare       QuickShape = "square"        // the same question twice
	QuickLayers       QuickShape = "layers"        // a table for each layer
	QuickSummary      QuickShape = "summary"       // n, mean and standard deviation
	QuickTwoSummaries QuickShape = "two_summaries" // the same of two groups
	QuickNumbers      QuickShape = "numbers"       // a list of numbers
	QuickPatterns     QuickShape = "patterns"      // combinations of answers that were chosen
	QuickNothing      QuickShape = "nothing"       // the sentence says all
)

// Part is what a question is for.
type Part string

// The parts.
const (
	TheQuestion Part = "question"
	TheGroups   Part = "groups"  // the rows of a crosstab
	TheSecond   Part = "second"  // the same asked of the same respondents
	TheBattery  Part = "battery" // those that share the list of answers of the first
	TheLayers   Part = "layers"  // within whose answers the others are crossed
	TheOthers   Part = "others"  // any number of others, as chosen
)

// InputKind says how an input is filled in.
type InputKind string

// The kinds of input.
const (
	ChoiceInput     InputKind = "choice"     // one of the options
	TextInput       InputKind = "text"       // words
	LevelInput      InputKind = "level"      // a significance level as written
	ShareInput      InputKind = "share"      // one share as written
	CategoriesInput InputKind = "categories" // answers that are pressed
	CategoryInput   InputKind = "category"   // one answer of the second question
	FiguresInput    InputKind = "figures"    // a figure for each answer
)

// Input is one blank of a form.
type Input struct {
	// Name is the path of the member in the settings, its parts separated by points.
	Name string    `json:"name"`
	Kind InputKind `json:"kind"`
	// Options are those of a choice, and the usual values of a level.
	Options   []string `json:"options,omitempty"`
	MaxLength int      `json:"maxLength,omitempty"`
	// Usual is the value that stands where nobody chose one; "" for none.
	Usual  string `json:"usual,omitempty"`
	Needed bool   `json:"needed,omitempty"`
	// Unless hides the input, and Without drops an option, where another one has a value.
	Unless  *When           `json:"unless,omitempty"`
	Without map[string]When `json:"without,omitempty"`
}

// When holds where an input has a value.
type When struct {
	Input string `json:"input"`
	Is    string `json:"is"`
}

// Line is one sentence of a form; its text is in the catalogue under the method's texts.
type Line struct {
	ID     string `json:"id"`
	Unless *When  `json:"unless,omitempty"`
	Only   *When  `json:"only,omitempty"`
}

// Level is a significance level. A text such as "5 %" or "0.05" is read as a person means
// it: with the sign, or from 1 up, it is a percent.
type Level float64

// UnmarshalJSON reads a number as it is, a text as a person writes it.
func (l *Level) UnmarshalJSON(raw []byte) error {
	s, err := text(raw)
	if err != nil {
		return err
	}
	s = strings.TrimSpace(strings.ReplaceAll(s, "\u00a0", " "))
	written := len(raw) > 0 && raw[0] == '"'
	rest, percent := strings.CutSuffix(s, "%")
	x, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(rest), ",", ".", 1), 64)
	if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
		return Refused("claim.level", "/settings/level", nil)
	}
	if written && (percent || x >= 1) {
		x = math.Round(x*1e10) / 1e12 // 2.5 % is 0.025, not a neighbour of it
	}
	*l = Level(x)
	return nil
}

// Schema describes what is taken.
func (Level) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"number", "string"},
		"description": "a significance level: 0.05, or as a person writes it, \"5 %\"",
	}
}

// Bounds of levels: above the first a level is asked about, above the second a confidence
// level was meant.
const (
	askLevelAbove = 0.2
	mostLevel     = 0.5
)

// LevelBlank is the blank of a significance level.
func LevelBlank(name string) Input {
	return Input{Name: name, Kind: LevelInput, Options: usualLevels, MaxLength: 12, Usual: "0.05"}
}

// usualLevels are offered.
var usualLevels = []string{"0.1", "0.05", "0.025", "0.01", "0.001"}

// Problems checks a level at a pointer; member is the path below the settings.
func (l Level) Problems(member string) []Problem {
	pointer := "/settings/" + strings.ReplaceAll(member, ".", "/")
	x := float64(l)
	if !(x > 0 && x < 1) {
		return []Problem{{Code: "claim.level", Pointer: pointer}}
	}
	if x <= askLevelAbove {
		return nil
	}
	suggestion := 0.05
	if x > mostLevel {
		suggestion = math.Round((1-x)*1e12) / 1e12
	}
	shown := func(x float64) document.Value { return document.Of(document.Level, x) }
	var change any = suggestion
	parts := strings.Split(member, ".")
	for _, name := range slices.Backward(parts) {
		change = map[string]any{name: change}
	}
	raw, _ := json.Marshal(change) // numbers and names only
	p := Problem{
		Code:    "claim.level_unusual",
		Pointer: pointer,
		Values:  document.Values{"level": shown(x), "rest": shown(suggestion)},
		Doubt:   true,
		Remedy:  &document.Remedy{Label: say.RemedyLevel(shown(suggestion)), Change: raw},
	}
	if x > mostLevel {
		p.Code, p.Doubt = "claim.level_high", false
	}
	return []Problem{p}
}

// Reference says where expected figures come from.
type Reference struct {
	Kind  claim.ReferenceKind `json:"kind,omitempty"`
	Title string              `json:"title,omitempty"`
	Date  string              `json:"date,omitempty"` // as written, such as "January 2026"
	// Shelf is the set of shares from which the figures were taken; nil for none.
	Shelf *OnShelf `json:"shelf,omitempty"`
}

// OnShelf names a version of a set of shares.
type OnShelf struct {
	Set     uint64 `json:"set"`
	Version int    `json:"version"`
}

// texts checks the texts of a source at a path below the settings.
func (r Reference) texts(at string) []Problem {
	return slices.Concat(
		plainText(r.Title, "/settings/"+at+"/title", MaxTitle),
		plainText(r.Date, "/settings/"+at+"/date", MaxDate),
	)
}

// Check checks a source that need not be named.
func (r Reference) Check(at string) (out []Problem) {
	if r.Kind != "" && !slices.Contains(claim.ReferenceKinds, r.Kind) {
		out = append(out, Problem{Code: "claim.reference", Pointer: "/settings/" + at + "/kind"})
	}
	return append(out, r.texts(at)...)
}

// Bounds of texts, in characters.
const (
	MaxTitle = 160
	MaxDate  = 40
)

// plainText checks a text that a person typed.
func plainText(s, pointer string, most int) []Problem {
	v := document.Values{"most": document.N(int64(most))}
	switch {
	case len([]rune(s)) > most:
		return []Problem{{Code: "text.long", Pointer: pointer, Values: v}}
	case strings.ContainsFunc(s, func(r rune) bool { return r < ' ' || r == 0x7f || r == '\ufffd' }):
		return []Problem{{Code: "text.control", Pointer: pointer}}
	}
	return nil
}

// CategoryFigure is a figure as typed for an answer.
type CategoryFigure struct {
	Code   string `json:"code"`
	Figure string `json:"figure"`
}

// Named names a question in sentences.
func Named(q survey.Question) claim.Question {
	return claim.Question{Wording: q.Wording, Short: q.Short}
}

// Outcome computes what a request asks for; a refusal of the core becomes part of it.
func (m Method) Outcome(work Work, request any) (*Outcome, error) {
	result, err := m.Run(work.Context, request)
	var input *infer.InputError
	if errors.As(err, &input) {
		return &Outcome{Request: request, Refusal: err}, nil
	}
	if err != nil {
		return nil, err
	}
	return &Outcome{Request: request, Result: result}, nil
}

func sortedNames(m map[string]any) []string { return slices.Sorted(maps.Keys(m)) }
