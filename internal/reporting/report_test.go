package reporting

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods"
	"widetally/core/report"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

const shareSpec = `{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["yes"],"claimed":"62 %","direction":"less","role":"null","level":0.05,"source":{}}}`

// study is the caddies of Fernmouth: 734 of 1,240 households use theirs.
func study(t *testing.T, yes, no int64) (Maker, Content) {
	t.Helper()
	w, err := i18n.Load("en")
	require.NoError(t, err)
	spec, err := methods.All().Spec([]byte(shareSpec))
	require.NoError(t, err)
	wording := "Does your household use the food caddy?"
	counted, err := analysis.Count(t.Context(), spec, analysis.Typed{Questions: []analysis.TypedQuestion{{Key: "q", Wording: &wording, Categories: []analysis.TypedCategory{{Code: "yes", Label: "Yes, we do"}, {Code: "no", Label: "No"}}, Counts: []int64{yes, no}}}})
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1e6, Replicates: 1e4}, spec, counted)
	require.NoError(t, err)
	doc := o.Document(claim.About{Units: document.Text("households")})
	run := time.Date(2026, 11, 26, 9, 30, 0, 0, time.UTC)
	a := Analysis{Name: "claim 1", Claim: 1, Title: "caddy use", Method: "one-proportion", Statement: "At least 62 % use it.", Level: 0.05, Document: said.Of(&doc, w), Whom: "1,240 households", Source: "the waste plan", StatedAt: run, FirstRunAt: &run, Changes: []string{"level: 0.1 → 0.05"}, After: true}
	q := survey.Question{Name: "caddy", Wording: wording, Kind: survey.Single, Answers: []survey.Answer{{Slot: 1, Code: "yes", Label: "Yes, we do"}, {Slot: 2, Code: "no", Label: "No"}}}
	f := &tally.Frequency{Everyone: yes + no + 60, Answered: yes + no, Missing: 60, Rows: []tally.Row{{Slot: 1, Count: yes}, {Slot: 2, Count: no}}}
	draw := func(context.Context, any) (string, error) {
		return `<svg width="300" height="200"><path id="a" clip-path="url(#a)"/></svg>`, nil
	}
	return Maker{Words: w, Methods: methods.All(), Draw: draw}, Content{Study: "Kerbside", Units: "households", Respondents: 1300, Revision: 7, At: run, Weights: "w", Tallies: map[int]*Tally{1: {Question: q, Frequency: f, Units: "households", Decimals: 1}},
		Analyses: map[int]*Analysis{2: &a}, Claims: []Analysis{a}, Tests: 1, Withdrawn: 2}
}

func read(r export.Report) string {
	var out []string
	for _, b := range r.Blocks {
		for _, run := range b.Runs {
			out = append(out, run.Text+run.Stale)
		}
		for _, i := range b.Items {
			out = append(out, export.Plain(i))
		}
		if b.Table != nil {
			out = append(out, b.Table.Label+". "+b.Table.Title, strings.Join(b.Table.Notes, " "))
			for _, row := range b.Table.Rows {
				for _, c := range row {
					out = append(out, c.Text)
				}
			}
		}
		if b.Picture != nil {
			out = append(out, b.Picture.Label+". "+b.Picture.Caption)
		}
	}
	return strings.Join(out, " ")
}

var pieces = []report.Piece{{ID: 1, Question: 9}, {ID: 2, Analysis: 3}}

// What a report says of itself and of its pieces.
func TestWhatAReportSays(t *testing.T) {
	m, c := study(t, 734, 506)
	r := report.Report{Title: "Caddies", Facts: []report.Fact{{Key: "mode", Text: "by telephone"}}, Pieces: append(append([]report.Piece{}, pieces...), report.Piece{ID: 4, Analysis: 99})}
	out, err := m.Make(t.Context(), r, c)
	require.NoError(t, err)
	text := read(out)
	for _, want := range []string{"Mode: by telephone", "Respondents: 1,300 households", "No weights were used; the study has a column of weights, “w”.", "Table 1. Does your household use the food caddy?", "59.2", "Of the 1,240 households that answered; 60 gave no answer.",
		"Claim 1: caddy use", "Stated 2026-11-26 09:30 UTC. First run 2026-11-26 09:30 UTC. Changed: level: 0.1 → 0.05.", "Compared with: the waste plan", "Figure 1. Caddy use", "Test of one share: Claim 1 at the 5 % level. After Wilson 1927. The score test decides; the interval is Wilson’s",
		"each counted once and without weights", "This piece is no longer in the study.", "1 test was run in all.", "2 claims were withdrawn.", "At least 62 % use it."} {
		assert.Contains(t, strings.ReplaceAll(text, "\u00a0", " "), want)
	}
	assert.Contains(t, out.Of, "Kerbside, unweighted, 2026-11-26, state 7 of the data")
	without := r
	without.Without = report.Parts
	without.Pieces = []report.Piece{{ID: 2, Analysis: 3, Shown: []document.Place{document.Working}}}
	out, err = m.Make(t.Context(), without, c)
	require.NoError(t, err)
	assert.NotContains(t, read(out), "by telephone")
	assert.NotContains(t, read(out), "Figure")
	assert.Contains(t, read(out), "734 ÷ 1,240", "the working")
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = m.Make(ctx, r, c)
	assert.ErrorIs(t, err, context.Canceled)
}

// Prose is Markdown; its figures follow their sources and say when they no longer are what they were.
func TestProse(t *testing.T) {
	m, c := study(t, 734, 506)
	for _, k := range []struct{ prose, want string }{
		{"p = {claim 1: p}", "p = 0.0209"},
		{"{Claim  1:  p}", "0.0209"},
		{"**{caddy: % Yes, we do}** of {caddy: n}, {caddy: count no}; {caddy: missing}", "59.2 % of 1,240, 506; 60"},
		{"see {caddy: table} and {claim 1: figure}", "see Table 1 and Figure 1"},
		{"{claim 1: outcome} at {claim 1: level}", "null rejected at 5 %"},
		{"{claim 2: p}", "{claim 2: p}this figure is not in the report"},
		{"{caddy: % Maybe}", "{caddy: % Maybe}this figure is not in the report"},
		{"no figure: {x} {} {a:} 1 < 2 & <b>x</b>", "no figure: {x} {} {a:} 1 < 2 & <b>x</b>"},
		{"# One *two*\n\n1. a\n2. b\n\n> said", "One  two a b said"},
		{"[in](javascript:alert(1)) [out](https://example.org)", "in   out"},
		{"```r\nx <- {caddy: n}\n```", "x <- 1,240"},
		{"    {caddy: n} of **them**", "1,240 of **them**"},
		{"<div>\n{caddy: n}\n</div>", "<div> 1,240 </div>"},
		{"<https://example.org/{caddy: n}> <javascript:alert(1)>", "https://example.org/1,240 javascript:alert(1)"},
		{"[the bins](https://example.org/{caddy: n})", "the bins"},
		{"one\ntwo  \nthree", "one two three"},
		{"![a bin](bin.png) {caddy: n}", "a bin 1,240"},
		{"- a {caddy: n}\n  - b\n\n  c\n- `d {caddy: missing}`", "a 1,240 b c d 60"},
		{"a\n\n---\n\nb", "a b"},
		{"\\*stars\\* &amp; \uE0000\uE001", "*stars* & 0"},
	} {
		r := report.Report{Pieces: append([]report.Piece{{ID: 7, Prose: k.prose}}, pieces...), Without: report.Parts}
		out, err := m.Make(t.Context(), r, c)
		require.NoError(t, err)
		var said []export.Block
		for _, b := range out.Blocks {
			if b.Piece == 7 {
				said = append(said, b)
			}
			for _, run := range b.Runs {
				assert.NotContains(t, run.Link, "javascript")
				assert.NotContains(t, run.Link, "\uE000")
			}
		}
		got := strings.ReplaceAll(read(export.Report{Blocks: said}), "\u00a0", " ")
		assert.Equal(t, strings.Join(strings.Fields(k.want), ""), strings.Join(strings.Fields(got), ""), k.prose)
	}

	r := report.Report{Pieces: append([]report.Piece{{ID: 7, Prose: "p {claim 1: p}, {caddy: table}"}}, pieces...)}
	r.Pieces[0].Figures = m.Figures(r, c, r.Pieces[0].Prose)
	assert.Equal(t, map[string]string{"claim 1: p": "0.0209"}, r.Pieces[0].Figures, "the number of a table is no figure")
	_, later := study(t, 700, 540)
	out, err := m.Make(t.Context(), r, later)
	require.NoError(t, err)
	assert.Contains(t, read(out), "0.0209 when this was written")

	for _, o := range m.Offers(r, c) {
		ref := report.References("{" + o.Key + "}")
		require.Len(t, ref, 1, o.Key)
		d := &made{Maker: m, r: r, c: c}
		d.numbers = d.count()
		text, _, ok := d.figure(ref[0])
		assert.True(t, ok, o.Key)
		assert.Equal(t, o.Text, text, o.Key)
	}
}

// A claim that was not run is open, one that cannot be says why, and ordered answers run on.
func TestWhatAReportSaysOfWhatIsNotThere(t *testing.T) {
	m, c := study(t, 734, 506)
	open, blocked := *c.Analyses[2], *c.Analyses[2]
	open.Document, open.FirstRunAt, open.Claim, open.After, open.Changes = nil, nil, 2, false, nil
	blocked = open
	blocked.Claim, blocked.Problems = 3, []string{"Nobody answered."}
	c.Analyses[5], c.Analyses[6] = &open, &blocked
	c.Claims = append(c.Claims, open, blocked)
	running := []int64{734, 1240}
	c.Tallies[1].Question.Kind = survey.Ordered
	for i := range c.Tallies[1].Frequency.Rows {
		c.Tallies[1].Frequency.Rows[i].Cumulative = &running[i]
	}
	c.CountsBy = "n"
	out, err := m.Make(t.Context(), report.Report{Pieces: append([]report.Piece{{ID: 5, Analysis: 7}, {ID: 6, Analysis: 8}}, pieces...)}, c)
	require.NoError(t, err)
	said := map[int]string{}
	for _, b := range out.Blocks {
		said[b.Piece] += " " + read(export.Report{Blocks: []export.Block{b}})
	}
	assert.Contains(t, said[5], "not run")
	assert.Contains(t, said[6], "Nobody answered.")
	assert.NotContains(t, said[6], "not run")
	text := strings.ReplaceAll(read(out), "\u00a0", " ")
	assert.Contains(t, text, "Yes, we do 734 59.2 734 59.2 No 506 40.8 1,240 100.0")
	assert.Contains(t, text, "1,300 households, counted by “n”")
	assert.Regexp(t, `2 At least 62 % use it\. 5 % 2026-11-26\s+not run yet`, text)
}
