package shares

import (
	"math/big"
	"slices"
	"strings"
)

// Kind says where shares come from, which decides whether they may be taken as known.
type Kind string

// The kinds.
const (
	Register Kind = "register" // official register or census, a full count
	Report   Kind = "report"   // published report
	Survey   Kind = "survey"   // an earlier or another survey, itself a sample
	Target   Kind = "target"   // a policy target
	Theory   Kind = "theory"   // shares that a theory gives
)

// Kinds lists the kinds in the order in which they are offered.
var Kinds = []Kind{Register, Report, Survey, Target, Theory}

// Set is expected or published shares with where they come from, to be used by many questions.
type Set struct {
	Title      string `json:"title"`
	Publisher  string `json:"publisher,omitempty"`
	Date       string `json:"date,omitempty"`       // as written
	Place      string `json:"place,omitempty"`      // where they hold
	Population string `json:"population,omitempty"` // of whom they speak
	Kind       Kind   `json:"kind"`
	N          int64  `json:"n,omitempty"` // respondents of a survey, 0 where not known
	Link       string `json:"link,omitempty"`
	Note       string `json:"note,omitempty"`
	Scale      Scale  `json:"scale"`
	// Answers are in the order of the publication.
	Answers []SetAnswer `json:"answers"`
}

// SetAnswer is one category of a set with its figure as written.
type SetAnswer struct {
	Label  string `json:"label"`
	Code   string `json:"code,omitempty"`
	Figure string `json:"figure"`
}

// Bounds of a set.
const (
	MaxSetText    = 160
	MaxSetNote    = 2000
	MaxSetAnswers = 1000
)

// SetProblem is one thing that keeps a set from being kept.
type SetProblem struct {
	Code    string // below "problem."
	Pointer string
	// Of is what is wrong with its figures; nil where it is something else.
	Of      *Problem
	Aligned *Aligned
}

// names are those of a set's categories.
func (s Set) names() []Name {
	out := make([]Name, len(s.Answers))
	for i, a := range s.Answers {
		out[i] = Name{a.Label, a.Code}
	}
	return out
}

func (s Set) figures() []string {
	out := make([]string, len(s.Answers))
	for i, a := range s.Answers {
		out[i] = a.Figure
	}
	return out
}

// Check lists what keeps a set from being kept: it must be named, of a known kind, and its
// figures must add up as their scale says.
func (s Set) Check() (out []SetProblem) {
	add := func(code, pointer string) { out = append(out, SetProblem{Code: code, Pointer: pointer}) }
	if strings.TrimSpace(s.Title) == "" {
		add("set.title", "/title")
	}
	if !slices.Contains(Kinds, s.Kind) {
		add("set.kind", "/kind")
	}
	if s.N < 0 {
		add("set.n", "/n")
	}
	for pointer, text := range map[string]string{"/title": s.Title, "/publisher": s.Publisher, "/date": s.Date, "/place": s.Place, "/population": s.Population, "/link": s.Link} {
		if len([]rune(text)) > MaxSetText {
			add("set.long", pointer)
		}
	}
	if len([]rune(s.Note)) > MaxSetNote {
		add("set.long", "/note")
	}
	if s.Link != "" && !strings.HasPrefix(s.Link, "https://") && !strings.HasPrefix(s.Link, "http://") {
		add("set.link", "/link")
	}
	if !slices.Contains(Scales, s.Scale) || s.Scale == Equal {
		add("set.scale", "/scale")
		return out
	}
	if len(s.Answers) > MaxSetAnswers {
		add("set.many", "/answers")
		return out
	}
	seen := map[string]bool{}
	for _, a := range s.Answers {
		name := fold(a.Label)
		if name == "" {
			add("set.unnamed", "/answers")
			return out
		}
		if seen[name] {
			add("set.twice", "/answers")
			return out
		}
		seen[name] = true
	}
	if a := Normalise(s.names(), s.figures(), s.Scale, false); !a.Usable() {
		out = append(out, SetProblem{Code: ProblemCode(a, a.Problems[0]), Pointer: "/answers", Of: &a.Problems[0], Aligned: a})
	}
	return out
}

// How says how an answer of a question found its category of a set.
type How string

// The ways.
const (
	ByName  How = "name"  // the same label or code
	Loosely How = "loose" // but for letter case and spaces
	Closely How = "close" // by a close spelling, to be confirmed
	ByHand  How = "hand"  // chosen by a person
	NotYet  How = ""      // none
)

// Fit says which categories of a set go to each answer of a question, several being added up.
type Fit struct {
	From [][]int // per answer
	How  []How   // per answer
	Left []int   // categories that go to no answer
}

// Propose finds for each answer the category of the same name, and proposes a close spelling
// where there is one and no other answer is as close.
func Propose(answers []Name, of Set) Fit {
	f := Fit{From: make([][]int, len(answers)), How: make([]How, len(answers))}
	taken := make([]bool, len(of.Answers))
	give := func(i, k int, how How) { f.From[i], f.How[i], taken[k] = []int{k}, how, true }
	exact, loose := index(of.names(), func(s string) string { return s }), index(of.names(), fold)
	for _, pass := range []struct {
		names map[string]int
		key   func(string) string
		how   How
	}{{exact, func(s string) string { return s }, ByName}, {loose, fold, Loosely}} {
		for i, a := range answers {
			for _, name := range []string{a.Label, a.Code} {
				if k, found := pass.names[pass.key(name)]; found && k >= 0 && name != "" && f.From[i] == nil && !taken[k] {
					give(i, k, pass.how)
				}
			}
		}
	}
	for i, a := range answers {
		if f.From[i] != nil {
			continue
		}
		best, at, again := farthest, -1, false
		for k, c := range of.Answers {
			if taken[k] {
				continue
			}
			switch d := apart(a.Label, c.Label); {
			case d < best:
				best, at, again = d, k, false
			case d == best:
				again = true
			}
		}
		if at >= 0 && !again {
			give(i, at, Closely)
		}
	}
	f.left(len(of.Answers))
	return f
}

// Chosen is a fit as a person chose it; ok is false where a category is out of range or goes to
// two answers.
func Chosen(from [][]int, categories int) (f Fit, ok bool) {
	f = Fit{From: from, How: make([]How, len(from))}
	taken := map[int]bool{}
	for i, list := range from {
		if len(list) > 0 {
			f.How[i] = ByHand
		}
		for _, k := range list {
			if k < 0 || k >= categories || taken[k] {
				return f, false
			}
			taken[k] = true
		}
	}
	f.left(categories)
	return f, true
}

func (f *Fit) left(categories int) {
	f.Left = []int{}
	for k := range categories {
		if !slices.ContainsFunc(f.From, func(list []int) bool { return slices.Contains(list, k) }) {
			f.Left = append(f.Left, k)
		}
	}
}

// Figures gives the figure of each answer, those of several categories added up exactly; ""
// for an answer without one.
func (s Set) Figures(f Fit) []string {
	out := make([]string, len(f.From))
	for i, list := range f.From {
		switch len(list) {
		case 0:
		case 1:
			out[i] = strings.TrimSpace(s.Answers[list[0]].Figure)
		default:
			sum := new(big.Rat)
			for _, k := range list {
				if x, p := ParseFigure(s.Answers[k].Figure, s.Scale); p.Kind == "" {
					sum.Add(sum, x)
				}
			}
			if n, exact := sum.FloatPrec(); exact {
				out[i] = sum.FloatString(n)
			} else {
				out[i] = sum.RatString()
			}
		}
	}
	return out
}

// Taken is the scale of figures that are taken from the set: the counts of a full count are a
// ratio of known shares, those of anything else stay the counts of a group.
func (s Set) Taken() Scale {
	if s.Scale == Counts && s.Kind == Register {
		return Ratio
	}
	return s.Scale
}

// farthest is the part of the longer name's letters by which two may differ and still be
// proposed for each other.
const farthest = 0.34

// apart is the number of letters to insert, drop or change (Levenshtein 1966), as a part of the
// longer name; letter case and spaces do not count.
func apart(a, b string) float64 {
	x, y := []rune(fold(a)), []rune(fold(b))
	if len(x) == 0 || len(y) == 0 {
		return 1
	}
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i, r := range x {
		corner := row[0]
		row[0] = i + 1
		for j, c := range y {
			change := corner
			if r != c {
				change++
			}
			corner = row[j+1]
			row[j+1] = min(change, row[j]+1, corner+1)
		}
	}
	return float64(row[len(y)]) / float64(max(len(x), len(y)))
}
