package book

import (
	"fmt"
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
)

// Book says which questions are tabulated by a banner, and how.
type Book struct {
	Title string `json:"title,omitempty"`
	// Banner is the part of the study that holds it.
	Banner analysis.Key `json:"banner"`
	// Subgroup is whom all of it is about; "" for everyone.
	Subgroup analysis.Key `json:"subgroup,omitempty"`
	// Unweighted counts respondents, whatever design is in force.
	Unweighted bool   `json:"unweighted,omitempty"`
	Choice     Choice `json:"choice"`
	// Batteries are questions with the same answers that make one table, in the place of the first.
	Batteries []Battery `json:"batteries,omitempty"`
	// Figures are what stands in a cell, the main one first; empty for percents of the column.
	Figures []document.Role `json:"figures,omitempty"`
	// Order is that of the answers; "" for that of the questionnaire.
	Order claim.Order `json:"order,omitempty"`
	// Least is the number of respondents below which a column shows nothing, Few that below which its
	// figures stand in brackets and are compared with none.
	Least       int64       `json:"least,omitempty"`
	Few         int64       `json:"few,omitempty"`
	Differences Differences `json:"differences"`
}

// Choice is the questions of a book: all that can be tabulated, those of sections, or picked ones.
type Choice struct {
	Which     Which          `json:"which"`
	Sections  []string       `json:"sections,omitempty"`
	Questions []analysis.Key `json:"questions,omitempty"`
}

// Which says how questions are chosen.
type Which string

// The ways to choose.
const (
	AllQuestions Which = "all"
	OfSections   Which = "sections"
	Picked       Which = "picked"
)

// Battery is questions in one table, a row each.
type Battery struct {
	Label     string         `json:"label,omitempty"`
	Questions []analysis.Key `json:"questions"`
	// Shows is what a row holds: the first or the last so many answers together, or the mean.
	Shows BatteryShows `json:"shows"`
	Boxes int          `json:"boxes,omitempty"`
}

// BatteryShows is what a battery shows of each question.
type BatteryShows string

// What a battery shows.
const (
	FirstAnswers BatteryShows = "first"
	LastAnswers  BatteryShows = "last"
	MeanScores   BatteryShows = "mean"
)

// Differences says which differences between columns are told.
type Differences struct {
	// Against is what a column is compared with; "" tells none.
	Against Against `json:"against,omitempty"`
	// Levels are one or two significance levels, the stricter one last; empty for 0.05.
	Levels []float64 `json:"levels,omitempty"`
	// Adjust is how the p-values of a table are adjusted for being many; "" for Holm.
	Adjust Adjust `json:"adjust,omitempty"`
}

// Against is what a column is compared with.
type Against string

// What a column is compared with: each other column of its break, or all respondents of the table who
// are not in it.
const (
	EachOther Against = "columns"
	AllOthers Against = "others"
)

// Adjust is how p-values are adjusted.
type Adjust string

// The adjustments.
const (
	ByHolm              Adjust = "holm"
	ByBenjaminiHochberg Adjust = "benjamini_hochberg"
	NotAdjusted         Adjust = "none"
)

// The figures that a book can show in its cells.
var Figures = []document.Role{document.ColumnPercent, document.RowPercent, document.Observed, document.StandardError}

const (
	// UsualLevel is the significance level where none is said.
	UsualLevel = 0.05
	// MostAnswers bounds the answers of a question in a table.
	MostAnswers = 100
	// mostNumbers is up to how many different whole numbers the table of a number lists them.
	mostNumbers = 12
	// MostTables bounds a book.
	MostTables = 1000
)

// levels are those of the differences, the strictest last.
func (d Differences) levels() []float64 {
	if len(d.Levels) == 0 {
		return []float64{UsualLevel}
	}
	return d.Levels
}

// shown are the figures of a cell.
func (b Book) shown() []document.Role {
	if len(b.Figures) == 0 {
		return []document.Role{document.ColumnPercent}
	}
	return b.Figures
}

// Listed is a question under its key, in the order of the questionnaire.
type Listed struct {
	Key analysis.Key
	survey.Question
}

// Tabulates reports whether a question can be a table of a book.
func Tabulates(q survey.Question) bool {
	switch {
	case q.Kind == survey.Discrete:
		return true
	case q.Kind.Tabulated():
		return len(q.Proper()) <= MostAnswers
	}
	return q.Kind == survey.Continuous
}

// Table is what one table of a book is about: a question, or a battery of several.
type Table struct {
	Questions []Listed
	Battery   *Battery // nil for one question
}

// Tables are those of the book, in the order of the questionnaire, or that in which they were picked.
func (b Book) Tables(all []Listed) (out []Table) {
	var chosen []Listed
	switch b.Choice.Which {
	case Picked:
		for _, key := range b.Choice.Questions {
			if i := slices.IndexFunc(all, func(q Listed) bool { return q.Key == key }); i >= 0 {
				chosen = append(chosen, all[i])
			}
		}
	case OfSections:
		for _, q := range all {
			if slices.Contains(b.Choice.Sections, q.Section) {
				chosen = append(chosen, q)
			}
		}
	default:
		chosen = all
	}
	in := map[analysis.Key]*Battery{}
	for i, one := range b.Batteries {
		for _, key := range one.Questions {
			in[key] = &b.Batteries[i]
		}
	}
	done := map[*Battery]bool{}
	for _, q := range chosen {
		battery := in[q.Key]
		switch {
		case battery == nil && Tabulates(q.Question):
			out = append(out, Table{Questions: []Listed{q}})
		case battery != nil && !done[battery]:
			done[battery] = true
			t := Table{Battery: battery}
			for _, key := range battery.Questions {
				if i := slices.IndexFunc(all, func(q Listed) bool { return q.Key == key }); i >= 0 {
					t.Questions = append(t.Questions, all[i])
				}
			}
			out = append(out, t)
		}
	}
	return out
}

// Check lists what keeps a book from being made of these questions.
func (b Book) Check(
	question func(analysis.Key) (survey.Question, bool), subgroup func(analysis.Key) bool,
) (out []analysis.Problem) {
	add := func(code, pointer string, v document.Values) {
		out = append(out, analysis.Problem{Code: "book." + code, Pointer: pointer, Values: v})
	}
	known := func(keys []analysis.Key, at string) {
		for i, key := range keys {
			if _, is := question(key); !is {
				add("question", fmt.Sprintf("%s/%d", at, i), nil)
			}
		}
	}
	one := func(is bool, code, pointer string) {
		if !is {
			add(code, pointer, nil)
		}
	}
	one(len([]rune(b.Title)) <= MostLabel, "title", "/title")
	one(b.Subgroup == "" || subgroup(b.Subgroup), "subgroup", "/subgroup")
	one(b.Order == "" || slices.Contains(claim.Orders, b.Order), "order", "/order")
	one(b.Least >= 0 && b.Least <= math.MaxInt32, "bases", "/least")
	one(b.Few >= 0 && b.Few <= math.MaxInt32, "bases", "/few")
	one(slices.Contains([]Which{AllQuestions, OfSections, Picked}, b.Choice.Which), "choice", "/choice/which")
	one(len(b.Choice.Questions) <= MostTables && len(b.Choice.Sections) <= MostTables, "tables", "/choice")
	known(b.Choice.Questions, "/choice/questions")
	for i, role := range b.Figures {
		one(slices.Contains(Figures, role) && !slices.Contains(b.Figures[:i], role), "figures", fmt.Sprintf("/figures/%d", i))
	}
	d := b.Differences
	one(slices.Contains([]Against{"", EachOther, AllOthers}, d.Against), "against", "/differences/against")
	one(slices.Contains([]Adjust{"", ByHolm, ByBenjaminiHochberg, NotAdjusted}, d.Adjust), "adjust", "/differences/adjust")
	one(len(d.Levels) <= 2, "levels", "/differences/levels")
	for i, level := range d.Levels {
		one(level > 0 && level <= 0.5 && (i == 0 || level < d.Levels[i-1]), "levels", "/differences/levels")
	}
	taken := map[analysis.Key]bool{}
	one(len(b.Batteries) <= MostTables, "tables", "/batteries")
	for i, battery := range b.Batteries {
		at := fmt.Sprintf("/batteries/%d", i)
		known(battery.Questions, at+"/questions")
		if p := battery.check(question, taken); p != "" {
			add(p, at, nil)
		}
	}
	return out
}

// check says what is wrong with a battery; "" for nothing. taken are the questions of those before it.
func (t Battery) check(question func(analysis.Key) (survey.Question, bool), taken map[analysis.Key]bool) string {
	if len(t.Questions) < 2 || len(t.Questions) > analysis.MostRows {
		return "battery_questions"
	}
	var codes []string
	for _, key := range t.Questions {
		q, known := question(key)
		switch {
		case !known: // which is told already
			return ""
		case taken[key]:
			return "battery_twice"
		case t.Shows == MeanScores && (!q.Kind.Coded() || analysis.ScoresOf(q) == nil && q.Kind != survey.Discrete):
			return "battery_scores"
		case t.Shows != MeanScores && !q.Kind.Coded():
			return "battery_kind"
		}
		own := analysis.CodesOf(q)
		slices.Sort(own)
		if codes == nil {
			codes = own
		}
		if t.Shows != MeanScores && !slices.Equal(own, codes) {
			return "battery_answers"
		}
		taken[key] = true
	}
	switch t.Shows {
	case MeanScores:
	case FirstAnswers, LastAnswers:
		if t.Boxes < 1 || t.Boxes >= len(codes) {
			return "battery_boxes"
		}
	default:
		return "battery_shows"
	}
	if len([]rune(t.Label)) > MostLabel {
		return "title"
	}
	return ""
}

// Net is some answers of a question counted together under a name.
type Net struct {
	Label string   `json:"label"`
	Codes []string `json:"codes"`
}

// NetsOf are the nets of a study: of questions by their key, and of the shared lists of answers by theirs,
// which hold for each question of the list.
type NetsOf struct {
	Questions map[analysis.Key][]Net `json:"questions,omitempty"`
	Lists     map[analysis.Key][]Net `json:"lists,omitempty"`
}
