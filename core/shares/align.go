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

// Align matches entries to answers by name: by label, then by code, then by
// either without regard to letter case and stray blanks; never by position.
// Every answer needs a figure, 0 included. Figures that do not add up are
// reported with the exact gap, and rescaled only when rescale is set. For mode
// Equal the entries are ignored.
func Align(answers []Name, entries []Entry, m Mode, rescale bool) *Aligned {
	a := &Aligned{Figures: make([]*big.Rat, len(answers)), Sum: new(big.Rat), Target: m.target()}
	if len(answers) < 2 {
		a.add(Problem{Kind: TooFewAnswers, Answer: -1, Entry: -1})
		return a
	}
	if m == Equal {
		for i := range answers {
			a.Figures[i] = big.NewRat(1, 1)
		}
	} else {
		a.match(answers, entries, m)
	}
	for _, f := range a.Figures {
		if f != nil {
			a.Sum.Add(a.Sum, f)
		}
	}
	if len(a.Problems) > 0 {
		return a
	}
	if a.Sum.Sign() == 0 {
		a.add(Problem{Kind: SumZero, Answer: -1, Entry: -1})
		return a
	}
	if a.Target != nil {
		a.Gap = new(big.Rat).Sub(a.Sum, a.Target)
		if a.Gap.Sign() != 0 {
			if !rescale {
				a.add(Problem{Kind: SumOff, Answer: -1, Entry: -1, Text: Format(a.Gap)})
				return a
			}
			a.Rescaled = true
		}
	}
	a.Shares = make([]*big.Rat, len(answers))
	for i, f := range a.Figures {
		a.Shares[i] = new(big.Rat).Quo(f, a.Sum)
	}
	return a
}

func (a *Aligned) add(p Problem) { a.Problems = append(a.Problems, p) }

func (a *Aligned) match(answers []Name, entries []Entry, m Mode) {
	exact, loose := index(answers, func(s string) string { return s }), index(answers, fold)
	given := make([]bool, len(answers))
	for e, entry := range entries {
		at, found := exact[entry.Name]
		if !found {
			if at, found = loose[fold(entry.Name)]; found && at >= 0 {
				a.Loose = append(a.Loose, at)
			}
		}
		switch {
		case !found:
			a.add(Problem{Kind: UnknownAnswer, Answer: -1, Entry: e, Text: entry.Name})
			continue
		case at < 0:
			a.add(Problem{Kind: AmbiguousName, Answer: -1, Entry: e, Text: entry.Name})
			continue
		case given[at]:
			a.add(Problem{Kind: GivenTwice, Answer: at, Entry: e, Text: entry.Name})
			continue
		}
		given[at] = true
		if strings.TrimSpace(entry.Figure) == "" {
			a.add(Problem{Kind: NoFigure, Answer: at, Entry: e, Text: entry.Name})
			continue
		}
		r, p := ParseFigure(entry.Figure, m)
		if p.Kind != "" {
			p.Answer, p.Entry = at, e
			a.add(p)
			continue
		}
		a.Figures[at] = r
	}
	for i, ok := range given {
		if !ok {
			a.add(Problem{Kind: NoFigure, Answer: i, Entry: -1, Text: answers[i].Label})
		}
	}
}

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
