package claim

import (
	"math"
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Way is one way to decide. p is set for the ways that go by a p-value.
type Way struct {
	id       string
	Found    document.Value
	against  document.Value
	rejected bool
	p        *prob.Prob
}

// ByP decides by whether a p-value is at most the level.
func ByP(id string, p prob.Prob, level float64) Way {
	return Way{
		id:       id,
		Found:    document.P(document.PExact, p, level),
		against:  document.Of(document.Level, level),
		rejected: p.AtMost(level),
		p:        &p,
	}
}

// By decides by something that is compared with something else.
func By(id string, found, against document.Value, rejected bool) Way {
	return Way{id: id, Found: found, against: against, rejected: rejected}
}

// Verdict is what a claim comes to: the ways to decide, and the one of them that decides. The
// sentence, the register, the adjustment for many claims, references in a report and what is
// written at the terminal all go by it, so that none can say something else.
type Verdict struct {
	Ways  []Way
	At    int // of ways; it goes by a p-value
	Level float64
}

// Rejected reports whether the claim is decided against its null hypothesis.
func (d Verdict) Rejected() bool { return d.Ways[d.At].rejected }

// p is the one that decides.
func (d Verdict) p() prob.Prob { return *d.Ways[d.At].p }

// InText is it as a sentence writes it.
func (d Verdict) InText() document.Value { return document.P(document.PEqual, d.p(), d.Level) }

// GoBy lets the way with an id decide, where there is one.
func (d *Verdict) GoBy(id string) (found bool) {
	if i := slices.IndexFunc(d.Ways, func(w Way) bool { return w.id == id }); i >= 0 {
		d.At = i
		return true
	}
	return false
}

// Outcome is what the register says, of a null hypothesis or of shares.
func (d Verdict) Outcome(what string) *document.Outcome {
	return &document.Outcome{
		Text:     document.Say("outcome."+what+"_"+Outcome(d.Rejected()), nil),
		P:        document.P(document.PExact, d.p(), d.Level),
		Rejected: d.Rejected(),
	}
}

// agree reports whether every way comes to the same.
func (d Verdict) agree() bool {
	return !slices.ContainsFunc(d.Ways, func(w Way) bool { return w.rejected != d.Rejected() })
}

// Facts are the p-value that decides, under the key by which a report refers to it, and behind it
// that of the usual test where another one decides. usual names the latter.
func (d Verdict) Facts(usual document.Fact) []document.Fact {
	if d.At == 0 {
		usual.Key = "p"
		return []document.Fact{usual}
	}
	usual.Key = "usual_p"
	w := d.Ways[d.At]
	return []document.Fact{Fact("p", "p_decides", document.Values{"way": document.Term("way." + w.id)}, Plain(w.Found)), usual}
}

// Table shows together what each way comes to, and which decides where that is not plain: where
// they differ, or another than the first decides.
func (d Verdict) Table(confidence float64) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionDecisions(),
		Stub:    head("way"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("found"), head("against"), head("says")},
	}
	tell := d.At > 0 || !d.agree()
	for i, w := range d.Ways {
		name := w.name(confidence)
		if tell && i == d.At {
			own := name
			name = document.Say("way.decides", document.Values{"way": {Kind: document.Said, Message: &own}})
		}
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: name,
				Cells: []document.Cell{
					document.One(w.Found),
					document.One(w.against),
					document.One(document.Term("outcome.null_" + Outcome(w.rejected))),
				},
			},
		)
	}
	return t
}

// Block shows the ways at a confidence of 1 − the level.
func (d Verdict) Block() document.Block { return d.BlockAt(1 - d.Level) }

// BlockAt shows the ways with intervals at a confidence: in a table where they differ or another than
// the first decides, else in one line.
func (d Verdict) BlockAt(confidence float64) document.Block {
	if d.At > 0 || !d.agree() {
		return document.Block{Kind: document.Figures, Table: d.Table(confidence)}
	}
	var ways []document.Value
	for _, w := range d.Ways {
		name := w.name(confidence)
		one := say.WayHeld(document.Value{Kind: document.Said, Message: &name}, w.Found, w.against)
		ways = append(ways, document.Value{Kind: document.Said, Message: &one})
	}
	line := say.WayAgree(
		int64(len(ways)),
		document.Term("outcome.null_"+Outcome(d.Rejected())),
		document.Value{Kind: document.Listed, List: ways},
	)
	return document.Block{Kind: document.Agreement, Said: []document.Message{line}}
}

func (w Way) name(confidence float64) document.Message {
	return document.Say("way."+w.id, document.Values{"confidence": document.Of(document.Level, confidence)})
}

// Differ says that the ways disagree, and why that can be.
func (d Verdict) Differ(n *NotesOf, why string) {
	if !d.agree() {
		n.Caution(document.Decision, "ways_differ."+why, nil)
	}
}

// ChiSquareVerdict decides by a chi-square statistic, or by an exact or simulated test where the
// chi-square distribution is not to be relied on and such a test was carried out. doubt is said
// behind the finding: what does not hold, and what decides instead.
func ChiSquareVerdict(
	statistic, critical float64,
	p prob.Prob,
	level float64,
	advice infer.Advice,
	e *infer.ExactTest,
) (d Verdict, doubt []document.Message) {
	d = Verdict{Level: level, Ways: []Way{ByP("chi_square_p", p, level),
		By(
			"chi_square",
			document.Of(document.Statistic, statistic),
			document.Of(document.Statistic, critical),
			statistic >= critical,
		)}}
	id := ""
	switch {
	case e == nil || e.Reject == nil:
	case e.Exact != nil:
		id = "exact"
		d.Ways = append(d.Ways, ByP(id, e.Exact.P, level))
	default:
		id = "simulated"
		d.Ways = append(d.Ways, ByP(id, e.Simulated.ByProbability.P, level))
	}
	if advice.Use != infer.UseExact && advice.Use != infer.UseSimulation {
		return d, nil
	}
	if id == "" {
		return d, []document.Message{say.FindingDoubtAlone()}
	}
	d.GoBy(id)
	v := document.Values{
		"p":     d.InText(),
		"usual": document.P(document.PEqual, p, level),
		"level": document.Of(document.Level, level),
	}
	switch {
	case !e.Settled:
		id += "_unsettled"
	case d.Ways[0].rejected == d.Rejected():
		id += "_agrees"
	default:
		id += "_differs"
	}
	return d, []document.Message{document.Say("finding.doubt."+id, v)}
}

// DecidesInstead is the last line of a working whose test is not the one that decides.
func (d Verdict) DecidesInstead() []document.Message {
	if d.At == 0 {
		return nil
	}
	return []document.Message{
		say.WorkingDecides(document.Term("way."+d.Ways[d.At].id), d.InText(), document.Term("outcome.null_"+Outcome(d.Rejected()))),
	}
}

// InsteadInJournal adds to a line in the style of a journal the p that decides.
func (d Verdict) InsteadInJournal(line document.Message) []document.Message {
	if d.At == 0 {
		return []document.Message{line}
	}
	return []document.Message{line, say.WriteUpDecides(document.Term("way."+d.Ways[d.At].id), d.InText())}
}

// Within shows an interval, or for a direction the one-sided bound on its side, and whether
// a value lies outside. scale turns numbers into those that are shown.
func (s Stated) Within(
	id string,
	two infer.Interval,
	bounds *infer.Interval,
	value, scale float64,
	kind document.ValueKind,
	against document.Value,
) Way {
	switch {
	case s.Direction == Less && bounds != nil:
		return By(id+"_upper", document.Of(kind, scale*bounds.Upper), against, value > bounds.Upper)
	case s.Direction == Greater && bounds != nil:
		return By(id+"_lower", document.Of(kind, scale*bounds.Lower), against, value < bounds.Lower)
	}
	outside := !two.Contains(value)
	if kind == document.Percent {
		return By(
			id+"_interval",
			document.Value{Kind: document.Range, Number: scale * two.Lower, Upper: scale * two.Upper},
			against,
			outside,
		)
	}
	if kind == document.Measure { // for reading; the working has every digit
		kind = document.Rounded
	}
	said := say.FactFromTo(document.Of(kind, scale*two.Lower), document.Of(kind, scale*two.Upper))
	return By(id+"_interval", document.Value{Kind: document.Said, Message: &said}, against, outside)
}

// Beyond reports whether a statistic reaches its critical value on the side that is asked about.
func (s Stated) Beyond(statistic, critical float64) bool {
	switch s.Direction {
	case Less:
		return statistic <= critical
	case Greater:
		return statistic >= critical
	}
	return math.Abs(statistic) >= critical
}

// Critical is the critical value of a statistic that lies around 0, from its upper quantiles:
// below 0 for less, and to be taken on both sides where the direction is different.
func (s Stated) Critical(quantile func(alpha float64) float64) float64 {
	switch s.Direction {
	case Less:
		return -quantile(s.Level)
	case Greater:
		return quantile(s.Level)
	}
	return quantile(s.Level / 2)
}

// AgainstCritical is a critical value as something is compared with it.
func (s Stated) AgainstCritical(critical float64) document.Value {
	if s.Direction == Different {
		return document.Value{Kind: document.BothSides, Number: critical}
	}
	return document.Of(document.Statistic, critical)
}
