package survey

import (
	"errors"
	"math"
	"slices"
	"strings"
)

// ErrUnknownAnswer is returned for a text that is no answer of the question.
var ErrUnknownAnswer = errors.New("survey: no such answer")

// ErrNotACount is returned for a count that is not whole or below 0.
var ErrNotACount = errors.New("survey: not a count")

// Correct gives the respondent in a row (from 0) another answer: one of the
// question's, by code or else by label; a number in a column of numbers; any text in
// one of texts; "" for the blank. With isNew a code that the question lacks becomes
// an answer. The column that came in is not touched. A set is made from others, so it
// is not corrected here (ErrChooseAll).
func Correct(q Question, c Column, row int, text string, isNew bool) (Question, Column, error) {
	if c.Text != nil {
		out := slices.Clone(c.Text)
		out[row] = text
		return q, Column{Text: out}, nil
	}
	if c.Sets != nil {
		return q, c, ErrChooseAll
	}
	if q.Kind == Count && text != "" {
		if x, ok := ParseNumber(text, true); !ok || x < 0 || x != math.Trunc(x) {
			return q, c, ErrNotACount
		}
	}
	a, known := q.named(text)
	if c.F64 != nil {
		out := slices.Clone(c.F64)
		x, isNumber := ParseNumber(text, true)
		switch {
		case known:
			out[row] = MissingNumber(a.Slot)
		case isNumber:
			out[row] = x
		default:
			return q, c, ErrUnknownAnswer
		}
		return q, Column{F64: out}, nil
	}
	if !known {
		if !isNew || text == "" || !q.Kind.Coded() {
			return q, c, ErrUnknownAnswer
		}
		if q.Slots() >= SlotLimit || len(q.Answers) > MostAnswers {
			return q, c, ErrTooManyAnswers
		}
		q = Describe(q, Question{Answers: append(slices.Clone(q.Answers), Answer{Code: text, Label: text})})
		a, _ = q.named(text)
	}
	slot := a.Slot
	if c.U8 != nil && slot <= math.MaxUint8 {
		out := slices.Clone(c.U8)
		out[row] = uint8(slot)
		return q, Column{U8: out}, nil
	}
	out := make([]uint16, c.Rows())
	for i := range out {
		out[i] = uint16(c.slotAt(i))
	}
	out[row] = uint16(slot)
	return q, Column{U16: out}, nil
}

// named finds an answer by its code, or else by its label if only one bears it.
func (q Question) named(text string) (Answer, bool) {
	var byLabel []Answer
	for _, a := range q.Answers {
		if strings.TrimSpace(a.Code) == strings.TrimSpace(text) {
			return a, true
		}
		if a.Label == text {
			byLabel = append(byLabel, a)
		}
	}
	if len(byLabel) == 1 {
		return byLabel[0], true
	}
	return Answer{}, false
}

// MissingAt tells whether a respondent's answer is missing.
func (q Question) MissingAt(c Column) func(row int) bool {
	missing := q.missing()
	switch {
	case c.F64 != nil:
		return func(i int) bool { _, is := MissingSlot(c.F64[i]); return is }
	case c.Text != nil:
		return func(i int) bool { return c.Text[i] == "" }
	case c.Sets != nil:
		return func(i int) bool {
			for s, is := range missing {
				if is && c.Sets[i]&(1<<s) != 0 {
					return true
				}
			}
			return false
		}
	}
	return func(i int) bool {
		s := int(c.slotAt(i))
		return s < len(missing) && missing[s]
	}
}
