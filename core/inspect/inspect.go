// Package inspect looks at answers that have arrived and reports what a person would
// want to know before trusting them: what looks like something else, what is probably
// missing, what is probably the same. It only ever suggests.
package inspect

import (
	"maps"
	"math"
	"regexp"
	"slices"
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
	LooksCodes      Kind = "codes"        // whole numbers under a name such as region, which may be codes
	LooksGap        Kind = "gap"          // a code that the others leave out, perhaps an answer that nobody gave
	LooksShares     Kind = "shares"       // percents of a published list in the place of answers
	LooksPercents   Kind = "percents"     // what percent each count is, printed beside it
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
	missingCode = regexp.MustCompile(`^(-[1-9]|-9[0-9]|-99[0-9]|-9999?|9|99|999|9999|8|98|998|88|888|77|777)$`)
)

// fewestNumbers is how many numbers without a gap may be a number of things.
const fewestNumbers = 6

// mayCount reports whether codes without a gap may be a number of things: many of them, or three
// or more that begin with none or stand under the name of a size.
func mayCount(name string, values map[survey.Slot]float64) bool {
	if len(values) >= fewestNumbers {
		return true
	}
	lowest := math.Inf(1)
	for _, x := range values {
		lowest = min(lowest, x)
	}
	return len(values) >= fewestFromNone && (lowest == 0 || survey.NamesSize(name))
}

// fewestFromNone is how many numbers from 0 on may be a number of things.
const fewestFromNone = 3

func consecutive(values map[survey.Slot]float64) bool {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, x := range values {
		lo, hi = min(lo, x), max(hi, x)
	}
	return lo >= 0 && hi-lo == float64(len(values)-1)
}

// Question inspects one question by the distribution of its column. outside is nil, or the
// distribution among those who were not asked the question.
func Question(q survey.Question, d, outside *survey.Distribution) *Report {
	counts := q.Counts(d)
	r := &Report{Answered: counts.Everyone - counts.Missing, Missing: counts.Missing}
	if q.Kind == survey.Summarised { // nobody's answer is known, which is no suspicion
		return &Report{}
	}
	add := func(s Suspicion) { r.Suspicions = append(r.Suspicions, s) }
	if r.Answered == 0 {
		add(Suspicion{Kind: NobodyAnswered})
		return r
	}
	values := q.Values()
	r.ends(q, d, counts.BySlot, values)
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
	case q.Kind.Measured():
		r.numbers(q, d.Numbers)
	default:
		r.texts(q, d.Texts)
	}
	if q.Kind.Coded() {
		r.coded(q, counts.BySlot, values)
	}
	r.shares(q, d.Numbers, counts.BySlot)
	if outside != nil {
		got := q.Counts(outside)
		if n := got.Everyone - got.Missing; n > 0 {
			add(Suspicion{Kind: OutsideBase, N: n})
		}
	}
	return r
}

func (r *Report) ends(q survey.Question, d *survey.Distribution, counts []int64, values map[survey.Slot]float64) {
	lo, hi := math.Inf(1), math.Inf(-1)
	if last := len(d.Numbers) - 1; last >= 0 {
		lo, hi = d.Numbers[0].Number, d.Numbers[last].Number
	}
	for slot, x := range values {
		if a, ok := q.Answer(slot); ok && a.SameAs == nil && counts[slot] > 0 && !q.Kind.Measured() {
			lo, hi = min(lo, x), max(hi, x)
		}
	}
	if lo <= hi {
		r.Smallest, r.Largest = &lo, &hi
	}
}

func (r *Report) numbers(q survey.Question, v []survey.Value) {
	whole, positive, below, sum, n := true, true, false, 0.0, int64(0)
	for _, w := range v {
		whole, positive = whole && w.Number == math.Trunc(w.Number), positive && w.Number > 0
		below = below || w.Number < 0
		sum, n = sum+w.Number*float64(w.Times), n+w.Times
	}
	r.Different = len(v)
	mean := sum / float64(n)
	switch {
	case q.Kind == survey.Weight || q.Kind == survey.Count:
	case positive && !whole && mean > 0.5 && mean < 2 && (survey.NamesWeight(q.Name) || mean > 0.95 && mean < 1.05):
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksWeight})
	case !below && len(v) > 1 && survey.NamesWeight(q.Name):
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksWeight})
	case whole && q.Kind.Numeric() && survey.NamesCode(q.Name) && len(v) <= survey.MostAnswers:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksCodes})
	case whole && survey.NamesCount(q.Name):
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksCount})
	}
	if r.Different == 1 {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: Constant})
	}
	// A code for missing among numbers lies far from the others or below 0 alone.
	numbers := make([]float64, len(v))
	for i, w := range v {
		numbers[i] = w.Number
	}
	for _, w := range v {
		if x := w.Number; math.Abs(x) <= 9999 && x == math.Trunc(x) && missingCode.MatchString(survey.FormatNumber(x)) &&
			isolated(x, numbers) {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksMissing, Code: survey.FormatNumber(x), N: w.Times})
		}
	}
}

// isolated reports whether a number is negative where no other is, or further above
// the next lower one than all others lie apart together.
func isolated(x float64, numbers []float64) bool {
	lo, hi, n := math.Inf(1), math.Inf(-1), 0
	for _, y := range numbers {
		if y != x &&
			!((y < 0) == (x < 0) && (y < 0 && y >= -9999 || y > 76 && y <= 9999) && missingCode.MatchString(survey.FormatNumber(y))) {
			lo, hi, n = min(lo, y), max(hi, y), n+1
		}
	}
	if n < 3 {
		return false
	}
	return x < 0 && lo >= 0 || x > 0 && x > hi+(hi-lo)
}

func (r *Report) texts(q survey.Question, different []string) {
	dates := true
	for _, s := range different {
		dates = dates && datePattern.MatchString(strings.TrimSpace(s))
	}
	r.Different = len(different)
	switch {
	case dates:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksDates})
	case q.Kind == survey.Identifier:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksIdentifier})
	default:
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksText})
		r.parts(different)
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
		if total := int64(0); survey.IsTotalName(a.Code) && a.Proper() && counts[a.Slot] > 0 {
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
	if q.Kind == survey.Single && unlabelled && len(values) == len(cells) && consecutive(values) && mayCount(q.Name, values) {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksNumber, N: int64(len(values))})
	}
	for _, code := range survey.Gaps(q) {
		r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksGap, Code: code})
	}
	for _, l := range survey.Lookalikes(q.Answers, counts) {
		k := SameButSlip
		if l.CaseOrBlanks {
			k = SameButCase
		}
		r.Suspicions = append(
			r.Suspicions,
			Suspicion{Kind: k, Slot: l.Rare, Other: l.Common, N: counts[l.Rare], NOther: counts[l.Common]},
		)
	}
}

// probablyMissing reports whether an answer's code usually means missing: a word such
// as refused, or a number such as −9 or 99 that leaves a gap to the others.
func probablyMissing(q survey.Question, a survey.Answer, values map[survey.Slot]float64) bool {
	code := strings.TrimSpace(a.Code)
	if survey.MeansMissing(code) || survey.MeansMissing(a.Label) {
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
	seen := map[float64]bool{x: true}
	for s, v := range values {
		if s != a.Slot {
			seen[v] = true
		}
	}
	if x > 0 && x < 10 { // 8 and 9 are codes like any other unless the list ends well below
		hi := math.Inf(-1)
		for y := range seen {
			if y < 8 {
				hi = max(hi, y)
			}
		}
		return len(seen) > 2 && hi <= 5 && hi >= 1
	}
	return len(seen) > 2 && isolated(x, slices.Collect(maps.Keys(seen))) || x < 0 && len(seen) > 2
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
