package survey

import ()

// Rule says how a derived question is made.
type Rule string

// The rules.
const (
	Merge    Rule = "merge"    // some answers of a question counted together
	Bands    Rule = "bands"    // a number cut into classes
	Combine  Rule = "combine"  // every pair of answers of two questions
	HowMany  Rule = "how_many" // the number of chosen answers of a set
	Together Rule = "together" // columns of chosen and not chosen read as one set
	Parts    Rule = "parts"    // one column with several answers in a cell
	// Summaries is no answer of anybody: a number of which only n, mean and standard deviation
	// within the answers of a question are known.
	Summaries Rule = "summaries"
)

// Cut says where the limits of bands come from.
type Cut string

// The cuts.
const (
	GivenLimits Cut = "given"
	EqualWidth  Cut = "width"  // Number classes of equal width from smallest to largest
	EqualGroups Cut = "groups" // Number classes with as many respondents each as ties allow
)

// Derivable is a rule by which a question can be made, with how many sources it takes.
type Derivable struct {
	Rule  Rule `json:"rule"`
	Least int  `json:"least"`
	Most  int  `json:"most"` // 0 for any number
}

// DerivableFrom lists the rules for which a question of a kind can be a source.
func DerivableFrom(k Kind) []Derivable {
	out := []Derivable{}
	add := func(serves bool, rule Rule, least, most int) {
		if serves {
			out = append(out, Derivable{rule, least, most})
		}
	}
	add(k.Tabulated(), Merge, 1, 1)
	add(k == Discrete || k == Continuous, Bands, 1, 1)
	add(k == ChooseAll, HowMany, 1, 1)
	add(k == Single || k == Text, Parts, 1, 1)
	add(k.Coded(), Combine, 2, 2)
	add(k.Coded(), Together, 2, 0)
	return out
}

// Derivation defines a question made from others. It is data: the answers are made
// anew whenever those of a source change.
type Derivation struct {
	Rule    Rule     `json:"rule"`
	Sources []uint64 `json:"sources"`
	// Groups, for Merge, lists the answers counted together; the others stay.
	Groups []Group `json:"groups,omitempty"`
	// For Bands.
	Cut         Cut       `json:"cut,omitempty"`
	Limits      []float64 `json:"limits,omitempty"` // rising; between the classes
	Number      int       `json:"number,omitempty"`
	UpperClosed bool      `json:"upperClosed,omitempty"` // a limit belongs to the class below it
	// Chosen, for Together, holds per source the answers that mean chosen.
	Chosen [][]Slot `json:"chosen,omitempty"`
	// Separator, for Parts, is the text between the answers in a cell.
	Separator string `json:"separator,omitempty"`
	// Summaries, for Summaries, is what is known of a number within each answer of the source.
	Summaries []GroupSummary `json:"summaries,omitempty"`
}

// GroupSummary is what is known of a number among those who gave an answer: how many gave one,
// its mean, and its standard deviation with the divisor n − 1.
type GroupSummary struct {
	Answer Slot    `json:"answer"`
	N      int64   `json:"n"`
	Mean   float64 `json:"mean"`
	SD     float64 `json:"sd"`
}

// Group is one answer of a merge.
type Group struct {
	Label   string `json:"label"`
	Answers []Slot `json:"answers"`
}

// DerivationError says why a question cannot be made; texts under
// problem.derivation.
type DerivationError struct{ Why string }

func (e *DerivationError) Error() string { return "survey: derivation: " + e.Why }

// Derive makes the answers and the column of a derived question. sources are those
// of the derivation in its order. Missing answers of a merged or banded question
// stay apart by reason; for the other rules they become the blank. Errors are
// *DerivationError.
func Derive(d Derivation, sources []Source, of Sample) (Kind, []Answer, Column, error) {
	fail := func(why string) (Kind, []Answer, Column, error) { return "", nil, Column{}, &DerivationError{why} }
	wanted := map[Rule]int{Merge: 1, Bands: 1, Combine: 2, HowMany: 1, Parts: 1, Summaries: 1}[d.Rule]
	if d.Rule == Together {
		wanted = max(1, len(d.Sources))
	}
	if wanted == 0 || len(sources) != wanted || len(d.Sources) != wanted {
		return fail("sources")
	}
	for _, s := range sources[1:] {
		if s.Column.Rows() != sources[0].Column.Rows() {
			return fail("sources")
		}
	}
	m := &maker{}
	var err error
	kind := Single
	switch d.Rule {
	case Merge:
		kind = sources[0].Question.Kind
		if kind == Discrete {
			kind = Ordered
		}
		err = m.merge(d, sources[0])
	case Bands:
		kind = Ordered
		err = m.bands(d, sources[0], of)
	case Combine:
		err = m.combine(sources[0], sources[1])
	case HowMany:
		kind = Discrete
		err = m.howMany(sources[0])
	case Together:
		kind = ChooseAll
		err = m.together(d, sources)
	case Parts:
		kind = ChooseAll
		err = m.parts(d, sources[0])
	case Summaries:
		kind = Summarised
		err = m.summaries(d, sources[0], of)
	}
	if err != nil {
		return "", nil, Column{}, err
	}
	if len(m.answers) > MostAnswers {
		return fail("too_many")
	}
	return kind, append(m.answers, blankAnswer()), m.column, nil
}

// maker gathers the answers of a derived question; slots count from 1.
type maker struct {
	answers []Answer
	column  Column
}

func (m *maker) add(a Answer) Slot {
	a.Slot, a.SameAs = Slot(len(m.answers)+1), nil
	m.answers = append(m.answers, a)
	return a.Slot
}

// keepMissing adds the missing answers of a source, the blank excepted, and notes
// where they went.
func (m *maker) keepMissing(q Question, to map[Slot]Slot) {
	for _, a := range q.Answers {
		if a.Missing != "" && a.SameAs == nil && a.Slot != Blank {
			to[a.Slot] = m.add(Answer{Code: a.Code, Label: a.Label, Missing: a.Missing})
		}
	}
	for slot, under := range q.counted() {
		if Slot(slot) != under {
			to[Slot(slot)] = to[under]
		}
	}
}
