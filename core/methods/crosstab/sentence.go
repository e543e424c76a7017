package crosstab

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Extremes are the answer in which the groups lie furthest apart, and its two ends.
type Extremes struct {
	high, low, answer int
	Apart             float64 // percentage points
}

// readAlong is a table as it is read: of each group, how often each answer.
type readAlong struct {
	groups, answers []string
	at              func(g, a int) int64
	base            []int64
}

func (c Crossing) read(t Crossed) readAlong {
	if c.Reading == OfEachColumn {
		return readAlong{c.ColumnLabels, c.RowLabels, func(g, a int) int64 { return t.counts[a][g] }, t.ColumnSum}
	}
	return readAlong{c.RowLabels, c.ColumnLabels, func(g, a int) int64 { return t.counts[g][a] }, t.RowSum}
}

func (r readAlong) percent(g, a int) float64 { return claim.Percent(r.at(g, a), r.base[g]) }

// Extremes of a table; nil where nobody is in it.
func (c Crossing) Extremes(t Crossed) *Extremes {
	if t.N == 0 {
		return nil
	}
	r, out := c.read(t), Extremes{-1, -1, 0, -1}
	for a := range r.answers {
		h, l := -1, -1
		for g := range r.groups {
			if r.base[g] == 0 {
				continue
			}
			if h < 0 || r.percent(g, a) > r.percent(h, a) {
				h = g
			}
			if l < 0 || r.percent(g, a) < r.percent(l, a) {
				l = g
			}
		}
		if d := r.percent(h, a) - r.percent(l, a); d > out.Apart {
			out = Extremes{h, l, a, d}
		}
	}
	return &out
}

// Sentence reads the table in the direction that is chosen. It speaks of an answer and two groups:
// of the extremes of the table itself where none are given.
func (c Crossing) Sentence(t Crossed, of *Extremes) document.Message {
	v := c.Values()
	v["n"] = document.N(t.N)
	if t.N == 0 {
		return document.Say("read.nobody", v)
	}
	if c.Reading == OfEveryone || c.Reading == AsCounts {
		bi, bj := 0, 0
		for i, row := range t.counts {
			for j, o := range row {
				if o > t.counts[bi][bj] {
					bi, bj = i, j
				}
			}
		}
		o := t.counts[bi][bj]
		v["row"], v["column"], v["count"], v["percent"] = document.Text(
			c.RowLabels[bi],
		), document.Text(
			c.ColumnLabels[bj],
		), document.N(
			o,
		), document.Of(
			document.Percent,
			claim.Percent(o, t.N),
		)
		return document.Say("read."+string(c.Reading), v)
	}
	r := c.read(t)
	if of == nil {
		of = c.Extremes(t)
	}
	high, low, answer := of.high, of.low, of.answer
	switch { // of those spoken of, whoever is there
	case r.base[high] == 0 && r.base[low] == 0:
		return document.Say("read.neither_group", v)
	case r.base[high] == 0:
		high = low
	case r.base[low] == 0:
		low = high
	}
	first, second := "row", "column"
	if c.Reading == OfEachColumn {
		first, second = second, first
	}
	v["group"], v["answer"] = document.Text(r.groups[high]), document.Text(r.answers[answer])
	v["of"], v["what"] = v[first+"s"], v[second+"s"]
	v["base"], v["percent"] = document.N(r.base[high]), document.Of(document.Percent, r.percent(high, answer))
	v["group2"], v["base2"], v["percent2"] = document.Text(
		r.groups[low],
	), document.N(
		r.base[low],
	), document.Of(
		document.Percent,
		r.percent(low, answer),
	)
	if high == low {
		return document.Say("read.one_group", v)
	}
	return document.Say("read.groups", v)
}

func (c Crossing) finding(decided claim.Verdict) document.Message {
	v := c.Values()
	v["level"] = document.Of(document.Level, decided.Level)
	return document.Say("finding.crosstab."+string(c.Test.Role)+"."+claim.Outcome(decided.Rejected()), v)
}

func (c Crossing) journal(r *infer.Independence) document.Message {
	return say.FindingCrosstabJournal(int64(r.DF), r.N, r.Statistic, document.P(document.PEqual, r.P, r.Level), r.CramersV)
}
