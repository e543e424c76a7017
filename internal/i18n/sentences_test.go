package i18n

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
)

// sentences are the findings of every kind of claim, as they are read: by which hypothesis the
// claim is, what was decided, and in which direction. Each was read by itself.
var sentences = map[string]string{
	"finding.chosen_items.alternative.rejected":         "At the 5\u00a0% level the evidence supports the claim that some answers to “Which?” are chosen more often than others by the homes this sample represents.",
	"finding.chosen_items.null.rejected":                "At the 5\u00a0% level the claim is rejected: there is evidence that some answers to “Which?” are chosen more often than others by the homes this sample represents.",
	"finding.crossing.alternative.rejected":             "At the 5\u00a0% level the evidence supports the claim that “Which ward?” and caddy use go together among the homes this sample represents.",
	"finding.crossing.null.rejected":                    "At the 5\u00a0% level the claim is rejected: there is evidence that “Which ward?” and caddy use go together among the homes this sample represents.",
	"finding.gof.alternative.rejected":                  "At the 5\u00a0% level the evidence supports the claim that the homes this sample speaks for are spread over the answers to “Which ward?” differently from the register.",
	"finding.gof.alternative.rejected_equal":            "At the 5\u00a0% level the evidence supports the claim that the homes this sample speaks for are spread unequally over the answers to “Which ward?”.",
	"finding.gof.null.rejected":                         "At the 5\u00a0% level the claim is rejected: there is evidence that the homes this sample speaks for are not spread over the answers to “Which ward?” as in the register.",
	"finding.gof.null.rejected_equal":                   "At the 5\u00a0% level the claim is rejected: there is evidence that the homes this sample speaks for are not spread equally over the answers to “Which ward?”.",
	"finding.one_share.alternative.kept.greater":        "Not enough evidence, at the 5\u00a0% level, to support the claim that more than 62\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.alternative.kept.less":           "Not enough evidence, at the 5\u00a0% level, to support the claim that fewer than 33.3333\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.alternative.rejected.different":  "At the 5\u00a0% level the evidence supports the claim that the share of the homes this sample represents answering “Harbour” or “Saltings” (“Which ward?”) differs from 62\u00a0%.",
	"finding.one_share.alternative.rejected.greater":    "At the 5\u00a0% level the evidence supports the claim that more than 33.3333\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.alternative.rejected.less":       "At the 5\u00a0% level the evidence supports the claim that fewer than 62\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.null.kept.greater":               "Not enough evidence, at the 5\u00a0% level, to reject the claim that 62\u00a0% or less of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.null.kept.less":                  "Not enough evidence, at the 5\u00a0% level, to reject the claim that 33.3333\u00a0% or more of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.null.rejected.different":         "At the 5\u00a0% level the claim is rejected: there is evidence that the share of the homes this sample represents answering “Harbour” or “Saltings” (“Which ward?”) differs from 62\u00a0%.",
	"finding.one_share.null.rejected.greater":           "At the 5\u00a0% level the claim is rejected: there is evidence that more than 33.3333\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.one_share.null.rejected.less":              "At the 5\u00a0% level the claim is rejected: there is evidence that fewer than 62\u00a0% of the homes this sample represents answer “Harbour” or “Saltings” (“Which ward?”).",
	"finding.ordered_groups.shift.alternative.rejected": "At the 5\u00a0% level the evidence supports the claim that the answers to “mood” stand higher in some groups of wave than in others, among the homes this sample represents.",
	"finding.ordered_groups.shift.null.rejected":        "At the 5\u00a0% level the claim is rejected: there is evidence that the answers to “mood” stand higher in some groups of wave than in others, among the homes this sample represents.",
	"finding.ordered_groups.trend.alternative.rejected": "At the 5\u00a0% level the evidence supports the claim that “mood” rises or falls with wave among the homes this sample represents.",
	"finding.ordered_groups.trend.null.rejected":        "At the 5\u00a0% level the claim is rejected: there is evidence that “mood” rises or falls with wave among the homes this sample represents.",
	"finding.paired.alternative.kept":                   "Not enough evidence, at the 5\u00a0% level, to support the claim that the shares of the answers differ between “before” and “after” among the homes this sample represents.",
	"finding.paired.alternative.rejected":               "At the 5\u00a0% level the evidence supports the claim that the shares of the answers differ between “before” and “after” among the homes this sample represents.",
	"finding.paired.null.kept":                          "Not enough evidence, at the 5\u00a0% level, to reject the claim that the shares of the answers are the same in “before” and “after” among the homes this sample represents.",
	"finding.paired.null.rejected":                      "At the 5\u00a0% level the claim is rejected: there is evidence that the shares of the answers differ between “before” and “after” among the homes this sample represents.",
	"finding.two_means.alternative.kept":                "Not enough evidence, at the 5\u00a0% level, to support the claim that the mean of age is lower among the homes with “one” than among those with “two”, in the population that this sample represents.",
	"finding.two_means.null.kept":                       "Not enough evidence, at the 5\u00a0% level, to reject the claim that the mean of age is at least as high among the homes with “one” as among those with “two”, in the population that this sample represents.",
}

// A finding says for its kind, its direction, the role of the claim and the decision exactly
// what was agreed on.
func TestTheSentencesOfEveryKind(t *testing.T) {
	c, err := Load("en")
	require.NoError(t, err)
	said := map[string]string{}
	for _, s := range allSpecs(t) {
		if !s.Settings.Tests() {
			continue
		}
		for round, counts := range [][][]int64{{{50, 50, 0}, {10, 40, 3}}, {{300, 3, 1}, {2, 400, 90}}} {
			var source analysis.Source = typed(counts)
			if s.Questions[0] == "set" || s.Questions[0] == "age" {
				source = columns(t, round)
			}
			counted, err := analysis.Count(t.Context(), s, source)
			require.NoError(t, err)
			o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1000, Replicates: 100}, s, counted)
			require.NoError(t, err)
			if o.Refusal != nil {
				continue
			}
			for _, b := range o.Document(claim.About{Units: document.Text("homes")}).Blocks {
				if b.Kind == document.Sentence {
					if id := b.Said[0].ID; said[id] == "" {
						said[id] = c.Say(b.Said[0])
					}
					break
				}
			}
		}
	}
	for id, want := range sentences {
		assert.Equal(t, want, said[id], id)
	}
	assert.Len(t, said, len(sentences), "a kind that has no sentence here")
}
