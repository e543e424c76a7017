package inspect

import (
	"regexp"
	"slices"
	"strings"

	"widetally/core/survey"
)

// Set is a run of questions that look like the items of one choose-all question: two
// answers each, the same ones, under names with a common beginning.
type Set struct {
	Stem      string
	Questions []int // positions
	// Chosen is, per question, the slot that means chosen.
	Chosen []survey.Slot
}

// Pair is two questions that look like the same one asked before and after.
type Pair struct{ Before, After int }

// chosenWords are the codes that mean chosen, against those that mean not.
var chosenWords = map[string]string{
	"1":        "0",
	"yes":      "no",
	"true":     "false",
	"x":        "",
	"chosen":   "not chosen",
	"selected": "not selected",
	"y":        "n",
}

// chosenOf returns the slot that means chosen, if the question's proper answers are
// such a pair, or the one word alone.
func chosenOf(q survey.Question) (survey.Slot, bool) {
	if !q.Kind.Coded() || q.Derivation != nil {
		return 0, false
	}
	var proper []survey.Answer
	for _, a := range q.Answers {
		if a.Proper() {
			proper = append(proper, a)
		}
	}
	if len(proper) < 1 || len(proper) > 2 {
		return 0, false
	}
	for i, a := range proper {
		not, ok := chosenWords[strings.ToLower(strings.TrimSpace(a.Code))]
		if ok && (len(proper) == 1 || strings.EqualFold(strings.TrimSpace(proper[1-i].Code), not)) {
			return a.Slot, true
		}
	}
	return 0, false
}

var stemEnd = regexp.MustCompile(`^(.+?)[ _.\-:]+[^ _.\-:]+$|^(.*?[a-zA-Z])\d+$`)

// stems lists the beginnings under which a name could stand with others, the longest
// first.
func stems(name string) []string {
	var out []string
	for i := len(name) - 1; i > 0; i-- {
		if strings.ContainsRune("_-.: ", rune(name[i])) {
			out = append(out, name[:i])
		}
	}
	if m := stemEnd.FindStringSubmatch(name); m != nil && m[2] != "" {
		out = append(out, m[2])
	}
	return out
}

// fewestItems is how many columns make a set.
const fewestItems = 3

// Sets finds runs of neighbouring questions that look like one choose-all question.
func Sets(questions []survey.Question) []Set {
	var out []Set
	for i := 0; i < len(questions); {
		best := Set{}
		for _, stem := range stems(questions[i].Name) {
			s := Set{Stem: stem}
			for k := i; k < len(questions); k++ {
				chosen, ok := chosenOf(questions[k])
				if !ok || !strings.HasPrefix(questions[k].Name, stem) || len(questions[k].Name) == len(stem) {
					break
				}
				s.Questions, s.Chosen = append(s.Questions, k), append(s.Chosen, chosen)
			}
			if len(s.Questions) > len(best.Questions) {
				best = s
			}
		}
		if len(best.Questions) >= fewestItems && len(best.Questions) <= survey.MostSetItems {
			out = append(out, best)
			i += len(best.Questions)
			continue
		}
		i++
	}
	return out
}

var pairWords = [][2]string{
	{"before", "after"},
	{"pre", "post"},
	{"then", "now"},
	{"t1", "t2"},
	{"wave1", "wave2"},
	{"first", "second"},
}

// Pairs finds questions whose names differ only in a word for before and after, with
// the same answers.
func Pairs(questions []survey.Question) []Pair {
	at := map[string]int{}
	for i, q := range questions {
		at[strings.ToLower(q.Name)] = i
	}
	var out []Pair
	for i, q := range questions {
		words := strings.FieldsFunc(strings.ToLower(q.Name), func(r rune) bool { return strings.ContainsRune("_-. ", r) })
		for k, w := range words {
			for _, pair := range pairWords {
				if w != pair[0] {
					continue
				}
				other := strings.Replace(strings.ToLower(q.Name), words[k], pair[1], 1)
				if j, ok := at[other]; ok && sameCodes(q, questions[j]) {
					out = append(out, Pair{i, j})
				}
			}
		}
	}
	return out
}

func sameCodes(a, b survey.Question) bool {
	codes := func(q survey.Question) map[string]bool {
		m := map[string]bool{}
		for _, x := range q.Answers {
			if x.Proper() {
				m[x.Code] = true
			}
		}
		return m
	}
	x, y := codes(a), codes(b)
	if !a.Kind.Coded() || !b.Kind.Coded() || len(x) != len(y) {
		return false
	}
	for c := range x {
		if !y[c] {
			return false
		}
	}
	return true
}

// Batteries finds runs of neighbouring questions with the same answers, three codes
// or more, which are probably one scale asked of several things.
func Batteries(questions []survey.Question) [][]int {
	var out [][]int
	for i := 0; i < len(questions); {
		k := i + 1
		proper := 0
		for _, a := range questions[i].Answers {
			if a.Proper() {
				proper++
			}
		}
		for proper >= 3 && k < len(questions) && questions[k].Kind == questions[i].Kind && sameCodes(questions[i], questions[k]) {
			k++
		}
		if k-i >= 2 {
			run := make([]int, 0, k-i)
			for n := i; n < k; n++ {
				run = append(run, n)
			}
			out = append(out, run)
		}
		i = k
	}
	return out
}

// MissingCodes is what usually means a missing answer in several questions.
type MissingCodes struct {
	Questions []int // positions
	// Of holds the codes of each of them, Codes all, the commonest first.
	Of    [][]string
	Codes []string
}

// Missing gathers what was noticed of missing answers question by question; nil unless two
// questions or more have it.
func Missing(reports []*Report) *MissingCodes {
	m, times := &MissingCodes{}, map[string]int{}
	for i, r := range reports {
		var codes []string
		for _, s := range r.Suspicions {
			if s.Kind == LooksMissing {
				code := strings.TrimSpace(s.Code)
				codes = append(codes, code)
				if times[code]++; times[code] == 1 {
					m.Codes = append(m.Codes, code)
				}
			}
		}
		if len(codes) > 0 {
			m.Questions, m.Of = append(m.Questions, i), append(m.Of, codes)
		}
	}
	if len(m.Questions) < 2 {
		return nil
	}
	slices.SortStableFunc(m.Codes, func(a, b string) int { return times[b] - times[a] })
	return m
}
