package shares

import (
	"math/big"
	"strings"
)

// ProblemKind names what is wrong with entered shares; the texts are in the
// catalogue under the same name.
type ProblemKind string

// The problems.
const (
	NotANumber     ProblemKind = "not_a_number"
	PercentMark    ProblemKind = "percent_mark"
	AmbiguousComma ProblemKind = "ambiguous_comma"
	Negative       ProblemKind = "negative"
	NoFigure       ProblemKind = "no_figure"       // an answer that got no share
	UnknownAnswer  ProblemKind = "unknown_answer"  // a name that no answer bears
	AmbiguousName  ProblemKind = "ambiguous_name"  // a name that two answers bear
	GivenTwice     ProblemKind = "given_twice"     // two entries for one answer
	SumOff         ProblemKind = "sum_off"         // percents or proportions off their total
	SumZero        ProblemKind = "sum_zero"        // nothing to divide by
	TooFewAnswers  ProblemKind = "too_few_answers" // fewer than two answers
)

// Problem is one thing that keeps the shares from being used. Answer is the
// position of the answer concerned, or −1.
type Problem struct {
	Kind   ProblemKind
	Answer int
	Entry  int    // position of the entry, or −1
	Text   string // the offending text, or for SumOff the gap "1.5"
}

// Aligned is the outcome of matching entries to answers.
type Aligned struct {
	// Figures holds per answer the typed figure as an exact number, nil where none.
	Figures []*big.Rat
	// Shares holds per answer the unit share; nil unless Usable.
	Shares []*big.Rat
	// Sum is the sum of the figures; Target what it should be, nil for modes
	// without one; Gap = Sum − Target.
	Sum, Target, Gap *big.Rat
	// Rescaled reports that the figures were divided by their sum on request
	// although they should have added to Target and did not.
	Rescaled bool
	// Rounded reports that the figures miss Target by no more than the rounding of their
	// printed digits allows, and were divided by their sum.
	Rounded bool
	// Loose lists the entries that matched only after ignoring letter case and
	// stray blanks, by position of the answer.
	Loose    []int
	Problems []Problem
}

// Usable reports whether a test may be run with these shares.
func (a *Aligned) Usable() bool { return len(a.Problems) == 0 }

// CanRescale reports whether rescaling would cure the only problem.
func (a *Aligned) CanRescale() bool {
	return len(a.Problems) == 1 && a.Problems[0].Kind == SumOff && a.Sum.Sign() > 0
}

// Name is what an answer may be called in a list of shares.
type Name struct{ Label, Code string }

// Align matches entries to answers by name and normalises the figures: Match and
// Normalise in one.
func Align(answers []Name, entries []Entry, m Scale, rescale bool) *Aligned {
	figures, loose, problems := Match(answers, entries)
	if m == Equal {
		problems = nil
	}
	a := Normalise(answers, figures, m, rescale)
	a.Loose = loose
	if len(problems) > 0 {
		a.Problems, a.Shares = append(problems, a.Problems...), nil
	}
	return a
}

// Match finds the answer of each entry by name: by label, then by code, then by
// either without regard to letter case and stray blanks; never by position. It
// returns the typed figure per answer, "" where none, and the positions of the
// answers that matched only loosely.
func Match(answers []Name, entries []Entry) (figures []string, loose []int, problems []Problem) {
	exact, folded := index(answers, func(s string) string { return s }), index(answers, fold)
	figures = make([]string, len(answers))
	given := make([]bool, len(answers))
	for e, entry := range entries {
		at, found := exact[entry.Name]
		isLoose := false
		if !found {
			at, found = folded[fold(entry.Name)]
			isLoose = true
		}
		switch {
		case !found:
			problems = append(problems, Problem{Kind: UnknownAnswer, Answer: -1, Entry: e, Text: entry.Name})
		case at < 0:
			problems = append(problems, Problem{Kind: AmbiguousName, Answer: -1, Entry: e, Text: entry.Name})
		case given[at]:
			problems = append(problems, Problem{Kind: GivenTwice, Answer: at, Entry: e, Text: entry.Name})
		default:
			given[at], figures[at] = true, strings.TrimSpace(entry.Figure)
			if isLoose {
				loose = append(loose, at)
			}
		}
	}
	return figures, loose, problems
}

// Normalise reads one figure per answer and turns them into shares. Every answer
// needs a figure, 0 included. Figures that do not add up are reported with the
// exact gap, and divided by their sum only when rescale is set, or when the gap is
// within the rounding of the printed digits. For mode Equal
// the figures are ignored.
func Normalise(answers []Name, figures []string, m Scale, rescale bool) *Aligned {
	a := &Aligned{Figures: make([]*big.Rat, len(answers)), Sum: new(big.Rat), Target: m.target()}
	if len(answers) < 2 {
		a.add(Problem{Kind: TooFewAnswers, Answer: -1, Entry: -1})
		return a
	}
	for i, figure := range figures {
		if m == Equal {
			figure = "1"
		}
		if figure == "" {
			a.add(Problem{Kind: NoFigure, Answer: i, Entry: -1, Text: answers[i].Label})
			continue
		}
		r, p := ParseFigure(figure, m)
		if p.Kind != "" {
			p.Answer, p.Entry = i, -1
			a.add(p)
			continue
		}
		a.Figures[i] = r
		a.Sum.Add(a.Sum, r)
	}
	if len(a.Problems) == 0 {
		a.divide(rescale, roundingOf(figures))
	}
	return a
}

// roundingOf is the most by which figures of one printing may miss their total, each
// rounded to the digits of the longest of them: half a unit of the last place each,
// figures of 0 excepted, and less than that together. Nil where they are not printed
// decimals, since a fraction is exact.
func roundingOf(figures []string) *big.Rat {
	places, rounded := 0, int64(0)
	for _, figure := range figures {
		if strings.Contains(figure, "/") {
			return nil
		}
		s := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(figure), "%"))
		if at := strings.LastIndexAny(s, ".,"); at >= 0 {
			places = max(places, len(s)-at-1)
		}
		if strings.Trim(s, "0.,") != "" {
			rounded++
		}
	}
	unit := new(big.Rat).SetFrac(big.NewInt(1), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil))
	return unit.Mul(unit, big.NewRat(rounded, 2))
}

// divide turns complete figures into shares, or says why not.
func (a *Aligned) divide(rescale bool, rounding *big.Rat) {
	if a.Sum.Sign() == 0 {
		a.add(Problem{Kind: SumZero, Answer: -1, Entry: -1})
		return
	}
	if a.Target != nil {
		a.Gap = new(big.Rat).Sub(a.Sum, a.Target)
		a.Rounded = a.Gap.Sign() != 0 && rounding != nil && new(big.Rat).Abs(a.Gap).Cmp(rounding) < 0
		if a.Gap.Sign() != 0 && !a.Rounded && !rescale {
			a.add(Problem{Kind: SumOff, Answer: -1, Entry: -1, Text: Format(a.Gap)})
			return
		}
		a.Rescaled = a.Gap.Sign() != 0 && !a.Rounded
	}
	a.Shares = make([]*big.Rat, len(a.Figures))
	for i, f := range a.Figures {
		a.Shares[i] = new(big.Rat).Quo(f, a.Sum)
	}
}

func (a *Aligned) add(p Problem) { a.Problems = append(a.Problems, p) }

// index maps names to answers; −1 marks a name that two answers bear. A label
// takes precedence over another answer's code.
func index(answers []Name, key func(string) string) map[string]int {
	m := map[string]int{}
	for _, pick := range []func(Name) string{func(n Name) string { return n.Code }, func(n Name) string { return n.Label }} {
		level := map[string]int{}
		for i, n := range answers {
			k := key(pick(n))
			if k == "" {
				continue
			}
			if other, taken := level[k]; taken && other != i {
				level[k] = -1
				continue
			}
			level[k] = i
		}
		for k, i := range level {
			m[k] = i
		}
	}
	return m
}

// fold drops what a typist does not see: letter case, outer and double blanks.
func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

// ProblemCode is the message of a problem with shares, below "problem.".
func ProblemCode(a *Aligned, p Problem) string {
	code := "shares." + string(p.Kind)
	if p.Kind == SumOff {
		if a.Gap.Sign() < 0 {
			return code + "_short"
		}
		return code + "_over"
	}
	return code
}

// ProblemValues are the values of that message.
func ProblemValues(a *Aligned, names []Name, p Problem) map[string]string {
	v := map[string]string{"text": p.Text, "sum": Format(a.Sum)}
	if p.Answer >= 0 {
		v["answer"] = names[p.Answer].Label
	}
	if p.Kind == SumOff {
		v["target"] = Format(a.Target)
		v["gap"] = Format(new(big.Rat).Abs(a.Gap))
	}
	return v
}
