// Package inspect looks at answers that have arrived and reports what a person would
// want to know before trusting them: what looks like something else, what is probably
// missing, what is probably the same. It only ever suggests.
package inspect

import (
	"math"
	"regexp"
	"strings"

	"widetally/core/survey"
)

// Kind names a suspicion; the texts are in the catalogue under inspect.
type Kind string

// The suspicions about one question.
const (
	LooksIdentifier Kind = "identifier"   // every respondent has another one
	LooksWeight     Kind = "weight"       // positive numbers around 1
	LooksCount      Kind = "count"        // whole numbers under a name such as count
	LooksText       Kind = "text"         // free text
	LooksDates      Kind = "dates"        // calendar dates
	LooksParts      Kind = "parts"        // several answers in a cell, see Separator
	Constant        Kind = "constant"     // everybody gave the same answer
	NobodyAnswered  Kind = "nobody"       // no proper answer at all
	LooksMissing    Kind = "missing_code" // a code that usually means missing
	LooksTotal      Kind = "total"        // an answer called total that is the sum of the others
	LooksNumber     Kind = "number"       // 1, 2, 3, …, which may be codes or a number of things
	SameButCase     Kind = "same_case"    // two answers that differ in case, blanks or accents
	SameButSlip     Kind = "same_slip"    // two answers one slip of the finger apart
	OutsideBase     Kind = "outside_base" // answers of respondents who were not asked
)

// Suspicion is one thing noticed about a question. Slot is the answer concerned,
// Other the one it is probably the same as; for a number Code is its text.
type Suspicion struct {
	Kind        Kind
	Slot, Other survey.Slot
	Code        string
	N, NOther   int64
	Separator   string
}

// Report is what was found about one question.
type Report struct {
	Answered, Missing int64
	// Different counts the different proper answers given; for choose-all questions
	// those chosen by anybody.
	Different int
	// Smallest and Largest are the ends of the numbers or coded numbers; nil without any.
	Smallest, Largest *float64
	Suspicions        []Suspicion
}

var (
	datePattern = regexp.MustCompile(`^(\d{4}-\d{1,2}-\d{1,2}([T ]\d{1,2}:\d{2}(:\d{2})?)?|\d{1,2}[./]\d{1,2}[./]\d{2,4})$`)
	missingWord = regexp.MustCompile(`(?i)^(n/?a|n\.a\.|none given|no answer|refused|refusal|unknown|don'?t know|dk|missing|not applicable|not recorded|not asked|null|nan|-|\?|\.|#n/a)$`)
	missingCode = regexp.MustCompile(`^(-[1-9]|-9[0-9]|-99[0-9]|-9999?|9|99|999|9999|8|98|998|88|888|77|777)$`)
)

var totalName = regexp.MustCompile(`(?i)^(total|totals|sum|grand total)$`)

// fewestNumbers is how many numbers without a gap may be a number of things.
const fewestNumbers = 6

func consecutive(values map[survey.Slot]float64) bool {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, x := range values {
		lo, hi = min(lo, x), max(hi, x)
	}
	return lo >= 0 && hi-lo == float64(len(values)-1)
}

// Question inspects one question's column. asked is nil, or tells per row whether the
// question was asked.
func Question(q survey.Question, c survey.Column, of survey.Sample, asked *survey.Set) (*Report, error) {
	counts, err := survey.CountAnswers(q, c, of)
	if err != nil {
		return nil, err
	}
	r := &Report{Answered: counts.Everyone - counts.Missing, Missing: counts.Missing}
	add := func(s Suspicion) { r.Suspicions = append(r.Suspicions, s) }
	if r.Answered == 0 {
		add(Suspicion{Kind: NobodyAnswered})
		return r, nil
	}
	values := q.Values()
	r.ends(q, c, counts.BySlot, values, of)
	switch {
	case q.Kind.Tabulated():
		for _, a := range q.Answers {
			if a.Proper() && counts.BySlot[a.Slot] > 0 {
				r.Different++
			}
		}
		if r.Different == 1 && q.Kind != survey.ChooseAll {
			add(Suspicion{Kind: Constant})
		}
	case c.F64 != nil:
		r.numbers(q, c, of)
	default:
		r.texts(q, c, of)
	}
	if q.Kind.Coded() {
		r.coded(q, counts.BySlot, values)
	}
	if asked != nil {
		var n int64
		got, err := survey.CountAnswers(q, c, survey.Sample{Frequency: of.Frequency, Subset: asked.Without()})
		if err != nil {
			return nil, err
		}
		if n = got.Everyone - got.Missing; n > 0 {
			add(Suspicion{Kind: OutsideBase, N: n})
		}
	}
	return r, nil
}

func (r *Report) ends(q survey.Question, c survey.Column, counts []int64, values map[survey.Slot]float64, of survey.Sample) {
	lo, hi, any := math.Inf(1), math.Inf(-1), false
	note := func(x float64) { lo, hi, any = min(lo, x), max(hi, x), true }
	if c.F64 != nil {
		for i, x := range c.F64 {
			if _, missing := survey.MissingSlot(x); !missing && of.Counts(i) > 0 {
				note(x)
			}
		}
	} else {
		for slot, x := range values {
			if a, ok := q.Answer(slot); ok && a.SameAs == nil && counts[slot] > 0 {
				note(x)
			}
		}
	}
	if any {
		r.Smallest, r.Largest = &lo, &hi
	}
}

func (r *Report) numbers(q survey.Question, c survey.Column, of survey.Sample) {
	seen := map[float64]int64{}
	whole, positive, sum, n := true, true, 0.0, 0
	for i, x := range c.F64 {
		times := of.Counts(i)
		if _, missing := survey.MissingSlot(x); missing || times == 0 {
			continue
		}
		if _, known := seen[x]; known || len(seen) < 100_000 {
			seen[x] += times
		}
		whole, positive = whole && x == math.Trunc(x), positive && x > 0
		sum, n = sum+x, n+1
	}
	r.Different = len(seen)
	mean := sum / float64(n)
	switch {
	case q.Kind == survey.Weight || q.Kind == survey.Count:
	case positive && !whole && mean > 0.5 && mean < 2 && (survey.NamesWeight(q.Name) || mean > 0.95 && mean < 1.05):
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksWeight})
	case whole && survey.NamesCount(q.Name):
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksCount})
	}
	if r.Different == 1 {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: Constant})
	}
	// A code for missing among numbers lies far from the others or below 0 alone.
	for x, times := range seen {
		if x == math.Trunc(x) && missingCode.MatchString(survey.FormatNumber(x)) && isolated(x, seen) {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksMissing, Code: survey.FormatNumber(x), N: times})
		}
	}
}

// isolated reports whether a number is negative where no other is, or further above
// the next lower one than all others lie apart together.
func isolated(x float64, seen map[float64]int64) bool {
	lo, hi, n := math.Inf(1), math.Inf(-1), 0
	for y := range seen {
		if y != x && !(missingCode.MatchString(survey.FormatNumber(y)) && (y < 0) == (x < 0) && (y < 0 || y > 76)) {
			lo, hi, n = min(lo, y), max(hi, y), n+1
		}
	}
	if n < 3 {
		return false
	}
	return x < 0 && lo >= 0 || x > 0 && x > hi+(hi-lo)
}

func (r *Report) texts(q survey.Question, c survey.Column, of survey.Sample) {
	seen := map[string]struct{}{}
	dates := true
	for i, s := range c.Text {
		if s == "" || of.Counts(i) == 0 {
			continue
		}
		seen[s] = struct{}{}
		dates = dates && datePattern.MatchString(strings.TrimSpace(s))
	}
	r.Different = len(seen)
	switch {
	case dates:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksDates})
	case q.Kind == survey.Identifier:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksIdentifier})
	default:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksText})
		cells := make([]string, 0, len(seen))
		for s := range seen {
			cells = append(cells, s)
		}
		r.parts(cells)
	}
}

func (r *Report) coded(q survey.Question, counts []int64, values map[survey.Slot]float64) {
	var cells []string
	dates, unlabelled := true, true
	for _, a := range q.Answers {
		if a.Proper() && counts[a.Slot] > 0 {
			cells = append(cells, a.Code)
			dates = dates && datePattern.MatchString(strings.TrimSpace(a.Code))
			unlabelled = unlabelled && a.Label == strings.TrimSpace(a.Code)
		}
	}
	if dates && len(cells) > 0 {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksDates})
	}
	if unlabelled {
		r.parts(cells)
	}
	for _, a := range q.Answers {
		if a.Proper() && counts[a.Slot] > 0 && probablyMissing(q, a, values) {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksMissing, Slot: a.Slot, Code: a.Code, N: counts[a.Slot]})
		}
	}
	for _, a := range q.Answers {
		if total := int64(0); totalName.MatchString(strings.TrimSpace(a.Code)) && a.Proper() && counts[a.Slot] > 0 {
			for _, o := range q.Answers {
				if o.Slot != a.Slot && o.Proper() {
					total += counts[o.Slot]
				}
			}
			if total == counts[a.Slot] {
				r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksTotal, Slot: a.Slot, Code: a.Code, N: total})
			}
		}
	}
	if q.Kind == survey.Single && unlabelled && len(values) >= fewestNumbers && len(values) == len(cells) && consecutive(values) {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksNumber, N: int64(len(values))})
	}
	for _, l := range survey.Lookalikes(q.Answers, counts) {
		k := SameButSlip
		if l.CaseOrBlanks {
			k = SameButCase
		}
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: k, Slot: l.Rare, Other: l.Common, N: counts[l.Rare], NOther: counts[l.Common]})
	}
}

// probablyMissing reports whether an answer's code usually means missing: a word such
// as refused, or a number such as −9 or 99 that leaves a gap to the others.
func probablyMissing(q survey.Question, a survey.Answer, values map[survey.Slot]float64) bool {
	code := strings.TrimSpace(a.Code)
	if missingWord.MatchString(code) || missingWord.MatchString(a.Label) {
		return true
	}
	x, isNumber := values[a.Slot]
	if !isNumber || !missingCode.MatchString(code) || a.Label != code {
		return false
	}
	if len(values) == 1 { // alone among words
		words := 0
		for _, o := range q.Answers {
			if o.Slot != a.Slot && o.Slot != survey.Blank && o.SameAs == nil {
				words++
			}
		}
		return words > 0
	}
	seen := map[float64]int64{}
	for s, v := range values {
		if s != a.Slot {
			seen[v] = 1
		}
	}
	seen[x] = 1
	if x > 0 && x < 10 { // 8 and 9 are codes like any other unless the list ends well below
		hi := math.Inf(-1)
		for y := range seen {
			if y < 8 {
				hi = max(hi, y)
			}
		}
		return len(seen) > 2 && hi <= 5 && hi >= 1
	}
	return len(seen) > 2 && isolated(x, seen) || x < 0 && len(seen) > 2
}

// parts looks for a separator that cuts several cells into answers which come back
// elsewhere alone.
func (r *Report) parts(cells []string) {
	const fewest = 4
	for _, mark := range []string{";", "|", ",", "/", "+"} {
		with := 0
		pieces := map[string]int{}
		for _, cell := range cells {
			list := strings.Split(cell, mark)
			if len(list) > 1 {
				with++
			}
			for _, p := range list {
				pieces[strings.TrimSpace(p)]++
			}
		}
		again := 0
		for _, n := range pieces {
			if n > 1 {
				again++
			}
		}
		if with >= fewest && len(pieces) <= survey.MostSetItems && len(pieces) < len(cells) && 2*again >= len(pieces) {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksParts, Separator: mark, N: int64(with)})
			return
		}
	}
}
