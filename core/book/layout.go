package book

import (
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/survey"
)

// Column is one column of a banner.
type Column struct {
	// Break is the place of its break.
	Break int
	// Over are the labels over it, the outermost first; Label is its own.
	Over  []document.Message
	Label document.Message
	// Family numbers the columns that are compared with each other, from 0 on; −1 for one that is
	// compared with none. The columns of a family hold nobody twice.
	Family int
	// Letter names it within its family; "" where that has one column.
	Letter string
	// Overlaps says that others of its break may hold the same respondents.
	Overlaps bool
	// pairs are the answers that its respondents gave, the innermost last; nil for everyone and a subgroup.
	pairs []pair
	// part is the partition in which it is counted, and place its place in it; of everyone −1.
	part, place int
}

// part is a partition of the respondents: the columns that it holds and, last of its proper answers, all
// others.
type part struct {
	survey.Source
	// columns are the places in the banner of its answers.
	columns []int
	// keys are the questions that it is made of.
	keys []analysis.Key
}

// pack is several partitions counted at once.
type pack struct {
	survey.Source
	parts []int // the last running fastest
}

// Layout is a banner over the respondents of a source: who is in which column.
type Layout struct {
	Columns []Column
	parts   []part
	packs   []pack
	rows    int
	bytes   int
}

// Bytes estimates the memory that the layout holds.
func (l *Layout) Bytes() int { return 500 + l.bytes }

// From is what a banner is laid out over.
type From struct {
	analysis.Columns
	// Rows is how many the source has.
	Rows int
	// SubgroupName is what a subgroup is called.
	SubgroupName func(analysis.Key) string
	// Rule is what may leave, by which the ends of numbers are told together.
	Rule disclosure.Rule
}

// Lay lays a banner out, which has to be one that Check finds nothing against. Errors: those of the source.
func Lay(b Banner, from From) (*Layout, error) {
	l := &Layout{rows: from.Rows}
	families := 0
	for i, one := range b.Breaks {
		if err := l.lay(i, one, from, &families); err != nil {
			return nil, err
		}
	}
	if len(l.parts) == 0 {
		l.add([]int{}, nil, func(int) int32 { return -1 })
	}
	l.letter()
	l.pack()
	return l, nil
}

func (l *Layout) lay(at int, b Break, from From, families *int) error {
	switch {
	case b.Everyone():
		label := say.ColumnAll()
		if b.Label != "" {
			label = textOf(b.Label)
		}
		l.Columns = append(l.Columns, Column{Break: at, Label: label, Family: -1, part: -1})
		return nil
	case b.Subgroup != "":
		of, err := from.Sample(b.Subgroup)
		if err != nil {
			return err
		}
		label := b.Label
		if label == "" {
			label = from.SubgroupName(b.Subgroup)
		}
		l.Columns = append(l.Columns, Column{Break: at, Label: textOf(label), Family: -1, part: len(l.parts)})
		l.add([]int{len(l.Columns) - 1}, nil, func(row int) int32 { return int32(of.Subset.Bit(row)) - 1 })
		return nil
	}
	return l.nested(at, b, from, families)
}

// nested lays out the answers of questions, each within those of the ones before it.
func (l *Layout) nested(at int, b Break, from From, families *int) error {
	combos := []combination{{}}
	if b.Label != "" {
		combos[0].over = []document.Message{textOf(b.Label)}
	}
	place := make([]int32, l.rows) // of everybody among the combinations so far
	for k, key := range b.Questions {
		s, err := from.Get(key)
		if err != nil {
			return err
		}
		answers := b.columnsOf(k, s.Question)
		innermost := k == len(b.Questions)-1
		over := s.Question
		for i := range combos {
			if k > 0 || b.Label == "" { // the label stands for the outermost question
				combos[i].over = append(append([]document.Message{}, combos[i].over...), claim.Plain(calledOf(over)))
			}
		}
		if s.Question.Kind == survey.ChooseAll {
			l.items(at, b, s, answers, combos, place)
			return nil
		}
		var next []combination
		for _, c := range combos {
			for _, a := range answers {
				one := combination{over: c.over, label: textOf(a.Label), pairs: append(slices.Clone(c.pairs), pair{key, a.Code})}
				if !innermost {
					one.over = append(append([]document.Message{}, c.over...), one.label)
				}
				next = append(next, one)
			}
		}
		combos = next
		if err := within(place, s, answers); err != nil {
			return err
		}
		if !innermost {
			continue
		}
		columns := make([]int, len(combos))
		for i, c := range combos {
			columns[i] = len(l.Columns)
			l.Columns = append(
				l.Columns, Column{
					Break: at, Over: c.over, Label: c.label, Family: *families + i/len(answers),
					pairs: c.pairs, part: len(l.parts), place: i,
				},
			)
		}
		*families += len(combos) / len(answers)
		l.add(columns, b.Questions, func(row int) int32 { return place[row] })
	}
	return nil
}

// combination is answers of the outer questions.
type combination struct {
	over  []document.Message
	label document.Message
	pairs []pair
}

// within takes everybody's place on to that among the combinations with a further question's answers.
func within(place []int32, s survey.Source, answers []survey.Answer) error {
	size := int32(len(answers))
	to := make([]int32, s.Question.Slots())
	column := map[survey.Slot]int32{}
	for i, a := range answers {
		column[a.Slot] = int32(i)
	}
	proper := s.Question.Proper()
	for slot, p := range s.Question.Places() {
		to[slot] = -1
		if p >= 0 {
			if i, is := column[proper[p].Slot]; is {
				to[slot] = i
			}
		}
	}
	switch c := s.Column; {
	case len(c.U8) == len(place):
		return slotted(place, c.U8, to, size, s.Question.Name)
	case len(c.U16) == len(place):
		return slotted(place, c.U16, to, size, s.Question.Name)
	}
	return fmt.Errorf("book: the column of %q has %d rows, not %d", s.Question.Name, s.Column.Rows(), len(place))
}

func slotted[T uint8 | uint16](place []int32, slots []T, to []int32, size int32, name string) error {
	for row, slot := range slots {
		if int(slot) >= len(to) {
			return fmt.Errorf("book: the column of %q holds an answer that the question lacks", name)
		}
		x := to[slot]
		place[row] = (place[row]*size + x) | place[row]>>31 | x>>31 // −1 is all ones
	}
	return nil
}

// items lays out the answers of a choose-all question, a partition each, since they overlap.
func (l *Layout) items(at int, b Break, s survey.Source, answers []survey.Answer, combos []combination, place []int32) {
	chosen := chosenOf(s)
	first, size := len(l.Columns), len(answers)
	for _, c := range combos {
		for _, a := range answers {
			l.Columns = append(
				l.Columns, Column{
					Break: at, Over: c.over, Label: textOf(a.Label), Family: -1, Overlaps: true, pairs: append(
						slices.Clone(c.pairs), pair{b.Questions[len(b.Questions)-1], a.Code},
					),
				},
			)
		}
	}
	for i, a := range answers {
		columns := make([]int, len(combos))
		for k := range combos {
			columns[k] = first + k*size + i
			l.Columns[columns[k]].part, l.Columns[columns[k]].place = len(l.parts), k
		}
		l.add(columns, b.Questions, func(row int) int32 {
			if is, answered := chosen(row, a.Slot); is && answered {
				return place[row]
			}
			return -1
		})
	}
}

// chosenOf tells whether a respondent chose an answer of a choose-all question, and whether he answered.
func chosenOf(s survey.Source) func(row int, slot survey.Slot) (is, answered bool) {
	var missing uint64
	var under [survey.MostSetItems + 1]uint64
	for _, a := range s.Question.Answers {
		to := a.Slot
		if a.SameAs != nil {
			to = *a.SameAs
		}
		under[to] |= 1 << a.Slot
		if a.Missing != "" {
			missing |= 1 << a.Slot
		}
	}
	for _, a := range s.Question.Answers { // a spelling of a missing answer is one
		if a.SameAs != nil && missing>>*a.SameAs&1 == 1 {
			missing |= 1 << a.Slot
		}
	}
	sets := s.Column.Sets
	return func(row int, slot survey.Slot) (is, answered bool) {
		return sets[row]&under[slot] != 0, sets[row]&missing == 0
	}
}

// add makes a partition of the places that at gives, −1 for who is in no column.
func (l *Layout) add(columns []int, keys []analysis.Key, at func(row int) int32) {
	q := survey.Question{
		Name: fmt.Sprintf("banner part %d", len(l.parts)+1), Kind: survey.Single, Answers: []survey.Answer{
			{Slot: survey.Blank, Missing: "blank"},
		},
	}
	for i := range len(columns) + 1 {
		q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(i + 1), Code: fmt.Sprint(i + 1)})
	}
	others := len(columns) + 1
	c := survey.Column{}
	if others < 256 {
		c.U8 = make([]uint8, l.rows)
		for row := range c.U8 {
			if p := at(row); p >= 0 {
				c.U8[row] = uint8(p + 1)
			} else {
				c.U8[row] = uint8(others)
			}
		}
	} else {
		c.U16 = make([]uint16, l.rows)
		for row := range c.U16 {
			if p := at(row); p >= 0 {
				c.U16[row] = uint16(p + 1)
			} else {
				c.U16[row] = uint16(others)
			}
		}
	}
	l.bytes += c.Bytes()
	l.parts = append(l.parts, part{survey.Source{Question: q, Column: c}, columns, keys})
}

// letter gives the columns of each family their letters: A to Z, then AA, AB and so on.
func (l *Layout) letter() {
	size, next := map[int]int{}, map[int]int{}
	for _, c := range l.Columns {
		size[c.Family]++
	}
	for i := range l.Columns {
		c := &l.Columns[i]
		if c.Family < 0 || size[c.Family] < 2 {
			continue
		}
		c.Letter = letterOf(next[c.Family])
		next[c.Family]++
	}
}

func letterOf(i int) string {
	if i < 26 {
		return string(rune('A' + i))
	}
	return letterOf(i/26-1) + letterOf(i%26)
}

// mostPacked is up to how many places small partitions are counted together: with the answers to most
// questions they still fit into the fast table of counts.
const mostPacked = 12

// pack puts small partitions together.
func (l *Layout) pack() {
	for i, p := range l.parts {
		size := len(p.columns) + 1
		if last := len(l.packs) - 1; last >= 0 && p.Column.U8 != nil && l.packs[last].Column.U8 != nil {
			if before := l.packs[last].Question.Slots() - 1; before*size <= mostPacked {
				l.packs[last] = l.packs[last].with(i, p, before, size, l.rows)
				l.bytes += l.rows
				continue
			}
		}
		l.packs = append(l.packs, pack{p.Source, []int{i}})
	}
}

// with takes a further partition into a pack.
func (k pack) with(at int, p part, before, size, rows int) pack {
	out := pack{parts: append(append([]int{}, k.parts...), at)}
	out.Question = survey.Question{
		Name: "banner", Kind: survey.Single, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}},
	}
	for i := range before * size {
		out.Question.Answers = append(out.Question.Answers, survey.Answer{Slot: survey.Slot(i + 1), Code: fmt.Sprint(i + 1)})
	}
	out.Column.U8 = make([]uint8, rows)
	a, b := k.Column.U8, p.Column.U8
	for row := range out.Column.U8 {
		out.Column.U8[row] = (a[row]-1)*uint8(size) + b[row]
	}
	return out
}

func textOf(s string) document.Message { return claim.Plain(document.Text(s)) }

// calledOf is what stands over the columns of a question.
func calledOf(q survey.Question) document.Value {
	switch {
	case q.Short != "":
		return document.Text(q.Short)
	case q.Wording != "":
		return document.Text(q.Wording)
	}
	return document.Text(q.Name)
}
