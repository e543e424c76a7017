package survey

import (
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Bounds of the guesses about a column's kind.
const (
	MostAnswers      = 1000 // more different answers than this are text or numbers
	fewAnswers       = 20   // numbers with no more different values than this are codes
	fewestDiscrete   = 8
	mostMissingWords = 12  // words among numbers, such as n/a and refused
	enoughNumbers    = 0.9 // share of the cells that must be numbers
	identifierRows   = 20
	mostFromOne      = 12   // 1, 2, … up to this many are codes unless the name says a size
	leastAmount      = 1000 // numbers from here on, mostly different or round, are amounts
	leastUnit        = 50   // the greatest number by which all round ones can be divided is this at least
	fewestRound      = 5    // different round numbers
)

// Finish guesses the kind and makes the column.
func (b *Builder) Finish(name string) Built {
	kind, reason := b.guess(name)
	c := b.As(name, kind)
	c.Reason = reason
	return c
}

// FinishDistinct makes a column of summarised data, whose cells are all different
// because each stands for a combination: numbers stay numbers, the rest are answers.
func (b *Builder) FinishDistinct(name string) Built {
	kind := Single
	_, numberSlots, wholes := b.countNumbers()
	switch isNumber := numberSlots > 0 && numberSlots == len(b.codes)-1; {
	case b.text != nil || !b.Fits(Single):
		return b.Finish(name)
	case isNumber && wholes && numberSlots >= fewestDiscrete:
		kind = Discrete
	case isNumber && !wholes:
		kind = Continuous
	}
	c := b.As(name, kind)
	c.Reason = FromForm
	if kind == Single {
		AsArrived(c.Answers)
	}
	return c
}

// AsArrived puts answers in the order in which they came, which in a list is the order
// that somebody gave them; the blank stands last.
func AsArrived(answers []Answer) {
	slices.SortStableFunc(answers, func(a, b Answer) int {
		if (a.Slot == Blank) != (b.Slot == Blank) {
			return int(b.Slot) - int(a.Slot)
		}
		return int(a.Slot) - int(b.Slot)
	})
}

var (
	weightName    = regexp.MustCompile(`(?i)(^|[^a-z])(p?weights?|p?wt|p?wgt|gewicht|gewichtung|poids|peso)([^a-z]|$)|^w_?(final|post|base|trim(med)?|cal(ibrated)?)([^a-z]|$)|^(final|base|post)_?w(t|gt|eight)([^a-z]|$)`)
	replicateName = regexp.MustCompile(
		`(?i)^((?:rw|repw|wrep|w_rep|rep_w|jkw|brrw|bsw|bootw|rwgt|rwt|rep_?wgt|rep_?wt|rep_?weight|replicate_?weight|boot_?weight)_?)(\d{1,4})$`,
	)
	stratumName = regexp.MustCompile(`(?i)(^|[^a-z])(strata|stratum|strat|schicht|estrato|strate)([^a-z]|$)`)
	placeName   = regexp.MustCompile(`(?i)(^|[^a-z])(streets?|villages?|segments?|enumeration_?areas?|sampling_?points?)([^a-z]|$)`)
	clusterName = regexp.MustCompile(`(?i)(^|[^a-z])(psu|clusters?|primary_?sampling_?unit|conglomerado|grappe)([^a-z]|$)`)
	countName   = regexp.MustCompile(
		`(?i)^(count|counts|n|freq|frequency|frequencies|number|cases|total|households|respondents|people)$`,
	)
)

var wordForMissing = regexp.MustCompile(
	`(?i)^(n/?a|n\.a\.|none given|no answer|refused|refusal|unknown|don'?t know|dk|missing|not applicable|not recorded|not asked|null|nan|-|\?|\.|#n/a)$`,
)

// MeansMissing reports whether a text usually says that an answer is missing.
func MeansMissing(text string) bool { return wordForMissing.MatchString(strings.TrimSpace(text)) }

var (
	codeName = regexp.MustCompile(
		`(?i)(^|[^a-z])(regions?|wards?|codes?|districts?|areas?|zones?|types?|categor(y|ies)|class|party|brand|schools?|sites?|branch|county|country|state|sex|gender|religion|ethnicity|occupation|industry|sector|team|department|region_?code)([^a-z]|$)`,
	)
	sizeName = regexp.MustCompile(
		`(?i)(^|[^a-z])(size|number|count|years?|age|children|rooms?|people|persons|members|hours?|days?|times|visits|minutes|weeks|months|km|miles|kg|income|price|cost|rent|amount|salary|pct|percent|percentage|share)([^a-z]|$)`,
	)
	idName = regexp.MustCompile(
		`(?i)^(id|.*[_ .-]id|.*[a-z]ID|uuid|(resp|respondent|case|serial|row|record|interview|household|person|participant|subject)([_ .-]?(id|no|nr|num|number))?|no|nr|number)$`,
	)
)

// NamesCode reports whether a column is called as codes for kinds of things are.
func NamesCode(name string) bool { return codeName.MatchString(name) && !sizeName.MatchString(name) }

// NamesSize reports whether a column is called as a number of things is.
func NamesSize(name string) bool { return sizeName.MatchString(name) }

// NamesIdentifier reports whether a column is called as respondents' numbers are.
func NamesIdentifier(name string) bool { return idName.MatchString(name) }

// NamesWeight reports whether a column is called as weights are.
func NamesWeight(name string) bool { return weightName.MatchString(name) }

// NamesReplicate takes the name of a replicate weight apart: what all of its set begin with, and its
// number; ok is false for another name.
func NamesReplicate(name string) (set string, number int, ok bool) {
	parts := replicateName.FindStringSubmatch(name)
	if parts == nil {
		return "", 0, false
	}
	number, _ = strconv.Atoi(parts[2]) // at most four digits
	return parts[1], number, true
}

// NamesStratum reports whether a column is called as strata are, NamesCluster whether as clusters are.
func NamesStratum(name string) bool { return stratumName.MatchString(name) }

// NamesCluster reports whether a column is called as clusters are.
func NamesCluster(name string) bool { return clusterName.MatchString(name) }

// NamesPlace reports whether a column is called as places are in which respondents are drawn together.
func NamesPlace(name string) bool { return placeName.MatchString(name) }

// namesWeights reports whether a column is called as weights are, or as those of a replicate.
func namesWeights(name string) bool {
	_, _, replicate := NamesReplicate(name)
	return replicate || NamesWeight(name)
}

// NamesCount reports whether a column is called as counts of respondents are.
func NamesCount(name string) bool { return countName.MatchString(name) }

func (b *Builder) guess(name string) (Kind, Reason) {
	if b.text != nil {
		return b.guessMany(name)
	}
	distinct := len(b.codes) - 1
	answered := int64(b.Rows()) - b.tallied()[0]
	for code := range b.missing { // declared to be no answers
		if slot, known := b.slots[code]; known && slot != Blank {
			distinct, answered = distinct-1, answered-b.tallied()[slot]
		}
	}
	numbers, numberSlots, wholes := b.countNumbers()
	mostlyNumbers := answered > 0 && distinct-numberSlots <= mostMissingWords &&
		(float64(numbers) >= enoughNumbers*float64(answered) || 2*numbers > answered && numberSlots > fewAnswers && b.wordsMean(distinct-numberSlots))
	switch {
	case distinct == 0:
		return Single, NothingAtAll
	case int64(distinct) == answered && answered > identifierRows && (wholes && mostlyNumbers && numberSlots == distinct || !mostlyNumbers && b.sameShape()):
		return Identifier, AllDifferent
	case int64(distinct) == answered && answered > 1 && NamesIdentifier(name):
		return Identifier, AllDifferent
	case mostlyNumbers && numberSlots > 1 && !wholes && namesWeights(name) && b.neverBelow0():
		return Weight, WeightName
	case mostlyNumbers && wholes && numberSlots <= MostAnswers && NamesCode(name):
		return Single, CodeName
	case mostlyNumbers && numberSlots > fewAnswers && !(wholes && numberSlots <= 60 && b.dense()):
		return Continuous, ManyNumbers
	case mostlyNumbers && numberSlots > 2 && (!wholes || b.amounts(answered) || b.roundAmounts()):
		return Continuous, Amounts
	case mostlyNumbers && wholes && numberSlots <= mostFromOne && b.fromOne(numberSlots) && !sizeName.MatchString(name):
		return Single, FewCodes
	case mostlyNumbers && wholes && numberSlots >= fewestDiscrete && b.dense():
		return Discrete, SomeWholes
	case mostlyNumbers && numberSlots <= fewAnswers:
		return Single, FewCodes
	case distinct <= 50 || distinct <= MostAnswers && answered >= 5*int64(distinct):
		return Single, FewWords
	}
	return Text, ManyTexts
}

// guessMany guesses the kind of a column with more different cells than slots.
func (b *Builder) guessMany(name string) (Kind, Reason) {
	distinct, words := map[string]struct{}{}, map[string]struct{}{}
	answered, wholes, never := 0, true, true
	shape := 0 // the length that all have; −1 when they do not look alike
	for _, s := range b.text.all() {
		if s == "" {
			continue
		}
		answered++
		if answered == 1 {
			shape = len(s)
		}
		if !hasShape(s, shape) {
			shape = -1
		}
		distinct[s] = struct{}{}
		if x, ok := b.number(s); ok {
			wholes, never = wholes && x == math.Trunc(x), never && x >= 0
		} else if len(words) <= mostMissingWords {
			words[s] = struct{}{}
		}
	}
	isNumber := len(words) <= mostMissingWords
	switch {
	case len(distinct) == answered && (wholes && isNumber || !isNumber && shape >= 0 || NamesIdentifier(name)):
		return Identifier, AllDifferent
	case isNumber && !wholes && never && namesWeights(name):
		return Weight, WeightName
	case isNumber:
		return Continuous, ManyNumbers
	}
	return Text, ManyTexts
}

// wordsMean reports whether the words among numbers mean that an answer is missing: a single
// word, or those that usually do.
func (b *Builder) wordsMean(words int) bool {
	if words == 1 {
		return true
	}
	for _, code := range b.codes[1:] {
		if _, isNumber := b.number(code); !isNumber && !b.missing[code] && !MeansMissing(code) {
			return false
		}
	}
	return true
}

// neverBelow0 reports whether no number is: a weight of 0 leaves a row out.
func (b *Builder) neverBelow0() bool {
	for _, code := range b.codes[1:] {
		if x, ok := b.number(code); ok && x < 0 {
			return false
		}
	}
	return true
}

// countNumbers returns how many cells and how many different codes are numbers,
// and whether all of those are whole.
func (b *Builder) countNumbers() (cells int64, slots int, wholes bool) {
	wholes = true
	for s, code := range b.codes[1:] {
		if x, ok := b.number(code); ok {
			cells += b.tallied()[s+1]
			slots++
			wholes = wholes && x == math.Trunc(x)
		}
	}
	return cells, slots, wholes && slots > 0
}

// amounts reports whether the numbers are mostly different and reach what codes seldom do.
func (b *Builder) amounts(answered int64) bool {
	most, n := 0.0, int64(0)
	for _, code := range b.codes[1:] {
		if x, ok := b.number(code); ok {
			most, n = math.Max(most, math.Abs(x)), n+1
		}
	}
	return most >= leastAmount && !missingOnly(most) && 2*n > answered
}

// roundAmounts reports whether the numbers are round and reach what codes seldom do, such as 2,500,
// 5,000, … 200,000. Codes are 1,000, 2,000, … without a gap, or have all the same length, such as 1,100,
// 1,200, 2,100.
func (b *Builder) roundAmounts() bool {
	var all []int64
	for _, code := range b.codes[1:] {
		if x, ok := b.number(code); ok && x != 0 && strings.Trim(strconv.FormatFloat(math.Abs(x), 'f', -1, 64), "9") != "" {
			all = append(all, int64(math.Abs(x)))
		}
	}
	unit := int64(0)
	for _, x := range all {
		unit = greatestDivisor(unit, x)
	}
	if len(all) < fewestRound || unit < leastUnit || slices.Max(all) < leastAmount {
		return false
	}
	length := func(x int64) int { return len(strconv.FormatInt(x, 10)) }
	if length(slices.Min(all)) == length(slices.Max(all)) {
		return false
	}
	coded := math.Pow10(length(unit)-1) == float64(unit)
	return !coded || slices.Max(all) > unit*int64(len(all))
}

func greatestDivisor(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// missingOnly reports whether a number is one of those that stand for a missing answer.
func missingOnly(x float64) bool { return x == 9999 || x == 8888 || x == 7777 || x == 9998 }

// fromOne reports whether the numbers are 1, 2, … without a gap.
func (b *Builder) fromOne(n int) bool {
	for _, code := range b.codes[1:] {
		if x, ok := b.number(code); ok && (x < 1 || x > float64(n)) {
			return false
		}
	}
	return true
}

// dense reports whether the numbers lie close together, as counts of things do
// and codes with gaps or amounts do not.
func (b *Builder) dense() bool {
	lo, hi, n := math.Inf(1), math.Inf(-1), 0
	for _, code := range b.codes[1:] {
		if x, ok := b.number(code); ok {
			lo, hi, n = min(lo, x), max(hi, x), n+1
		}
	}
	return hi-lo < 3*float64(n)
}

// sameShape reports whether all codes have one length and at least one digit, as
// identifiers made by a program do.
func (b *Builder) sameShape() bool {
	for _, code := range b.codes[1:] {
		if !hasShape(code, len(b.codes[1])) {
			return false
		}
	}
	return true
}

func hasShape(code string, length int) bool {
	return len(code) == length && strings.ContainsAny(code, "0123456789")
}
