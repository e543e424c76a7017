// Package survey is the data model: questions, their answers, and the columns of
// answers that respondents gave.
package survey

import "slices"

// Kind says what sort of question a column holds and so what may be computed.
type Kind string

// The kinds. Single choice, ordered and choose-all are tabulated by answer; a
// discrete number is tabulated and summarised; a continuous number is summarised;
// text and identifiers are only counted. A weight says how much a respondent
// counts for; a count how many respondents a row stands for, and in force it
// multiplies every tally.
const (
	Single     Kind = "single"
	Ordered    Kind = "ordered"
	ChooseAll  Kind = "choose_all"
	Discrete   Kind = "discrete"
	Continuous Kind = "continuous"
	Text       Kind = "text"
	Identifier Kind = "identifier"
	Weight     Kind = "weight"
	Count      Kind = "count"
	// Summarised is a number of which only n, mean and standard deviation are known, in each
	// group: a derivation by Summaries says them.
	Summarised Kind = "summarised"
)

// Kinds lists the kinds as which a column can be read, in the order in which they are offered.
var Kinds = []Kind{Single, Ordered, ChooseAll, Discrete, Continuous, Text, Identifier, Weight, Count}

// Known reports whether there is such a kind; one that is not offered is known, too.
func (k Kind) Known() bool { return k == Summarised || slices.Contains(Kinds, k) }

// Tabulated reports whether the answers of this kind are counted one by one.
func (k Kind) Tabulated() bool { return k.Coded() || k == ChooseAll }

// Coded reports whether each respondent has exactly one answer of a list.
func (k Kind) Coded() bool { return k == Single || k == Ordered || k == Discrete }

// Ranked reports whether the answers of the list have an order of their own, so that
// running sums mean something.
func (k Kind) Ranked() bool { return k == Ordered || k == Discrete }

// Textual reports whether the answers of this kind are only counted.
func (k Kind) Textual() bool { return k == Text || k == Identifier }

// Numeric reports whether averages of this kind mean anything.
func (k Kind) Numeric() bool { return k == Discrete || k.Measured() }

// Measured reports whether the column holds numbers rather than answers of a list.
func (k Kind) Measured() bool { return k == Continuous || k == Weight || k == Count }

// Slot is the fixed number under which an answer of a question is stored in its
// column. It never changes when labels, order or missing reasons do.
type Slot uint16

// Blank is the slot of an empty cell. Every question has it.
const Blank Slot = 0

// Answer is one possible answer of a question.
type Answer struct {
	Slot  Slot
	Code  string // as it stood in the file, stray blanks removed; "" for Blank
	Label string // what people read; the code until someone edits it
	// Missing is the reason why this answer does not count as answered, such as
	// "no answer" or "refused"; "" for a proper answer.
	Missing string
	// SameAs is the slot of the answer under which this spelling is counted, or nil.
	// It is never itself counted under another one.
	SameAs *Slot
	// Score is the number that an ordered answer stands for in methods that need
	// one; nil for none.
	Score *float64
	// From and To are the limits of a class interval, To not included except where
	// the class is a single number; nil when the answer is no class or open there.
	From, To *float64
}

// Proper reports whether the answer counts as answered under its own name: it is neither
// missing nor another spelling.
func (a Answer) Proper() bool { return a.Missing == "" && a.SameAs == nil }

// Question is a question with its answers in the order in which they are shown.
type Question struct {
	Name    string // the column's name in the file
	Wording string
	// Short names the question within a sentence and over a column, such as "tenure"; ""
	// for none.
	Short   string
	Note    string
	Section string
	Kind    Kind
	Answers []Answer
	// Base is the condition under which the question was asked; nil means of all.
	Base *Condition
	// Derivation is set for a question made from others.
	Derivation *Derivation
}

// Slots returns one more than the highest slot of the question's answers.
func (q Question) Slots() int {
	n := 1
	for _, a := range q.Answers {
		n = max(n, int(a.Slot)+1)
	}
	return n
}

// Answer returns the answer of a slot.
func (q Question) Answer(s Slot) (Answer, bool) {
	for _, a := range q.Answers {
		if a.Slot == s {
			return a, true
		}
	}
	return Answer{}, false
}

// Proper lists the proper answers, in the question's order.
func (q Question) Proper() (out []Answer) {
	for _, a := range q.Answers {
		if a.Proper() {
			out = append(out, a)
		}
	}
	return out
}

// Places gives per slot the place of its answer among the proper ones, −1 for none; another spelling has
// that of its answer.
func (q Question) Places() []int32 {
	places := make([]int32, q.Slots())
	for i := range places {
		places[i] = -1
	}
	for i, a := range q.Proper() {
		places[a.Slot] = int32(i)
	}
	for slot, to := range q.counted() {
		places[slot] = places[to]
	}
	return places
}

// counted gives per slot the slot under which it is counted.
func (q Question) counted() []Slot {
	to := make([]Slot, q.Slots())
	for i := range to {
		to[i] = Slot(i)
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			to[a.Slot] = *a.SameAs
		}
	}
	return to
}

// missing tells per slot whether it is a missing answer once spellings are
// counted under their answer.
func (q Question) missing() []bool {
	is := make([]bool, q.Slots())
	for _, a := range q.Answers {
		is[a.Slot] = a.Missing != ""
	}
	for s, to := range q.counted() {
		is[s] = is[to]
	}
	return is
}

// SlotLimit bounds the number of slots of a question, set by the column's width.
const SlotLimit = 1 << 16
