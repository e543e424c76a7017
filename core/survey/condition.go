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
	t, err := c.truths(rows, get)
	if err != nil {
		return nil, err
	}
	in := NewSet(rows)
	for i, v := range t {
		if v == yes {
			in.Add(i)
		}
	}
	return in, nil
}

func (c Condition) truths(rows int, get func(id uint64) (Source, error)) ([]truth, error) {
	switch c.Op {
	case And, Or, Not:
		var out []truth
		for i, part := range c.Of {
			t, err := part.truths(rows, get)
			if err != nil {
				return nil, err
			}
			switch {
			case c.Op == Not:
				for r := range t {
					t[r] = yes - t[r]
				}
				return t, nil
			case i == 0:
				out = t
			case c.Op == And:
				for r := range t {
					out[r] = min(out[r], t[r])
				}
			default:
				for r := range t {
					out[r] = max(out[r], t[r])
				}
			}
		}
		return out, nil
	}
	s, err := get(c.Question)
	if err != nil {
		return nil, err
	}
	if s.Column.Rows() != rows {
		return nil, fmt.Errorf("survey: condition: %q has %d of %d rows", s.Question.Name, s.Column.Rows(), rows)
	}
	return c.leaf(s, rows), nil
}

// leaf looks at one question. For slots the outcome is looked up in a table.
func (c Condition) leaf(s Source, rows int) []truth {
	q, column := s.Question, s.Column
	missing, counted := q.missing(), q.counted()
	chosen := make([]bool, len(missing))
	for _, slot := range c.Answers {
		if int(slot) < len(chosen) {
			chosen[slot] = true
		}
	}
	values := q.Values()
	between := func(x float64) truth {
		if (c.From == nil || *c.From <= x) && (c.To == nil || x <= *c.To) {
			return yes
		}
		return no
	}
	of := func(slot int) truth {
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
				return between(x)
			}
			return unknown
		case chosen[counted[slot]] || chosen[slot]:
			return yes
		}
		return no
	}
	out := make([]truth, rows)
	switch {
	case column.U8 != nil || column.U16 != nil:
		table := make([]truth, SlotLimit)
		for slot := range table {
			table[slot] = of(slot)
		}
		for i, slot := range column.U8 {
			out[i] = table[slot]
		}
		for i, slot := range column.U16 {
			out[i] = table[slot]
		}
	case column.F64 != nil:
		for i, x := range column.F64 {
			switch slot, isMissing := MissingSlot(x); {
			case isMissing:
				out[i] = of(int(slot))
			case c.Op == Between:
				out[i] = between(x)
			case !math.IsNaN(x):
				out[i] = yes
			}
		}
	case column.Sets != nil:
		for i, set := range column.Sets {
			out[i] = no
			for slot := range missing {
				if set&(1<<slot) != 0 {
					out[i] = max(out[i], of(slot))
				}
			}
			if set == 0 && c.Op == Answered {
				out[i] = yes
			}
		}
	default:
		for i, text := range column.Text {
			if text != "" {
				out[i] = yes
			}
		}
	}
	return out
}
