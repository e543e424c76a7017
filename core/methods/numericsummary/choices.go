package numericsummary

import (
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/survey"
	"widetally/core/tally"
)

// cuts lets the classes be typed: how wide, from where, how many, or at which limits.
func (c Numbers) cuts() *document.Choice {
	number := func(x float64, is bool) string {
		if !is {
			return ""
		}
		return survey.FormatNumber(x)
	}
	start := 0.0
	if c.Start != nil {
		start = *c.Start
	}
	var limits []string
	for _, x := range c.Limits {
		limits = append(limits, survey.FormatNumber(x))
	}
	out := &document.Choice{Label: say.ChoiceCutLabel(), Folded: true}
	for _, e := range []struct {
		member, text string
		most         int
	}{{"width", number(c.Width, c.Width > 0), 24}, {"start", number(start, c.Start != nil), 24}, {"number", number(float64(c.Number), c.Number > 0), 3}, {"limits", strings.Join(limits, "; "), 400}} {
		out.Entries = append(
			out.Entries,
			document.Entry{Label: document.Say("choice.cut."+e.member, nil), Member: e.member, Text: e.text, Most: e.most},
		)
	}
	return out
}

func (c Numbers) drawings(list []Drawing) *document.Choice {
	return claim.Choice(
		"drawing",
		"picture",
		list,
		c.Drawing,
		func(d Drawing) document.Message { return document.Say("choice.draw."+string(d), nil) },
	)
}

// Heights offers what the axis up counts.
func (c Numbers) Heights(list []claim.Height, normal bool) *document.Choice {
	out := claim.Choice(
		"height",
		"height",
		list,
		c.Height,
		func(h claim.Height) document.Message { return document.Say("choice.height_as."+string(h), nil) },
	)
	if normal {
		out.Options = append(
			out.Options,
			document.Option{Label: say.ChoiceNormal(), Chosen: c.Normal, Change: claim.Patch(map[string]any{"normal": !c.Normal})},
		)
	}
	return out
}

// widths offers widths of the classes, the one in use among them.
func (c Numbers) widths(s *tally.Summary, nice []float64, used float64, one bool) *document.Choice {
	out := &document.Choice{Label: say.ChoiceWidth()}
	if s.Discrete() {
		nice = slices.DeleteFunc([]float64{2, 5, 10}, func(w float64) bool { return w > s.Range })
		out.Options = append(
			out.Options,
			document.Option{
				Label:  say.ChoiceEachNumber(),
				Chosen: one,
				Change: claim.Patch(map[string]any{"width": nil, "number": nil, "limits": nil}),
			},
		)
	}
	if used > 0 && !slices.Contains(nice, used) {
		nice = append(nice, used)
		slices.Sort(nice)
	}
	for _, w := range nice {
		out.Options = append(
			out.Options,
			document.Option{
				Label:  claim.Plain(claim.Measure(w)),
				Chosen: w == used,
				Change: claim.Patch(map[string]any{"width": w, "number": nil, "limits": nil}),
			},
		)
	}
	return out
}
