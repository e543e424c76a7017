package survey

import (
	"math"
	"math/bits"
	"slices"
	"strconv"
	"strings"
)

func (m *maker) merge(d Derivation, s Source) error {
	q := s.Question
	if !q.Kind.Tabulated() {
		return &DerivationError{"kind"}
	}
	group := map[Slot]int{}
	for g, def := range d.Groups {
		if strings.TrimSpace(def.Label) == "" || len(def.Answers) == 0 {
			return &DerivationError{"group"}
		}
		for _, slot := range def.Answers {
			a, ok := q.Answer(slot)
			if _, twice := group[slot]; twice || !ok {
				return &DerivationError{"group"}
			}
			if a.Missing == "" { // one that has become missing since stays missing
				group[slot] = g
			}
		}
	}
	if len(d.Groups) == 0 {
		return &DerivationError{"group"}
	}
	to, made, codes := map[Slot]Slot{}, map[int]Slot{}, map[string]bool{}
	for _, a := range q.Answers {
		if !a.Proper() {
			continue
		}
		g, grouped := group[a.Slot]
		switch slot, known := made[g]; {
		case !grouped:
			to[a.Slot] = m.add(Answer{Code: a.Code, Label: a.Label, Score: a.Score})
			codes[a.Code] = true
		case known:
			to[a.Slot] = slot
		default:
			made[g] = m.add(Answer{Code: d.Groups[g].Label, Label: d.Groups[g].Label})
			to[a.Slot] = made[g]
		}
	}
	for g, def := range d.Groups { // nobody may be left in one, which keeps its row
		if _, known := made[g]; !known {
			made[g] = m.add(Answer{Code: def.Label, Label: def.Label})
		}
	}
	for g := range made {
		if codes[d.Groups[g].Label] {
			return &DerivationError{"name_taken"}
		}
	}
	m.keepMissing(q, to)
	m.column = s.Column.reslot(func(slot Slot) Slot { return to[slot] })
	return nil
}

func (m *maker) combine(a, b Source) error {
	if !a.Question.Kind.Coded() || !b.Question.Kind.Coded() {
		return &DerivationError{"kind"}
	}
	type pair struct{ a, b Slot }
	to := map[pair]uint16{}
	for _, x := range a.Question.Answers {
		for _, y := range b.Question.Answers {
			if x.Proper() && y.Proper() {
				if len(m.answers) > MostAnswers {
					return &DerivationError{"too_many"}
				}
				to[pair{x.Slot, y.Slot}] = uint16(m.add(Answer{Code: x.Code + " × " + y.Code, Label: x.Label + " × " + y.Label}))
			}
		}
	}
	under, beside := a.Question.counted(), b.Question.counted()
	out := make([]uint16, a.Column.Rows())
	for i := range out {
		out[i] = to[pair{under[a.Column.slotAt(i)], beside[b.Column.slotAt(i)]}]
	}
	m.column = Column{U16: out}.narrowed(len(m.answers))
	return nil
}

func (m *maker) howMany(s Source) error {
	if s.Question.Kind != ChooseAll {
		return &DerivationError{"kind"}
	}
	missing, counted := s.Question.missing(), s.Question.counted()
	proper := 0
	for _, a := range s.Question.Answers {
		if a.Proper() {
			proper++
		}
	}
	for n := 0; n <= proper; n++ {
		m.add(Answer{Code: strconv.Itoa(n), Label: strconv.Itoa(n)})
	}
	out := make([]uint8, s.Column.Rows())
	for i, set := range s.Column.Sets {
		var folded uint64
		isMissing := false
		for ; set != 0; set &= set - 1 {
			slot := bits.TrailingZeros64(set)
			isMissing = isMissing || missing[slot]
			folded |= 1 << counted[slot]
		}
		if !isMissing {
			out[i] = uint8(bits.OnesCount64(folded) + 1)
		}
	}
	m.column = Column{U8: out}
	return nil
}

func (m *maker) together(d Derivation, sources []Source) error {
	if len(sources) > MostSetItems || len(d.Chosen) != len(sources) {
		return &DerivationError{"items"}
	}
	labels := itemLabels(sources)
	sets := make([]uint64, sources[0].Column.Rows())
	answered := make([]bool, len(sets))
	for k, s := range sources {
		q := s.Question
		if !q.Kind.Coded() || len(d.Chosen[k]) == 0 {
			return &DerivationError{"kind"}
		}
		slot := m.add(Answer{Code: q.Name, Label: labels[k]})
		means := make([]bool, q.Slots())
		for _, chosen := range d.Chosen[k] {
			if int(chosen) < len(means) {
				means[chosen] = true
			}
		}
		missing, counted := q.missing(), q.counted()
		for i := range sets {
			given := s.Column.slotAt(i)
			answered[i] = answered[i] || !missing[given]
			if means[given] || means[counted[given]] {
				sets[i] |= 1 << slot
			}
		}
	}
	for i, has := range answered {
		if !has {
			sets[i] = 1 << Blank
		}
	}
	m.column.Sets = sets
	return nil
}

// itemLabels are the wordings of the columns of a set without the stem that all of them repeat, up to
// a colon, a dash or a question mark.
func itemLabels(sources []Source) []string {
	labels := make([]string, len(sources))
	for k, s := range sources {
		labels[k] = s.Question.Wording
	}
	stem := labels[0]
	for _, l := range labels[1:] {
		for !strings.HasPrefix(l, stem) {
			stem = stem[:len(stem)-1]
		}
	}
	end := 0
	for _, mark := range []string{": ", " - ", " – ", " — ", "? "} {
		if at := strings.LastIndex(stem, mark); at >= 0 {
			end = max(end, at+len(mark))
		}
	}
	if len(labels) < 2 || slices.ContainsFunc(labels, func(l string) bool { return strings.TrimSpace(l[end:]) == "" }) {
		return labels
	}
	for k := range labels {
		labels[k] = strings.TrimSpace(labels[k][end:])
	}
	return labels
}

func (m *maker) parts(d Derivation, s Source) error {
	q := s.Question
	if d.Separator == "" || !q.Kind.Coded() && !q.Kind.Textual() {
		return &DerivationError{"separator"}
	}
	code, missing := q.coder(s.Column), q.missing()
	cells := map[string][]string{}
	seen := map[string]bool{}
	for i := range s.Column.Rows() {
		cell := code(i)
		if _, known := cells[cell]; known {
			continue
		}
		parts := []string{}
		for _, part := range strings.Split(cell, d.Separator) {
			if part = strings.TrimSpace(part); part != "" {
				parts = append(parts, part)
				if !(q.Kind.Coded() && missing[s.Column.slotAt(i)]) {
					seen[part] = true
				}
			}
		}
		cells[cell] = parts
	}
	names := make([]string, 0, len(seen))
	for name := range seen {
		names = append(names, name)
	}
	if len(names) == 0 || len(names) > MostSetItems {
		return &DerivationError{"items"}
	}
	slices.Sort(names)
	bit := map[string]uint64{}
	for _, name := range names {
		bit[name] = 1 << m.add(Answer{Code: name, Label: name})
	}
	m.column.Sets = make([]uint64, s.Column.Rows())
	for i := range m.column.Sets {
		cell := code(i)
		if cell == "" || q.Kind.Coded() && missing[s.Column.slotAt(i)] {
			m.column.Sets[i] = 1 << Blank
			continue
		}
		for _, part := range cells[cell] {
			m.column.Sets[i] |= bit[part]
		}
	}
	return nil
}

// summaries makes a column in which nobody's number is known.
func (m *maker) summaries(d Derivation, s Source, of Sample) error {
	if !s.Question.Kind.Coded() {
		return &DerivationError{"kind"}
	}
	counted, err := Distribute(s.Column, s.Question.Slots(), of)
	if err != nil {
		return err
	}
	counts, seen := s.Question.Counts(counted).BySlot, map[Slot]bool{}
	for _, g := range d.Summaries {
		a, ok := s.Question.Answer(g.Answer)
		switch {
		case !ok || !a.Proper() || seen[g.Answer] || g.N < 2 || math.IsInf(g.Mean, 0) || math.IsNaN(g.Mean) || !(g.SD >= 0) || math.IsInf(g.SD, 0):
			return &DerivationError{"summaries"}
		case g.N > counts[g.Answer]:
			return &DerivationError{"summaries_n"}
		}
		seen[g.Answer] = true
	}
	if len(seen) == 0 {
		return &DerivationError{"summaries"}
	}
	m.column = Blanks(Summarised, s.Column.Rows())
	return nil
}
