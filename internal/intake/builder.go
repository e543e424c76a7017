package intake

import (
	"bytes"
	"math"
	"slices"
	"strings"

	"widetally/core/survey"
)

// Reason says why a column was held for its kind; texts under kind_reason.
type Reason string

// The reasons.
const (
	FewWords      Reason = "few_words"
	FewCodes      Reason = "few_codes"
	SomeWholes    Reason = "some_wholes"
	ManyNumbers   Reason = "many_numbers"
	AllDifferent  Reason = "all_different"
	ManyTexts     Reason = "many_texts"
	NothingAtAll  Reason = "nothing"
	noAnswerLabel        = "No answer"
)

// Column is one column as read.
type Column struct {
	Name    string
	Kind    survey.Kind
	Reason  Reason
	Answers []survey.Answer
	Data    survey.Column
}

// columnBuilder gathers one column. Distinct cells get slots as they come;
// the narrow width is used until it is full. Past the wide width the column is
// numbers or text.
type columnBuilder struct {
	slots        map[string]survey.Slot
	codes        []string // by slot; codes[0] is the blank
	counts       []int64
	u8           []uint8
	u16          []uint16
	text         []string // set once there are too many different cells
	decimalComma bool
}

func newColumnBuilder(decimalComma bool) *columnBuilder {
	return &columnBuilder{slots: map[string]survey.Slot{"": survey.Blank}, codes: []string{""}, counts: []int64{0}, decimalComma: decimalComma}
}

func (b *columnBuilder) add(cell []byte) {
	if len(bytes.TrimSpace(cell)) == 0 {
		cell = nil
	}
	if b.text != nil {
		b.text = append(b.text, string(cell))
		return
	}
	slot, known := b.slots[string(cell)]
	if !known {
		if len(b.codes) >= survey.SlotLimit {
			b.toText()
			b.text = append(b.text, string(cell))
			return
		}
		slot = survey.Slot(len(b.codes))
		code := string(cell)
		b.slots[code] = slot
		b.codes = append(b.codes, code)
		b.counts = append(b.counts, 0)
		if slot == 256 {
			b.u16 = make([]uint16, len(b.u8), 2*len(b.u8)+1024)
			for i, s := range b.u8 {
				b.u16[i] = uint16(s)
			}
			b.u8 = nil
		}
	}
	b.counts[slot]++
	if b.u16 != nil {
		b.u16 = append(b.u16, uint16(slot))
	} else {
		b.u8 = append(b.u8, uint8(slot))
	}
}

func (b *columnBuilder) toText() {
	b.text = make([]string, len(b.u16), 2*len(b.u16))
	for i, s := range b.u16 {
		b.text[i] = b.codes[s]
	}
	b.u16, b.slots = nil, nil
}

// Bounds of the guesses about a column's kind.
const (
	mostAnswers      = 1000 // more different answers than this are text or numbers
	fewAnswers       = 20   // numbers with no more different values than this are codes
	fewestDiscrete   = 8
	mostMissingWords = 12  // words among numbers, such as n/a and refused
	enoughNumbers    = 0.9 // share of the cells that must be numbers
	identifierRows   = 20
)

// finish guesses the kind and makes the column.
func (b *columnBuilder) finish(name string) Column {
	c := Column{Name: name}
	if b.text != nil {
		return b.finishMany(c)
	}
	distinct := len(b.codes) - 1
	answered := int64(len(b.u8)+len(b.u16)) - b.counts[0]
	numbers, numberSlots, wholes := b.countNumbers()
	mostlyNumbers := answered > 0 && float64(numbers) >= enoughNumbers*float64(answered) && distinct-numberSlots <= mostMissingWords
	switch {
	case distinct == 0:
		c.Kind, c.Reason = survey.Single, NothingAtAll
	case int64(distinct) == answered && answered > identifierRows && (wholes && mostlyNumbers && numberSlots == distinct || !mostlyNumbers && b.sameShape()):
		c.Kind, c.Reason = survey.Identifier, AllDifferent
	case mostlyNumbers && numberSlots > fewAnswers && !(wholes && numberSlots <= 60 && b.dense()):
		c.Kind, c.Reason = survey.Continuous, ManyNumbers
	case mostlyNumbers && wholes && numberSlots >= fewestDiscrete && b.dense():
		c.Kind, c.Reason = survey.Discrete, SomeWholes
	case mostlyNumbers && numberSlots <= fewAnswers:
		c.Kind, c.Reason = survey.Single, FewCodes
	case distinct <= 50 || distinct <= mostAnswers && answered >= 5*int64(distinct):
		c.Kind, c.Reason = survey.Single, FewWords
	default:
		c.Kind, c.Reason = survey.Text, ManyTexts
	}
	switch {
	case c.Kind == survey.Continuous:
		b.fillNumbers(&c)
	case c.Kind.Tabulated():
		c.Data = survey.Column{U8: b.u8, U16: b.u16}
		c.Answers = b.answers(c.Kind)
	default:
		c.Data.Text = b.allText()
		c.Answers = []survey.Answer{blankAnswer()}
	}
	return c
}

// finishMany makes a column with more different cells than slots.
func (b *columnBuilder) finishMany(c Column) Column {
	distinct := map[string]struct{}{}
	words := map[string]survey.Slot{"": survey.Blank}
	answers := []survey.Answer{blankAnswer()}
	numbers := make([]float64, len(b.text))
	answered, isNumber, wholes := 0, true, true
	for i, s := range b.text {
		if s != "" {
			answered++
			distinct[s] = struct{}{}
		}
		x, ok := parseNumber(strings.TrimSpace(s), b.decimalComma)
		if !ok {
			slot, known := words[s]
			if !known && len(words) > mostMissingWords {
				isNumber = false
				continue
			}
			if !known {
				slot = survey.Slot(len(words))
				words[s] = slot
				answers = append(answers, missingWord(slot, s))
			}
			x = survey.MissingNumber(slot)
		} else {
			wholes = wholes && x == math.Trunc(x)
		}
		numbers[i] = x
	}
	switch {
	case len(distinct) == answered && (wholes || !isNumber):
		c.Kind, c.Reason = survey.Identifier, AllDifferent
	case isNumber:
		c.Kind, c.Reason, c.Answers, c.Data.F64 = survey.Continuous, ManyNumbers, answers, numbers
		return c
	default:
		c.Kind, c.Reason = survey.Text, ManyTexts
	}
	c.Answers, c.Data.Text = []survey.Answer{blankAnswer()}, b.text
	return c
}

func blankAnswer() survey.Answer {
	return survey.Answer{Slot: survey.Blank, Label: noAnswerLabel, Missing: "no answer"}
}

func missingWord(slot survey.Slot, code string) survey.Answer {
	return survey.Answer{Slot: slot, Code: code, Label: strings.TrimSpace(code), Missing: "not a number"}
}

// countNumbers returns how many cells and how many different codes are numbers,
// and whether all of those are whole.
func (b *columnBuilder) countNumbers() (cells int64, slots int, wholes bool) {
	wholes = true
	for s, code := range b.codes[1:] {
		if x, ok := parseNumber(strings.TrimSpace(code), b.decimalComma); ok {
			cells += b.counts[s+1]
			slots++
			wholes = wholes && x == math.Trunc(x)
		}
	}
	return cells, slots, wholes && slots > 0
}

// dense reports whether the numbers lie close together, as counts of things do
// and codes with gaps or amounts do not.
func (b *columnBuilder) dense() bool {
	lo, hi, n := math.Inf(1), math.Inf(-1), 0
	for _, code := range b.codes[1:] {
		if x, ok := parseNumber(strings.TrimSpace(code), b.decimalComma); ok {
			lo, hi, n = min(lo, x), max(hi, x), n+1
		}
	}
	return hi-lo < 3*float64(n)
}

// sameShape reports whether all codes have one length and at least one digit, as
// identifiers made by a program do.
func (b *columnBuilder) sameShape() bool {
	for _, code := range b.codes[1:] {
		if len(code) != len(b.codes[1]) || !strings.ContainsAny(code, "0123456789") {
			return false
		}
	}
	return true
}

// answers lists the codes as answers: numbers by size, words by the alphabet,
// numbers first, the blank last.
func (b *columnBuilder) answers(kind survey.Kind) []survey.Answer {
	type keyed struct {
		survey.Answer
		number   float64
		isNumber bool
	}
	var list []keyed
	for i, code := range b.codes[1:] {
		label := strings.TrimSpace(code)
		x, ok := parseNumber(label, b.decimalComma)
		a := survey.Answer{Slot: survey.Slot(i + 1), Code: code, Label: label}
		if kind == survey.Discrete && !ok {
			a = missingWord(a.Slot, code)
		}
		list = append(list, keyed{a, x, ok})
	}
	slices.SortStableFunc(list, func(a, b keyed) int {
		switch {
		case a.isNumber != b.isNumber:
			if a.isNumber {
				return -1
			}
			return 1
		case a.isNumber && a.number != b.number:
			if a.number < b.number {
				return -1
			}
			return 1
		}
		if c := strings.Compare(strings.ToLower(a.Label), strings.ToLower(b.Label)); c != 0 {
			return c
		}
		return strings.Compare(a.Code, b.Code)
	})
	out := make([]survey.Answer, 0, len(list)+1)
	for _, k := range list {
		out = append(out, k.Answer)
	}
	return append(out, blankAnswer())
}

func (b *columnBuilder) fillNumbers(c *Column) {
	value := make([]float64, len(b.codes))
	c.Answers = []survey.Answer{blankAnswer()}
	value[0] = survey.MissingNumber(survey.Blank)
	for i, code := range b.codes[1:] {
		x, ok := parseNumber(strings.TrimSpace(code), b.decimalComma)
		if !ok {
			slot := survey.Slot(len(c.Answers))
			c.Answers = append(c.Answers, missingWord(slot, code))
			x = survey.MissingNumber(slot)
		}
		value[i+1] = x
	}
	c.Data.F64 = make([]float64, 0, len(b.u8)+len(b.u16))
	for _, s := range b.u8 {
		c.Data.F64 = append(c.Data.F64, value[s])
	}
	for _, s := range b.u16 {
		c.Data.F64 = append(c.Data.F64, value[s])
	}
}

func (b *columnBuilder) allText() []string {
	out := make([]string, 0, len(b.u8)+len(b.u16))
	for _, s := range b.u8 {
		out = append(out, b.codes[s])
	}
	for _, s := range b.u16 {
		out = append(out, b.codes[s])
	}
	return out
}
