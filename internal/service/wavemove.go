package service

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/study"
	"widetally/core/survey"
)

// waveMove takes what is about one wave to another.
type waveMove struct {
	question study.Question
	from, to survey.Answer     // from without a code is all waves together
	parts    []study.Part      // the subgroups of the study
	became   map[uint64]uint64 // subgroups that are found or made
	make     func(c survey.Condition, p study.Part) (uint64, error)
}

func newWaveMove(q study.Question, from, to string, parts []study.Part) (*waveMove, error) {
	m := &waveMove{question: q, parts: parts, became: map[uint64]uint64{}}
	var ok bool
	if m.to, ok = waveOf(q.Question, to); !ok {
		return nil, invalid("waves.to", "/to", nil)
	}
	if m.from, ok = waveOf(q.Question, from); !ok && from != "" {
		return nil, invalid("waves.from", "/from", nil)
	}
	if from == to {
		return nil, invalid("waves.same", "/to", nil)
	}
	return m, nil
}

// since is the wave since which changes are told: the one that is left, or else the one before.
func (m *waveMove) since() string {
	if m.from.Code != "" {
		return m.from.Code
	}
	before := ""
	for _, a := range m.question.Proper() {
		if a.Code == m.to.Code {
			break
		}
		before = a.Code
	}
	return before
}

// whom is the subgroup that takes the place of one, 0 for everyone; the same one where it stays.
func (m *waveMove) whom(id uint64) (uint64, error) {
	if known, is := m.became[id]; is {
		return known, nil
	}
	only := survey.Condition{Op: survey.AnyOf, Question: m.question.ID, Answers: []survey.Slot{m.to.Slot}}
	called := cmp.Or(m.question.Short, m.question.Name)
	condition, name := only, shortened(called+": "+m.to.Label, maxName)
	if id != 0 {
		at := slices.IndexFunc(m.parts, func(p study.Part) bool { return p.ID == id && !p.Deleted })
		if at < 0 {
			return id, nil
		}
		c, err := conditionOf(m.parts[at])
		if err != nil {
			return id, err
		}
		slot, given := c.Given(m.question.ID)
		old := m.parts[at].Name
		switch {
		case m.from.Code != "" && given && slot == m.from.Slot:
			condition, name = c.Giving(m.question.ID, m.to.Slot), shortened(m.renamed(old), maxName)
			if name == old {
				name = shortened(old+", "+m.to.Label, maxName)
			}
		case m.from.Code == "" && !slices.Contains(c.Questions(), m.question.ID):
			condition, name = c.Within(only), shortened(old+", "+m.to.Label, maxName)
		default:
			return id, nil
		}
	} else if m.from.Code != "" {
		return 0, nil
	}
	to, err := m.find(condition, name)
	if err == nil {
		m.became[id] = to
	}
	return to, err
}

// renamed is a text that names the other wave where it named the one that is left, as a word of its own: of “1 of 10”
// the first one alone.
func (m *waveMove) renamed(text string) string {
	word := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
	out, from := "", m.from.Label
	for from != "" {
		at := strings.Index(text, from)
		if at < 0 {
			break
		}
		end := at + len(from)
		before, _ := utf8.DecodeLastRuneInString(out + text[:at])
		after, _ := utf8.DecodeRuneInString(text[end:])
		if out += text[:at]; word(before) || word(after) {
			out += from
		} else {
			out += m.to.Label
		}
		text = text[end:]
	}
	return out + text
}

// find is the subgroup of a condition, which is made where there is none.
func (m *waveMove) find(condition survey.Condition, name string) (uint64, error) {
	id, fits, err := subgroupWith(m.parts, condition, name)
	if err != nil || id != 0 {
		return id, err
	}
	definition, err := jsonText(condition)
	if err != nil {
		return 0, fmt.Errorf("service: %w", err)
	}
	p := study.Part{Kind: study.Subgroup, Name: fits, Definition: definition}
	p.ID, err = m.make(condition, p)
	m.parts = append(m.parts, p)
	return p.ID, err
}

// spec is what is asked of the other wave; false where it stays.
func (m *waveMove) spec(s analysis.Spec) (analysis.Spec, bool, error) {
	if slices.Contains(s.Questions, KeyOf(m.question.ID)) {
		return s, false, nil
	}
	id, _ := idOf(s.Subgroup)
	to, err := m.whom(id)
	if to != id {
		s.Subgroup = KeyOf(to)
	}
	return s, to != id, err
}

// comparesWaves reports whether the columns of a banner are waves.
func (m *waveMove) comparesWaves(b book.Banner) bool {
	return slices.ContainsFunc(b.Breaks, func(one book.Break) bool { return slices.Contains(one.Questions, KeyOf(m.question.ID)) })
}

// book is the table book of the other wave; false where it stays.
func (m *waveMove) book(b book.Book, by *BannerView) (book.Book, bool, error) {
	if by == nil || m.comparesWaves(by.Banner) {
		return b, false, nil
	}
	id, _ := idOf(b.Subgroup)
	to, err := m.whom(id)
	if to != id {
		b.Subgroup = KeyOf(to)
	}
	return b, to != id, err
}

// banner is the banner with columns of the other wave; false where it stays, as one does that has a column of both.
func (m *waveMove) banner(b book.Banner) (book.Banner, bool, error) {
	out, moved := book.Banner{Breaks: slices.Clone(b.Breaks)}, false
	if m.from.Code == "" || m.comparesWaves(b) {
		return b, false, nil
	}
	for i, one := range out.Breaks {
		id, ok := idOf(one.Subgroup)
		if !ok {
			continue
		}
		to, err := m.whom(id)
		if err != nil {
			return b, false, err
		}
		if slices.ContainsFunc(b.Breaks, func(other book.Break) bool { return other.Subgroup == KeyOf(to) }) {
			continue
		}
		if to != id {
			out.Breaks[i].Subgroup, moved = KeyOf(to), true
			out.Breaks[i].Label = shortened(m.renamed(one.Label), book.MostLabel)
		}
	}
	return out, moved, nil
}

// count counts what would go along.
func (m *waveMove) count(d *dataset, books *BooksView, out *WaveMoves) error {
	for _, list := range d.analyses.byQuestion {
		for _, a := range list {
			_, moved, err := m.spec(a.spec)
			switch {
			case err != nil:
				return err
			case !moved:
				out.Staying++
			case a.Number > 0:
				out.Claims++
			default:
				out.Described++
			}
		}
	}
	for _, p := range d.report.Pieces {
		if p.Question == 0 {
			continue
		}
		to, err := m.whom(p.Among)
		if err != nil {
			return err
		}
		if to != p.Among {
			out.Tallies++
		}
	}
	for _, b := range books.Books {
		_, moved, err := m.book(b.Book, books.banner(b.Book))
		if err != nil {
			return err
		}
		if moved {
			out.Books++
		}
	}
	return nil
}
