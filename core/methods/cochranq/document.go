package cochranq

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Claim is a claim about the answers to a choose-all question: that the same respondents
// choose all of them equally often, or that they do not.
type Claim struct {
	claim.About
	Question claim.Question
	Labels   []string
	Role     claim.Role
}

func (c Claim) values() document.Values {
	return document.Values{"units": c.Units, "question": c.Question.Called(), "answers": document.N(int64(len(c.Labels)))}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return document.Say("claim.cochran_q."+string(c.Role), c.values())
}

// Document says what a result means (Cochran 1950).
func (c Claim) Document(r *infer.CochranQ) document.Document {
	critical := prob.ChiSquareUpperQuantile(r.Level, float64(r.DF))
	v := c.values()
	v["n"], v["bearing"], v["df"], v["level"] = document.N(
		r.N,
	), document.N(
		r.Bearing,
	), document.N(
		int64(r.DF),
	), document.Of(
		document.Level,
		r.Level,
	)
	v["statistic"], v["critical"], v["p"] = document.Of(
		document.Statistic,
		r.Statistic,
	), document.Of(
		document.Statistic,
		critical,
	), document.P(
		document.PEqual,
		r.P,
		r.Level,
	)
	most, least := 0, 0
	for i, n := range r.Items {
		if n > r.Items[most] {
			most = i
		}
		if n < r.Items[least] {
			least = i
		}
	}
	v["first"], v["percent"] = document.Text(c.Labels[most]), document.Of(document.Percent, claim.Percent(r.Items[most], r.N))
	v["last"], v["percent2"] = document.Text(c.Labels[least]), document.Of(document.Percent, claim.Percent(r.Items[least], r.N))
	decided, _ := claim.ChiSquareVerdict(r.Statistic, critical, r.P, r.Level, infer.Advice{}, nil)
	finding := []document.Message{document.Say("finding.cochran_q."+string(c.Role)+"."+claim.Outcome(r.Reject), v)}
	for _, k := range r.Conditions {
		if !k.Met {
			finding = append(finding, document.Say("finding.doubt.cochran_q", v))
		}
	}
	reading := document.Say("read.cochran_q.apart", v)
	if r.Items[most] == r.Items[least] {
		reading = document.Say("read.cochran_q.alike", v)
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.cochran_q", v),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("of_respondents")},
	}
	for i, label := range c.Labels {
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: claim.Plain(document.Text(label)),
				Cells: []document.Cell{
					document.One(document.N(r.Items[i])),
					document.One(document.Of(document.Percent, claim.Percent(r.Items[i], r.N))),
				},
			},
		)
	}
	var working []document.Message
	for _, id := range []string{"statistic", "df", "p", claim.Outcome(r.Reject)} {
		working = append(working, document.Say("working.cochran_q."+id, v))
	}
	d := document.Document{Blocks: []document.Block{
		claim.Hypotheses("cochran_q", c.Role, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Chart, Chart: claim.ChiSquarePicture(r.Statistic, critical, r.DF, r.Reject, v["p"])},
		{Kind: document.Facts, Facts: []document.Fact{
			claim.Fact("statistic", "statistic", nil, say.FactCochranQ(v["statistic"])),
			claim.Fact("df", "df", nil, say.FactDfAnswers(v["answers"], v["df"])),
			claim.PFact(r.P, r.Level),
			claim.Fact("critical", "critical", document.Values{"level": v["level"]}, claim.Plain(v["critical"])),
			claim.Fact("bearing", "bearing", nil, claim.Plain(v["bearing"])),
		}},
		decided.Block(),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: append(slices.Clone(finding), reading, document.Say("finding.cochran_q.journal", v))},
	}, Outcome: decided.Outcome("null")}
	var notes claim.NotesOf
	notes.LeftOut(c.About, r.N)
	notes.Add(document.Sentence, "cochran_q.same", v)
	for _, k := range r.Conditions {
		if !k.Met {
			notes.Caution(
				document.Conditions,
				"cochran_q.few",
				document.Values{"bearing": v["bearing"], "needed": document.N(int64(k.Needed)), "units": c.Units},
			)
		}
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
