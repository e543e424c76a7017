// Package survey is the data model: questions, their answers, and the columns of
// answers that respondents gave.
package survey

// Kind says what sort of question a column holds and so what may be computed.
type Kind string

// The kinds. Single choice and ordered are tabulated by answer; a discrete
// number is tabulated and summarised; a continuous number is summarised; text
// and identifiers are only counted.
const (
	Single     Kind = "single"
	Ordered    Kind = "ordered"
	Discrete   Kind = "discrete"
	Continuous Kind = "continuous"
	Text       Kind = "text"
	Identifier Kind = "identifier"
)

// Kinds lists every kind in the order in which it is offered.
var Kinds = []Kind{Single, Ordered, Discrete, Continuous, Text, Identifier}

// Tabulated reports whether the answers of this kind are counted one by one.
func (k Kind) Tabulated() bool { return k == Single || k == Ordered || k == Discrete }

// Textual reports whether the answers of this kind are only counted.
func (k Kind) Textual() bool { return k == Text || k == Identifier }

// Numeric reports whether averages of this kind mean anything.
func (k Kind) Numeric() bool { return k == Discrete || k == Continuous }

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
}

// Question is a question with its answers in the order in which they are shown.
type Question struct {
	Name    string // the column's name in the file
	Wording string
	Kind    Kind
	Answers []Answer
}

// SlotLimit bounds the number of slots of a question, set by the column's width.
const SlotLimit = 1 << 16
