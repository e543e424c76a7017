package survey

import "strings"

// Values gives the number that each slot of a coded question stands for, read from
// the answers' codes. A spelling counted under another answer takes that answer's
// number; missing answers and words have none.
func (q Question) Values() map[Slot]float64 {
	values := map[Slot]float64{}
	comma := commaIsDecimal(q.Answers)
	for _, a := range q.Answers {
		if !a.Proper() {
			continue
		}
		if x, ok := ParseNumber(strings.TrimSpace(a.Code), comma); ok {
			values[a.Slot] = x
		}
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			if x, ok := values[*a.SameAs]; ok {
				values[a.Slot] = x
			}
		}
	}
	return values
}

// Scores gives the score of each proper answer: the one set, else its number, else
// its place from 1.
func (q Question) Scores() map[Slot]float64 {
	values, scores := q.Values(), map[Slot]float64{}
	place := 0.0
	for _, a := range q.Answers {
		if !a.Proper() {
			continue
		}
		place++
		x, isNumber := values[a.Slot]
		switch {
		case a.Score != nil:
			scores[a.Slot] = *a.Score
		case isNumber:
			scores[a.Slot] = x
		default:
			scores[a.Slot] = place
		}
	}
	return scores
}
