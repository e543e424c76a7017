package survey

import (
	"slices"
	"strings"
)

// SetMissing declares codes as missing, each with its reason; an empty reason makes
// an answer proper again. In a column of numbers the numbers that a code is written
// as become missing answers, and the other way round. Codes that the question does
// not have are passed over. found counts those that it has.
func SetMissing(q Question, c Column, reasons map[string]string) (out Question, column Column, found int) {
	q.Answers = slices.Clone(q.Answers)
	known := map[string]bool{}
	for i, a := range q.Answers {
		code := strings.TrimSpace(a.Code)
		reason, said := reasons[code]
		if !said || a.Slot == Blank && reason == "" {
			continue
		}
		known[code] = true
		found++
		q.Answers[i].Missing, q.Answers[i].SameAs = reason, nil
	}
	for i, a := range q.Answers {
		if a.SameAs == nil {
			continue
		}
		if under, ok := q.Answer(*a.SameAs); ok && under.Missing != "" {
			q.Answers[i].SameAs, q.Answers[i].Missing = nil, under.Missing
		}
	}
	if c.F64 == nil {
		return q, c, found
	}
	out, column, more := numbersMissing(q, c, reasons, known)
	return out, column, found + more
}

func numbersMissing(q Question, c Column, reasons map[string]string, known map[string]bool) (Question, Column, int) {
	become := map[float64]Slot{}
	back := map[Slot]float64{}
	for code, reason := range reasons {
		x, isNumber := ParseNumber(code, true)
		if !isNumber || reason == "" || known[code] {
			continue
		}
		if !slices.Contains(c.F64, x) {
			continue
		}
		a := Answer{Slot: Slot(q.Slots()), Code: code, Label: code, Missing: reason}
		become[x] = a.Slot
		q.Answers = append(q.Answers, a)
	}
	kept := q.Answers[:0:0]
	for _, a := range q.Answers {
		if x, isNumber := ParseNumber(strings.TrimSpace(a.Code), true); a.Missing == "" && isNumber {
			back[a.Slot] = x // a number again, which needs no answer of its own
			continue
		}
		kept = append(kept, a)
	}
	q.Answers = kept
	if len(become)+len(back) == 0 {
		return q, c, 0
	}
	out := slices.Clone(c.F64)
	for i, x := range out {
		if slot, missing := MissingSlot(x); missing {
			if y, ok := back[slot]; ok {
				out[i] = y
			}
		} else if slot, ok := become[x]; ok {
			out[i] = MissingNumber(slot)
		}
	}
	return q, Column{F64: out}, len(become)
}

// CountAs counts the spelling rare under the answer common, both given by code; what
// was counted under rare goes with it. Unknown codes change nothing.
func CountAs(q Question, rare, common string) Question {
	find := func(code string) int {
		return slices.IndexFunc(q.Answers, func(a Answer) bool { return a.Code == code })
	}
	r, c := find(rare), find(common)
	if r < 0 || c < 0 || r == c || q.Answers[r].Slot == Blank || q.Answers[c].SameAs != nil {
		return q
	}
	q.Answers = slices.Clone(q.Answers)
	to := q.Answers[c].Slot
	for i, a := range q.Answers {
		if i == r || a.SameAs != nil && *a.SameAs == q.Answers[r].Slot {
			q.Answers[i].SameAs, q.Answers[i].Missing = &to, ""
		}
	}
	return q
}
