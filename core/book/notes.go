package book

import (
	"slices"

	"widetally/core/document"
)

// notes are what is to be known of a table: of whom it is, how differences are told, what brackets mean.
func (s shower) notes(among string) (out []document.Message) {
	add := func(id string, v document.Values) { out = append(out, document.Say("book.note."+id, v)) }
	v := document.Values{"units": s.units, "n": document.N(s.rule.Rounded(s.made.All.N))}
	whom := "answered"
	if among != "" {
		whom, v["among"] = "among", document.Quote(among)
	}
	add(whom, v)
	if s.made.Sampled != nil {
		if weight := s.made.Sampled.Weight; weight != "" {
			add("estimated", document.Values{"weight": document.Text(weight)})
		} else {
			add("estimated_unweighted", nil)
		}
	}
	if slices.Contains(s.book.shown(), document.RowPercent) {
		add("row_percent", nil)
	}
	if slices.Contains(s.book.shown(), document.StandardError) {
		id := "standard_error"
		if s.made.Sampled != nil {
			id = "standard_error_design"
		}
		add(id, nil)
	}
	s.differences(add)
	out = append(out, s.rule.Signs()...)
	bases := s.made.Bases
	if slices.ContainsFunc(bases, func(b Base) bool { return b.N > 0 && b.N < s.book.Least }) {
		add("hidden", document.Values{"least": document.N(s.book.Least)})
	}
	if slices.ContainsFunc(bases, func(b Base) bool { return b.N >= s.book.Least && b.N < s.book.Few }) {
		add("few", document.Values{"few": document.N(s.book.Few)})
	}
	return out
}

// differences says how they are told.
func (s shower) differences(add func(id string, v document.Values)) {
	d := s.book.Differences
	if d.Against == "" {
		return
	}
	levels := d.levels()
	v := document.Values{"level": levelOf(levels[0])}
	id := string(d.Against)
	if len(levels) > 1 {
		id, v["stricter"] = id+"_two", levelOf(levels[1])
	}
	if s.made.Tests > 0 {
		add(id, v)
		test := "test"
		if s.made.Sampled != nil {
			test = "test_design"
		}
		adjust := d.Adjust
		if adjust == "" {
			adjust = ByHolm
		}
		add(
			test, document.Values{
				"tests": document.N(int64(s.made.Tests)), "adjusted": document.Term("book.adjusted." + string(adjust)),
			},
		)
	}
	if s.made.Untested > 0 {
		add(
			"untested", document.Values{
				"n": document.N(int64(s.made.Untested)), "few": document.N(
					max(s.book.Few, s.book.Least, 2),
				), "expected": document.N(leastExpected),
			},
		)
	}
	if len(s.made.Own) > 0 {
		add("own", nil)
	}
	if d.Against == EachOther && slices.ContainsFunc(s.layout.Columns, func(c Column) bool { return c.Overlaps }) {
		add("overlap", nil)
	}
}

func levelOf(level float64) document.Value { return document.Of(document.Level, level) }

// Chance is how many comparisons of a book would stand out by chance alone.
type Chance struct {
	Tables, Tests, Standing int
	Level                   float64
	Adjust                  Adjust
}

// ChanceOf counts the comparisons of tables.
func (b Book) ChanceOf(tables []*Made) Chance {
	c := Chance{Level: b.Differences.levels()[0], Adjust: b.Differences.Adjust}
	if c.Adjust == "" {
		c.Adjust = ByHolm
	}
	for _, t := range tables {
		if t.Tests > 0 {
			c.Tables++
		}
		c.Tests += t.Tests
		for _, r := range t.Rows {
			for i, cell := range r.Cells {
				for _, one := range cell.Compared {
					if one.Levels > 0 && (one.Other == Others || one.Other > i) {
						c.Standing++
					}
				}
			}
		}
	}
	return c
}

// Said says it; without an id where nothing was tested.
func (c Chance) Said() document.Message {
	if c.Tests == 0 {
		return document.Message{}
	}
	return document.Say("book.chance."+string(c.Adjust), document.Values{
		"tests": document.N(int64(c.Tests)), "tables": document.N(int64(c.Tables)), "standing": document.N(int64(c.Standing)),
		"level": levelOf(c.Level), "chance": document.Of(document.Amount, c.Level*float64(c.Tests)),
		"tables_chance": document.Of(document.Amount, c.Level*float64(c.Tables)),
	})
}
