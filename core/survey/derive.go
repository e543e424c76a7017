package survey

import (
	"math"
	"math/bits"
	"slices"
	"strconv"
	"strings"
)

// Rule says how a derived question is made.
type Rule string

// The rules.
const (
	Merge    Rule = "merge"    // some answers of a question counted together
	Bands    Rule = "bands"    // a number cut into classes
	Combine  Rule = "combine"  // every pair of answers of two questions
	HowMany  Rule = "how_many" // the number of chosen answers of a set
	Together Rule = "together" // columns of chosen and not chosen read as one set
	Parts    Rule = "parts"    // one column with several answers in a cell
	// Summaries is no answer of anybody: a number of which only n, mean and standard deviation
	// within the answers of a question are known.
	Summaries Rule = "summaries"
)

// Cut says where the limits of bands come from.
type Cut string

// The cuts.
const (
	GivenLimits Cut = "given"
	EqualWidth  Cut = "width"  // Number classes of equal width from smallest to largest
	EqualGroups Cut = "groups" // Number classes with as many respondents each as ties allow
)

// Derivable is a rule by which a question can be made, with how many sources it takes.
type Derivable struct {
	Rule  Rule `json:"rule"`
	Least int  `json:"least"`
	Most  int  `json:"most"` // 0 for any number
}

// DerivableFrom lists the rules for which a question of a kind can be a source.
func DerivableFrom(k Kind) []Derivable {
	out := []Derivable{}
	add := func(serves bool, rule Rule, least, most int) {
		if serves {
			out = append(out, Derivable{rule, least, most})
		}
	}
	add(k.Tabulated(), Merge, 1, 1)
	add(k == Discrete || k == Continuous, Bands, 1, 1)
	add(k == ChooseAll, HowMany, 1, 1)
	add(k == Single || k == Text, Parts, 1, 1)
	add(k.Coded(), Combine, 2, 2)
	add(k.Coded(), Together, 2, 0)
	return out
}

// Derivation defines a question made from others. It is data: the answers are made
// anew whenever those of a source change.
type Derivation struct {
	Rule    Rule     `json:"rule"`
	Sources []uint64 `json:"sources"`
	// Groups, for Merge, lists the answers counted together; the others stay.
	Groups []Group `json:"groups,omitempty"`
	// For Bands.
	Cut         Cut       `json:"cut,omitempty"`
	Limits      []float64 `json:"limits,omitempty"` // rising; between the classes
	Number      int       `json:"number,omitempty"`
	UpperClosed bool      `json:"upperClosed,omitempty"` // a limit belongs to the class below it
	// Chosen, for Together, holds per source the answers that mean chosen.
	Chosen [][]Slot `json:"chosen,omitempty"`
	// Separator, for Parts, is the text between the answers in a cell.
	Separator string `json:"separator,omitempty"`
	// Summaries, for Summaries, is what is known of a number within each answer of the source.
	Summaries []GroupSummary `json:"summaries,omitempty"`
}

// GroupSummary is what is known of a number among those who gave an answer: how many gave one,
// its mean, and its standard deviation with the divisor n − 1.
type GroupSummary struct {
	Answer Slot    `json:"answer"`
	N      int64   `json:"n"`
	Mean   float64 `json:"mean"`
	SD     float64 `json:"sd"`
}

// Group is one answer of a merge.
type Group struct {
	Label   string `json:"label"`
	Answers []Slot `json:"answers"`
}

// DerivationError says why a question cannot be made; texts under
// problem.derivation.
type DerivationError struct{ Why string }

func (e *DerivationError) Error() string { return "survey: derivation: " + e.Why }

// Derive makes the answers and the column of a derived question. sources are those
// of the derivation in its order. Missing answers of a merged or banded question
// stay apart by reason; for the other rules they become the blank. Errors are
// *DerivationError.
func Derive(d Derivation, sources []Source, of Sample) (Kind, []Answer, Column, error) {
	fail := func(why string) (Kind, []Answer, Column, error) { return "", nil, Column{}, &DerivationError{why} }
	wanted := map[Rule]int{Merge: 1, Bands: 1, Combine: 2, HowMany: 1, Parts: 1, Summaries: 1}[d.Rule]
	if d.Rule == Together {
		wanted = max(1, len(d.Sources))
	}
	if wanted == 0 || len(sources) != wanted || len(d.Sources) != wanted {
		return fail("sources")
	}
	for _, s := range sources[1:] {
		if s.Column.Rows() != sources[0].Column.Rows() {
			return fail("sources")
		}
	}
	m := &maker{}
	var err error
	kind := Single
	switch d.Rule {
	case Merge:
		kind = sources[0].Question.Kind
		if kind == Discrete {
			kind = Ordered
		}
		err = m.merge(d, sources[0])
	case Bands:
		kind = Ordered
		err = m.bands(d, sources[0], of)
	case Combine:
		err = m.combine(sources[0], sources[1])
	case HowMany:
		kind = Discrete
		err = m.howMany(sources[0])
	case Together:
		kind = ChooseAll
		err = m.together(d, sources)
	case Parts:
		kind = ChooseAll
		err = m.parts(d, sources[0])
	case Summaries:
		kind = Summarised
		err = m.summaries(d, sources[0], of)
	}
	if err != nil {
		return "", nil, Column{}, err
	}
	if len(m.answers) > MostAnswers {
		return fail("too_many")
	}
	return kind, append(m.answers, blankAnswer()), m.column, nil
}

// maker gathers the answers of a derived question; slots count from 1.
type maker struct {
	answers []Answer
	column  Column
}

func (m *maker) add(a Answer) Slot {
	a.Slot, a.SameAs = Slot(len(m.answers)+1), nil
	m.answers = append(m.answers, a)
	return a.Slot
}

// keepMissing adds the missing answers of a source, the blank excepted, and notes
// where they went.
func (m *maker) keepMissing(q Question, to map[Slot]Slot) {
	for _, a := range q.Answers {
		if a.Missing != "" && a.SameAs == nil && a.Slot != Blank {
			to[a.Slot] = m.add(Answer{Code: a.Code, Label: a.Label, Missing: a.Missing})
		}
	}
	for slot, under := range q.counted() {
		if Slot(slot) != under {
			to[Slot(slot)] = to[under]
		}
	}
}

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
	sets := make([]uint64, sources[0].Column.Rows())
	answered := make([]bool, len(sets))
	for k, s := range sources {
		q := s.Question
		if !q.Kind.Coded() || len(d.Chosen[k]) == 0 {
			return &DerivationError{"kind"}
		}
		slot := m.add(Answer{Code: q.Name, Label: q.Wording})
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
