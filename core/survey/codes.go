package survey

import (
	"errors"
	"math/bits"
	"strings"
)

// SetSeparator parts the chosen codes of a choose-all question written as text.
const SetSeparator = "; "

// Code returns what a respondent answered as text: the answer's code, the number
// in the shortest form that reads back, the text itself, or the chosen codes.
func (q Question) Code(c Column, row int) string { return q.coder(c)(row) }

// coder returns Code prepared for many rows.
func (q Question) coder(c Column) func(row int) string { return q.Writer(c, false) }

// Writer returns Code prepared for many rows, in codes or in the words that people
// read.
func (q Question) Writer(c Column, labels bool) func(row int) string {
	words := make([]string, q.Slots())
	for _, a := range q.Answers {
		words[a.Slot] = a.Code
		if labels {
			words[a.Slot] = a.Label
		}
	}
	return q.written(c, words)
}

func (q Question) written(c Column, words []string) func(row int) string {
	word := func(s int) string {
		if s < len(words) {
			return words[s]
		}
		return ""
	}
	switch {
	case c.U8 != nil:
		return func(i int) string { return word(int(c.U8[i])) }
	case c.U16 != nil:
		return func(i int) string { return word(int(c.U16[i])) }
	case c.F64 != nil:
		return func(i int) string {
			if s, missing := MissingSlot(c.F64[i]); missing {
				return word(int(s))
			}
			return FormatNumber(c.F64[i])
		}
	case c.Sets != nil:
		return func(i int) string {
			var chosen []string
			for rest := c.Sets[i]; rest != 0; rest &= rest - 1 {
				chosen = append(chosen, word(bits.TrailingZeros64(rest)))
			}
			return strings.Join(chosen, SetSeparator)
		}
	case c.Text != nil:
		return func(i int) string { return c.Text[i] }
	}
	return func(int) string { return "" }
}

// ErrTooManyAnswers is returned when a column holds more different cells than a
// list of answers may have.
var ErrTooManyAnswers = errors.New("survey: too many different answers for a list")

// ErrChooseAll is returned when a question that holds a set would become another
// kind or the other way round; sets are made and unmade by a derivation.
var ErrChooseAll = errors.New("survey: a choose-all question is made from others")

// Recode reads a question's answers as another kind. Answers keep their slots,
// labels and missing reasons while the column stays coded; otherwise the column is
// read anew from its codes, and answers that come back under the same code keep
// what was said about them. unread counts the cells that are no numbers and became
// missing for that reason.
func Recode(q Question, c Column, to Kind) (out Question, column Column, unread int64, err error) {
	if q.Kind != to && (q.Kind == ChooseAll || to == ChooseAll) {
		return q, c, 0, ErrChooseAll
	}
	if q.Kind == to || q.Kind.Coded() && to.Coded() || q.Kind.Textual() && to.Textual() || q.Kind.Measured() && to.Measured() {
		q.Kind = to
		return q, c, 0, nil
	}
	code := q.coder(c)
	b := NewBuilder(commaIsDecimal(q.Answers))
	for _, a := range q.Answers {
		if a.Missing != "" && a.Missing != NotANumber {
			b.Missing([]string{strings.TrimSpace(a.Code)})
		}
	}
	for i := range c.Rows() {
		b.Add([]byte(code(i)))
	}
	if !b.Fits(to) {
		return q, c, 0, ErrTooManyAnswers
	}
	known := map[string]Answer{}
	for _, a := range q.Answers {
		known[a.Code] = a
	}
	built := b.As(q.Name, to)
	for i := range built.Answers {
		a := &built.Answers[i]
		before, ok := known[a.Code]
		switch {
		case a.Slot == Blank:
			a.Label, a.Missing = q.blank().Label, q.blank().Missing
		case ok:
			a.Label, a.Score = before.Label, before.Score
			if before.Missing != "" {
				a.Missing = before.Missing
			}
		}
		if a.Missing == NotANumber {
			unread += b.times(a.Code)
		}
	}
	q.Kind, q.Answers = to, built.Answers
	return q, built.Data, unread, nil
}

func (q Question) blank() Answer {
	a, ok := q.Answer(Blank)
	if !ok {
		return blankAnswer()
	}
	return a
}

// HasNumber reports whether a column of numbers holds any.
func HasNumber(c Column) bool {
	for _, x := range c.F64 {
		if _, missing := MissingSlot(x); !missing {
			return true
		}
	}
	return false
}
