package survey

import (
	"fmt"
	"math"
	"slices"
)

// Op is what a condition does.
type Op string

// The operations. The first three join conditions; the others look at a question.
const (
	And      Op = "and"
	Or       Op = "or"
	Not      Op = "not"
	AnyOf    Op = "any_of"   // one of these answers was given
	Between  Op = "between"  // From ≤ number ≤ To, either end may be open
	Answered Op = "answered" // a proper answer was given
)

// Ops lists them.
var Ops = []Op{And, Or, Not, AnyOf, Between, Answered}

// Condition says which respondents are meant. A respondent without a proper answer
// to a question meets neither AnyOf and Between on it nor their negation (Kleene
// 1952, three-valued logic): what is not known is not counted in.
type Condition struct {
	Op       Op          `json:"op"`
	Of       []Condition `json:"of,omitempty"`       // for And, Or, Not
	Question uint64      `json:"question,omitempty"` // the id of a question
	Answers  []Slot      `json:"answers,omitempty"`  // for AnyOf
	From     *float64    `json:"from,omitempty"`     // for Between
	To       *float64    `json:"to,omitempty"`
}

// Bounds of conditions.
const (
	MostConditions = 60
	deepest        = 8
)

// ConditionError says what is wrong with a condition; texts under
// problem.condition.
type ConditionError struct{ Why string }

func (e *ConditionError) Error() string { return "survey: condition: " + e.Why }

// Check reports, as a *ConditionError, a condition that cannot be evaluated: empty,
// too large, about a question that find does not know, or asking of a question
// what its kind does not hold.
func (c Condition) Check(find func(id uint64) (Question, bool)) error {
	n := 0
	return c.check(find, 0, &n)
}

func (c Condition) check(find func(id uint64) (Question, bool), depth int, n *int) error {
	if *n++; *n > MostConditions || depth > deepest {
		return &ConditionError{"too_large"}
	}
	switch c.Op {
	case And, Or, Not:
		if len(c.Of) == 0 || c.Op == Not && len(c.Of) != 1 {
			return &ConditionError{"empty"}
		}
		for _, part := range c.Of {
			if err := part.check(find, depth+1, n); err != nil {
				return err
			}
		}
		return nil
	case AnyOf, Between, Answered:
	default:
		return &ConditionError{"operation"}
	}
	q, ok := find(c.Question)
	switch {
	case !ok:
		return &ConditionError{"question"}
	case c.Op == AnyOf && len(c.Answers) == 0:
		return &ConditionError{"empty"}
	case !slices.Contains(OpsOn(q.Kind), c.Op):
		return &ConditionError{"kind"}
	case c.Op == Between && (c.From == nil && c.To == nil || c.From != nil && c.To != nil && *c.From > *c.To):
		return &ConditionError{"range"}
	}
	return nil
}

// OpsOn lists what can be asked of a question of a kind, the most usual first.
func OpsOn(k Kind) []Op {
	var out []Op
	if k.Tabulated() {
		out = append(out, AnyOf)
	}
	if k.Numeric() {
		out = append(out, Between)
	}
	return append(out, Answered)
}

// Questions lists the ids of the questions that a condition looks at.
func (c Condition) Questions() []uint64 {
	if c.Question != 0 {
		return []uint64{c.Question}
	}
	var ids []uint64
	for _, part := range c.Of {
		ids = append(ids, part.Questions()...)
	}
	return ids
}

// Renamed gives the condition with other ids of its questions.
func (c Condition) Renamed(to func(id uint64) uint64) Condition {
	if c.Question != 0 {
		c.Question = to(c.Question)
	}
	of := c.Of
	c.Of = nil
	for _, part := range of {
		c.Of = append(c.Of, part.Renamed(to))
	}
	return c
}

// Source is a question with its column.
type Source struct {
	Question Question
	Column   Column
}

type truth int8

const (
	no truth = iota
	unknown
	yes
)

// Evaluate tells for each of rows respondents whether the condition, which has
// passed Check, holds. get gives a question with its column.
func (c Condition) Evaluate(rows int, get func(id uint64) (Source, error)) (*Set, error) {
	return c.those(yes, rows, get)
}

// those gives the respondents of whom the condition is known to hold, or known not to.
func (c Condition) those(is truth, rows int, get func(id uint64) (Source, error)) (*Set, error) {
	switch c.Op {
	case Not:
		return c.Of[0].those(yes-is, rows, get)
	case And, Or:
		out, err := c.Of[0].those(is, rows, get)
		for i := 1; err == nil && i < len(c.Of); i++ {
			var part *Set
			if part, err = c.Of[i].those(is, rows, get); err == nil {
				out.join(part, (c.Op == And) == (is == yes))
			}
		}
		return out, err
	}
	s, err := get(c.Question)
	if err != nil {
		return nil, err
	}
	if s.Column.Rows() != rows {
		return nil, fmt.Errorf("survey: condition: %q has %d of %d rows", s.Question.Name, s.Column.Rows(), rows)
	}
	return c.leaf(s, is, rows), nil
}

// ofSlot tells what is known of who has a slot of a question.
func (c Condition) ofSlot(q Question) func(slot int) truth {
	missing, counted, values := q.missing(), q.counted(), q.Values()
	chosen := make([]bool, len(missing))
	for _, slot := range c.Answers {
		if int(slot) < len(chosen) {
			chosen[slot] = true
		}
	}
	return func(slot int) truth {
		if slot >= len(missing) || missing[slot] {
			if c.Op == Answered {
				return no
			}
			return unknown
		}
		switch {
		case c.Op == Answered:
			return yes
		case c.Op == Between:
			if x, ok := values[Slot(slot)]; ok {
				return c.between(x)
			}
			return unknown
		case chosen[counted[slot]] || chosen[slot]:
			return yes
		}
		return no
	}
}

func (c Condition) between(x float64) truth {
	if (c.From == nil || *c.From <= x) && (c.To == nil || x <= *c.To) {
		return yes
	}
	return no
}

// leaf looks at one question. For slots the outcome is looked up in a table.
func (c Condition) leaf(s Source, is truth, rows int) *Set {
	column, of, out := s.Column, c.ofSlot(s.Question), NewSet(rows)
	switch {
	case column.U8 != nil:
		var table [256]bool
		for slot := range table {
			table[slot] = of(slot) == is
		}
		out.where8(column.U8, &table)
	case column.U16 != nil:
		table := new([1 << 16]bool)
		for slot := range table {
			table[slot] = of(slot) == is
		}
		out.where(func(row int) bool { return table[column.U16[row]] })
	case column.F64 != nil:
		out.where(func(row int) bool {
			x := column.F64[row]
			switch slot, isMissing := MissingSlot(x); {
			case isMissing:
				return of(int(slot)) == is
			case c.Op == Between:
				return c.between(x) == is
			}
			return !math.IsNaN(x) == (is == yes)
		})
	case column.Sets != nil:
		var met, open uint64
		for slot := range s.Question.Slots() {
			switch of(slot) {
			case yes:
				met |= 1 << slot
			case unknown:
				open |= 1 << slot
			}
		}
		out.where(func(row int) bool {
			set := column.Sets[row]
			if set&met != 0 || set == 0 && c.Op == Answered {
				return is == yes
			}
			return set&open == 0 && is == no
		})
	default:
		out.where(func(row int) bool { return (column.Text[row] != "") == (is == yes) })
	}
	return out
}
