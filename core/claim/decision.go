package claim

import (
	"math"
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// way is one way to decide. p is set for the ways that go by a p-value.
type way struct {
	id       string
	found    document.Value
	against  document.Value
	rejected bool
	p        *prob.Prob
}

// byP decides by whether a p-value is at most the level.
func byP(id string, p prob.Prob, level float64) way {
	return way{id: id, found: document.P(document.PExact, p, level), against: document.Of(document.Level, level), rejected: p.AtMost(level), p: &p}
}

// by decides by something that is compared with something else.
func by(id string, found, against document.Value, rejected bool) way {
	return way{id: id, found: found, against: against, rejected: rejected}
}

// verdict is what a claim comes to: the ways to decide, and the one of them that decides. The
// sentence, the register, the adjustment for many claims, references in a report and what is
// written at the terminal all go by it, so that none can say something else.
type verdict struct {
	ways  []way
	at    int // of ways; it goes by a p-value
	level float64
}

func (d verdict) rejected() bool { return d.ways[d.at].rejected }

// p is the one that decides.
func (d verdict) p() prob.Prob { return *d.ways[d.at].p }

// inText is it as a sentence writes it.
func (d verdict) inText() document.Value { return document.P(document.PEqual, d.p(), d.level) }

// goBy lets the way with an id decide, where there is one.
func (d *verdict) goBy(id string) (found bool) {
	if i := slices.IndexFunc(d.ways, func(w way) bool { return w.id == id }); i >= 0 {
		d.at = i
		return true
	}
	return false
}

// outcome is what the register says, of a null hypothesis or of shares.
func (d verdict) outcome(what string) *document.Outcome {
	return &document.Outcome{Text: document.Say("outcome."+what+"_"+outcome(d.rejected()), nil), P: document.P(document.PExact, d.p(), d.level), Rejected: d.rejected()}
}

// agree reports whether every way comes to the same.
func (d verdict) agree() bool {
	return !slices.ContainsFunc(d.ways, func(w way) bool { return w.rejected != d.rejected() })
}

// facts are the p-value that decides, under the key by which a report refers to it, and behind it
// that of the usual test where another one decides. usual names the latter.
func (d verdict) facts(usual document.Fact) []document.Fact {
	if d.at == 0 {
		usual.Key = "p"
		return []document.Fact{usual}
	}
	usual.Key = "usual_p"
	w := d.ways[d.at]
	return []document.Fact{fact("p", "p_decides", document.Values{"way": document.Term("way." + w.id)}, plain(w.found)), usual}
}

// table shows together what each way comes to, and which decides where that is not plain: where
// they differ, or another than the first decides.
func (d verdict) table(confidence float64) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: document.Say("caption.decisions", nil), Stub: head("way"), Shown: []document.Role{document.Main}, Columns: []document.Message{head("found"), head("against"), head("says")}}
	tell := d.at > 0 || !d.agree()
	for i, w := range d.ways {
		name := document.Say("way."+w.id, document.Values{"confidence": document.Of(document.Level, confidence)})
		if tell && i == d.at {
			own := name
			name = document.Say("way.decides", document.Values{"way": {Kind: document.Said, Message: &own}})
		}
		t.Rows = append(t.Rows, document.Row{Name: name, Cells: []document.Cell{document.One(w.found), document.One(w.against), document.One(document.Term("outcome.null_" + outcome(w.rejected)))}})
	}
	return t
}

// block shows the ways at a confidence of 1 − the level.
func (d verdict) block() document.Block {
	return document.Block{Kind: document.Figures, Table: d.table(1 - d.level)}
}

// differ says that the ways disagree, and why that can be.
func (d verdict) differ(n *notesOf, why string) {
	if !d.agree() {
		n.caution(document.Decision, "ways_differ."+why, nil)
	}
}

// chiSquareVerdict decides by a chi-square statistic, or by an exact or simulated test where the
// chi-square distribution is not to be relied on and such a test was carried out. doubt is said
// behind the finding: what does not hold, and what decides instead.
func chiSquareVerdict(statistic, critical float64, p prob.Prob, level float64, advice infer.Advice, e *infer.ExactTest) (d verdict, doubt []document.Message) {
	d = verdict{level: level, ways: []way{byP("chi_square_p", p, level),
		by("chi_square", document.Of(document.Statistic, statistic), document.Of(document.Statistic, critical), statistic >= critical)}}
	id := ""
	switch {
	case e == nil || e.Reject == nil:
	case e.Exact != nil:
		id = "exact"
		d.ways = append(d.ways, byP(id, e.Exact.P, level))
	default:
		id = "simulated"
		d.ways = append(d.ways, byP(id, e.Simulated.ByProbability.P, level))
	}
	if advice.Use != infer.UseExact && advice.Use != infer.UseSimulation {
		return d, nil
	}
	if id == "" {
		return d, []document.Message{document.Say("finding.doubt.alone", nil)}
	}
	d.goBy(id)
	v := document.Values{"p": d.inText(), "usual": document.P(document.PEqual, p, level), "level": document.Of(document.Level, level)}
	switch {
	case !e.Settled:
		id += "_unsettled"
	case d.ways[0].rejected == d.rejected():
		id += "_agrees"
	default:
		id += "_differs"
	}
	return d, []document.Message{document.Say("finding.doubt."+id, v)}
}

// decidesInstead is the last line of a working whose test is not the one that decides.
func (d verdict) decidesInstead() []document.Message {
	if d.at == 0 {
		return nil
	}
	return []document.Message{document.Say("working.decides", document.Values{"way": document.Term("way." + d.ways[d.at].id), "p": d.inText(), "outcome": document.Term("outcome.null_" + outcome(d.rejected()))})}
}

// insteadInJournal adds to a line in the style of a journal the p that decides.
func (d verdict) insteadInJournal(line document.Message) []document.Message {
	if d.at == 0 {
		return []document.Message{line}
	}
	return []document.Message{line, document.Say("write_up.decides", document.Values{"way": document.Term("way." + d.ways[d.at].id), "p": d.inText()})}
}

// within shows an interval, or for a direction the one-sided bound on its side, and whether
// a value lies outside. scale turns numbers into those that are shown.
func (s Stated) within(id string, two infer.Interval, bounds *infer.Interval, value, scale float64, kind document.ValueKind, against document.Value) way {
	switch {
	case s.Direction == Less && bounds != nil:
		return by(id+"_upper", document.Of(kind, scale*bounds.Upper), against, value > bounds.Upper)
	case s.Direction == Greater && bounds != nil:
		return by(id+"_lower", document.Of(kind, scale*bounds.Lower), against, value < bounds.Lower)
	}
	outside := !two.Contains(value)
	if kind == document.Percent {
		return by(id+"_interval", document.Value{Kind: document.Range, Number: scale * two.Lower, Upper: scale * two.Upper}, against, outside)
	}
	if kind == document.Measure { // for reading; the working has every digit
		kind = document.Rounded
	}
	said := document.Say("fact.from_to", document.Values{"lower": document.Of(kind, scale*two.Lower), "upper": document.Of(kind, scale*two.Upper)})
	return by(id+"_interval", document.Value{Kind: document.Said, Message: &said}, against, outside)
}

// beyond reports whether a statistic reaches its critical value on the side that is asked about.
func (s Stated) beyond(statistic, critical float64) bool {
	switch s.Direction {
	case Less:
		return statistic <= critical
	case Greater:
		return statistic >= critical
	}
	return math.Abs(statistic) >= critical
}

// critical is the critical value of a statistic that lies around 0, from its upper quantiles:
// below 0 for less, and to be taken on both sides where the direction is different.
func (s Stated) critical(quantile func(alpha float64) float64) float64 {
	switch s.Direction {
	case Less:
		return -quantile(s.Level)
	case Greater:
		return quantile(s.Level)
	}
	return quantile(s.Level / 2)
}

// againstCritical is a critical value as something is compared with it.
func (s Stated) againstCritical(critical float64) document.Value {
	if s.Direction == Different {
		return document.Value{Kind: document.BothSides, Number: critical}
	}
	return document.Of(document.Statistic, critical)
}
