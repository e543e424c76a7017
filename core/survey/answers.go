package survey

import (
	"slices"
	"strconv"
	"strings"
)

// WithAnswer gives a question a further answer, which nobody gave yet: in its place where all
// codes are rising whole numbers, else behind the other proper answers.
func WithAnswer(q Question, code, label string) Question {
	at := len(q.Answers)
	for i, a := range slices.Backward(q.Answers) {
		if a.Proper() {
			at = i + 1
			break
		}
		at = i
	}
	if n, err := strconv.Atoi(code); err == nil {
		if codes, whole := wholeCodes(q); whole && slices.IsSorted(codes) {
			at = 0
			for i, a := range q.Answers {
				if x, err := strconv.Atoi(strings.TrimSpace(a.Code)); err == nil && a.Proper() && x < n {
					at = i + 1
				}
			}
		}
	}
	return Describe(q, Question{Answers: slices.Insert(slices.Clone(q.Answers), at, Answer{Code: code, Label: label})})
}

// wholeCodes are the codes of the proper answers as numbers; whole is false where one is none, or
// has a label of its own, as codes of a codebook have.
func wholeCodes(q Question) (codes []int, whole bool) {
	for _, a := range q.Answers {
		if !a.Proper() {
			continue
		}
		code := strings.TrimSpace(a.Code)
		n, err := strconv.Atoi(code)
		if err != nil || a.Label != code {
			return nil, false
		}
		codes = append(codes, n)
	}
	return codes, len(codes) > 0
}

// mostGaps bounds the codes that may have been left out by chance, fewestPerGap how many must
// be there for each.
const (
	mostGaps     = 2
	fewestPerGap = 3
)

// Gaps lists the codes that a question without labels lacks between its lowest, 0 or 1, and its
// highest: answers that perhaps nobody gave, and that belong to it all the same. Nil where codes
// are not numbered so.
func Gaps(q Question) (out []string) {
	codes, whole := wholeCodes(q)
	if !whole || !q.Kind.Coded() {
		return nil
	}
	slices.Sort(codes)
	if codes[0] != 0 && codes[0] != 1 || codes[len(codes)-1] > len(codes)+mostGaps {
		return nil
	}
	for i := 1; i < len(codes); i++ {
		for n := codes[i-1] + 1; n < codes[i]; n++ {
			out = append(out, strconv.Itoa(n))
		}
	}
	if len(out) > mostGaps || len(out)*fewestPerGap > len(codes) {
		return nil
	}
	return out
}
