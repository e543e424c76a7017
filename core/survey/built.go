package survey

import (
	"slices"
	"strings"
)

// Built is a column as read, with the question that it seems to hold.
type Built struct {
	Question
	Reason Reason
	Data   Column
}

// Fits reports whether the cells can be read as this kind: an answer list has at
// most MostAnswers answers, and a choose-all question is never one column as it is.
func (b *Builder) Fits(kind Kind) bool {
	return kind != ChooseAll && (!kind.Coded() || b.text == nil && len(b.codes) <= MostAnswers)
}

// As makes the column as this kind, which must fit.
func (b *Builder) As(name string, kind Kind) Built {
	c := Built{Question: Question{Name: name, Wording: name, Kind: kind}, Reason: Chosen}
	switch {
	case kind.Measured():
		c.Answers, c.Data.F64 = b.numbers()
	case kind.Coded():
		c.Data = Column{U8: b.u8, U16: b.u16}
		c.Answers = b.answers(kind)
	default:
		c.Data.Text = b.allText()
		c.Answers = []Answer{blankAnswer()}
	}
	return c
}

func blankAnswer() Answer {
	return Answer{Slot: Blank, Label: noAnswerLabel, Missing: NoAnswerReason}
}

func missingWord(slot Slot, code string) Answer {
	return Answer{Slot: slot, Code: code, Label: strings.TrimSpace(code), Missing: NotANumber}
}

// times returns how often a cell was added; 0 once the column has become text.
func (b *Builder) times(code string) int64 {
	if s, ok := b.slots[code]; ok {
		return b.tallied()[s]
	}
	return 0
}

// answers lists the codes as answers: numbers by size, words by the alphabet,
// numbers first, the blank last.
func (b *Builder) answers(kind Kind) []Answer {
	type keyed struct {
		Answer
		number   float64
		isNumber bool
	}
	var list []keyed
	for i, code := range b.codes[1:] {
		label := strings.TrimSpace(code)
		x, ok := b.number(label)
		a := Answer{Slot: Slot(i + 1), Code: code, Label: label}
		if kind == Discrete && !ok {
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
	out := make([]Answer, 0, len(list)+1)
	for _, k := range list {
		out = append(out, k.Answer)
	}
	return append(out, blankAnswer())
}

// numbers gives each cell's number; a word becomes a missing answer of its own, the
// words past what slots can hold one together.
func (b *Builder) numbers() ([]Answer, []float64) {
	words := map[string]float64{"": MissingNumber(Blank)}
	answers := []Answer{blankAnswer()}
	number := func(cell string) float64 {
		if x, ok := b.number(cell); ok {
			return x
		}
		x, known := words[cell]
		if !known {
			if len(answers) <= MostAnswers {
				slot := Slot(len(answers))
				answers = append(answers, missingWord(slot, cell))
				x = MissingNumber(slot)
			} else {
				x = MissingNumber(MostAnswers)
			}
			words[cell] = x
		}
		return x
	}
	out := make([]float64, b.Rows())
	if b.text != nil {
		for i, s := range b.text.all() {
			out[i] = number(s)
		}
		return answers, out
	}
	value := make([]float64, len(b.codes))
	for s, code := range b.codes {
		value[s] = number(code)
	}
	for i, s := range b.u8 {
		out[i] = value[s]
	}
	for i, s := range b.u16 {
		out[i] = value[s]
	}
	return answers, out
}

func (b *Builder) allText() []string {
	if b.text != nil {
		return b.text.all()
	}
	out := make([]string, 0, b.Rows())
	for _, s := range b.u8 {
		out = append(out, b.codes[s])
	}
	for _, s := range b.u16 {
		out = append(out, b.codes[s])
	}
	return out
}
