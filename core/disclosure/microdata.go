package disclosure

import (
	"errors"
	"math/rand/v2"
	"slices"
	"strings"

	"widetally/core/analysis"
	"widetally/core/survey"
)

// Chosen is a question of a file for others.
type Chosen struct {
	survey.Source
	// Key says that others may know its answer of somebody, as of age or where one lives.
	Key bool
}

// Release says how the answers of respondents leave for others.
type Release struct {
	// Least is how many respondents share every combination of answers to the key questions at least; those
	// with rarer ones leave without these answers.
	Least int64 `json:"least"`
	// Bands is in how many bands of about equally many respondents a number leaves that has more values.
	Bands int `json:"bands"`
}

// Most of a release.
const (
	mostKeys  = 12
	mostLeast = 1_000
	mostRare  = 20
	mostBands = 50
)

// Check lists what is wrong with a release of so many questions, keys of them key questions.
func (r Release) Check(questions, keys int) (out []analysis.Problem) {
	one := func(is bool, code, member string) {
		if !is {
			out = append(out, analysis.Problem{Code: "microdata." + code, Pointer: "/" + member})
		}
	}
	one(questions > 0, "questions", "questions")
	one(keys <= mostKeys, "keys", "keys")
	one(r.Least >= 2 && r.Least <= mostLeast, "least", "least")
	one(r.Bands >= 2 && r.Bands <= mostBands, "bands", "bands")
	return out
}

// Leaves reports whether answers of a kind may leave for others at all: texts and identifiers may not.
func Leaves(k survey.Kind) bool { return k.Tabulated() || k.Measured() }

// ServesAsKey reports whether answers of a kind can tell who somebody is, and be kept back.
func ServesAsKey(k survey.Kind) bool { return k.Tabulated() || k == survey.Continuous }

// Combination is a combination of answers to the key questions as the file would have them.
type Combination struct {
	Answers []string // labels, by key question
	Count   int64    // respondents
}

// RareAnswer is an answer that few respondents gave.
type RareAnswer struct {
	Question, Answer string // its name and the label
	Count            int64
}

// Anonymity is how well respondents are hid among each other (k-anonymity: Samarati and Sweeney 1998).
type Anonymity struct {
	Respondents  int64
	Combinations int   // different ones
	Smallest     int64 // how many share the rarest one: k
	Alone        int64 // respondents who share theirs with nobody
	Few          int64 // respondents who share theirs with fewer than the release says
	// Withheld is how many leave without answers to the key questions: the few, and those with the next rarer
	// combinations where the few are too few themselves.
	Withheld int64
	// Rare are the rarest combinations below the limit, at most 20.
	Rare []Combination
	// RareAnswers are the answers to questions that are no key questions which fewer gave, at most 20: they
	// leave as they are.
	RareAnswers []RareAnswer
}

// Microdata is the answers of respondents as others may have them.
type Microdata struct {
	// Questions are as they leave: without other spellings, numbers in bands.
	Questions []survey.Question
	Anonymity Anonymity

	codes []func(row int) string
	keys  []int // places of the key questions
	// of is per respondent the combination, and held those that are withheld.
	of    []int32
	held  []bool
	order []int
}

// ErrTooFew is returned where there are fewer respondents than have to share a combination.
var ErrTooFew = errors.New("disclosure: fewer respondents than have to share a combination")

// MakeMicrodata makes the answers to the chosen questions ready to leave. Everything is counted as the file would
// have it: in bands, spellings under their answer, a missing answer as an answer of its own. Rows leave in an order
// of chance, so that they cannot be laid beside another file. Errors: ErrTooFew, those of the columns.
func MakeMicrodata(r Release, chosen []Chosen, rows int, of survey.Sample) (*Microdata, error) {
	m := &Microdata{order: rand.Perm(rows)}
	var labels []func(int) string
	for i, one := range chosen {
		s, err := r.banded(one.Source, of)
		if err != nil {
			return nil, err
		}
		folded := s.Question
		folded.Answers = spelled(folded.Answers)
		m.codes = append(m.codes, folded.Writer(s.Column, false))
		labels = append(labels, folded.Writer(s.Column, true))
		if one.Key {
			m.keys = append(m.keys, i)
		}
		if s.Question.Kind.Tabulated() && !one.Key {
			if err := m.rareAnswers(s, r.Least, of); err != nil {
				return nil, err
			}
		}
		s.Question.Answers = slices.DeleteFunc(slices.Clone(s.Question.Answers), func(a survey.Answer) bool { return a.SameAs != nil })
		s.Question.Derivation, s.Question.Base = nil, nil
		m.Questions = append(m.Questions, s.Question)
	}
	return m, m.count(r, labels, rows, of)
}

// banded is a source as it leaves: a number in bands where it has more values than these.
func (r Release) banded(s survey.Source, of survey.Sample) (survey.Source, error) {
	if k := s.Question.Kind; k != survey.Continuous && k != survey.Discrete {
		return s, nil
	}
	counted, err := survey.Distribute(s.Column, survey.SlotLimit, of)
	if err != nil {
		return s, err
	}
	cut := survey.Derivation{Rule: survey.Bands, Sources: []uint64{0}, Cut: survey.EqualGroups, Number: r.Bands}
	switch values := s.Question.Numbers(counted); {
	case len(values) == 0 || s.Question.Kind == survey.Discrete && len(values) <= r.Bands:
		return s, nil
	case len(values) == 1: // told as what it is, in one band
		cut.Cut, cut.Limits = survey.GivenLimits, []float64{values[0].Number}
	}
	kind, answers, column, err := survey.Derive(cut, []survey.Source{s}, of)
	if err != nil {
		return s, err
	}
	s.Question.Kind, s.Question.Answers, s.Column = kind, answers, column
	return s, nil
}

// spelled are answers that write another spelling as the answer under which it counts.
func spelled(answers []survey.Answer) []survey.Answer {
	bySlot := map[survey.Slot]survey.Answer{}
	for _, a := range answers {
		bySlot[a.Slot] = a
	}
	out := slices.Clone(answers)
	for i, a := range out {
		if a.SameAs != nil {
			out[i].Code, out[i].Label = bySlot[*a.SameAs].Code, bySlot[*a.SameAs].Label
		}
	}
	return out
}

func (m *Microdata) rareAnswers(s survey.Source, least int64, of survey.Sample) error {
	counts, err := survey.CountAnswers(s.Question, s.Column, of)
	if err != nil {
		return err
	}
	for _, a := range s.Question.Proper() {
		if n := counts.BySlot[a.Slot]; n > 0 && n < least && len(m.Anonymity.RareAnswers) < mostRare {
			m.Anonymity.RareAnswers = append(m.Anonymity.RareAnswers, RareAnswer{s.Question.Name, a.Label, n})
		}
	}
	return nil
}

// count finds the combinations, and withholds the rare ones.
func (m *Microdata) count(r Release, labels []func(int) string, rows int, of survey.Sample) error {
	a := &m.Anonymity
	a.Respondents = of.Number(rows)
	if len(m.keys) == 0 {
		return nil
	}
	if a.Respondents < r.Least {
		return ErrTooFew
	}
	var first []int
	var counts []int64
	known, cells := map[string]int32{}, make([]byte, 0, 64)
	m.of = make([]int32, rows)
	for row := range rows {
		cells = cells[:0]
		for _, k := range m.keys {
			cells = append(append(cells, m.codes[k](row)...), 0)
		}
		at, is := known[string(cells)]
		if !is {
			at = int32(len(counts))
			known[string(cells)] = at
			first, counts = append(first, row), append(counts, 0)
		}
		m.of[row] = at
	}
	of.Each(rows, func(row int, times int64) { counts[m.of[row]] += times })
	places := make([]int, 0, len(counts))
	for i, n := range counts {
		if n > 0 {
			places = append(places, i)
		}
	}
	slices.SortStableFunc(places, func(i, j int) int { return int(counts[i] - counts[j]) })
	a.Combinations, a.Smallest = len(places), counts[places[0]]
	m.held = make([]bool, len(counts))
	without, hasBlank := known[strings.Repeat("\x00", len(m.keys))]
	gathered := int64(0) // who will be without answers
	if hasBlank {
		gathered = counts[without]
	}
	for _, p := range places {
		n := counts[p]
		isFew := n < r.Least
		if isFew {
			a.Few += n
			if n == 1 {
				a.Alone++
			}
			if len(a.Rare) < mostRare {
				one := Combination{Count: n}
				for _, k := range m.keys {
					one.Answers = append(one.Answers, labels[k](first[p]))
				}
				a.Rare = append(a.Rare, one)
			}
		}
		if hasBlank && int32(p) == without {
			continue
		}
		if isFew || gathered > 0 && gathered < r.Least {
			m.held[p] = true
			gathered, a.Withheld = gathered+n, a.Withheld+n
		}
	}
	return nil
}

// Row writes a row of the file into cells, in codes.
func (m *Microdata) Row(i int, cells []string) {
	row := m.order[i]
	for k, code := range m.codes {
		cells[k] = code(row)
	}
	if m.held != nil && m.held[m.of[row]] {
		for _, k := range m.keys {
			cells[k] = ""
		}
	}
}
