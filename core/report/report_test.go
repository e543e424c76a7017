package report

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/document"
)

func TestWhatCanBeAReport(t *testing.T) {
	for _, k := range []struct {
		r    Report
		code string
	}{
		{Report{Pieces: []Piece{{ID: 1, Question: 2, Among: 3}, {ID: 2, Analysis: 1, Shown: []document.Place{document.Working}}, {ID: 3, Prose: "x"}, {ID: 4}}}, ""},
		{Report{Title: strings.Repeat("é", MostTitle)}, ""},
		{Report{Title: strings.Repeat("é", MostTitle+1)}, "title"},
		{Report{Facts: []Fact{{"mode", "by post"}}, Without: Parts}, ""},
		{Report{Facts: []Fact{{Respondents, "7"}}}, "fact"}, // the study tells that itself
		{Report{Facts: []Fact{{"mode", strings.Repeat("x", MostFact+1)}}}, "fact"},
		{Report{Without: []Part{"all"}}, "part"},
		{Report{Pieces: make([]Piece, MostPieces+1)}, "pieces"},
		{Report{Pieces: []Piece{{ID: 1, Question: 2, Analysis: 1}}}, "piece"},
		{Report{Pieces: []Piece{{ID: 1, Analysis: 1, Among: 2}}}, "piece"},
		{Report{Pieces: []Piece{{ID: 1}, {ID: 1}}}, "piece"},
		{Report{Pieces: []Piece{{Question: 1}}}, "piece"},
		{Report{Pieces: []Piece{{ID: 1, Prose: strings.Repeat("x", MostProse+1)}}}, "prose"},
		{Report{Pieces: []Piece{{ID: 1, Question: 1, Base: "all"}}}, "base"},
		{Report{Pieces: []Piece{{ID: 1, Analysis: 1, Shown: []document.Place{"notes"}}}}, "place"},
	} {
		var p *Problem
		if k.code == "" {
			assert.NoError(t, k.r.Check())
		} else if assert.True(t, errors.As(k.r.Check(), &p), k.code) {
			assert.Equal(t, k.code, p.Code)
		}
	}
	assert.Equal(t, 6, Report{Pieces: []Piece{{ID: 5}, {ID: 2}}}.NextID())
	assert.True(t, Piece{}.Shows(document.Chart))
	assert.False(t, Piece{}.Shows(document.Working))
	assert.True(t, Piece{}.Shows(document.Agreement))
	assert.False(t, Piece{Shown: []document.Place{document.Facts}}.Shows(document.Agreement), "it stands for a table")
	assert.True(t, Piece{Shown: []document.Place{document.Working}}.Shows(document.Heading))
	assert.False(t, Piece{Shown: []document.Place{}}.Shows(document.Chart))
}

func TestReferences(t *testing.T) {
	for text, want := range map[string]string{
		"p = {claim 1: p} and {q: % a, b}.":              "[claim 1|p] [q|% a, b]",
		"{ claim  1 :  p }":                              "[claim 1|p]",
		"{a} {a:} {: b} {a\n: b} {{a: b}}":               "[a|b]",
		"{a: b: c}":                                      "[a|b: c]",
		"{" + strings.Repeat("x", 300) + ": p} {a: {b}}": "",
		"": "",
	} {
		var got []string
		for _, r := range References(text) {
			got = append(got, "["+r.Of+"|"+r.Figure+"]")
		}
		assert.Equal(t, want, strings.Join(got, " "), text)
	}
	assert.Equal(t, "x «a: b» y", Fill("x {a: b} y", func(r Reference) string { return "«" + r.Key() + "»" }))
}
