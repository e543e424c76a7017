package report

import (
	"regexp"
	"strings"
)

// Reference is a figure within prose that follows its source: {claim 3: p} or
// {tenure: % Owns outright}.
type Reference struct {
	// From and To are where it stands in the text, in bytes.
	From, To int
	// Of is the source, "claim 3" or the name of a question; Figure what is taken of it.
	Of, Figure string
}

// Key names the figure, however it is spaced.
func (r Reference) Key() string { return r.Of + ": " + r.Figure }

// reference is one in braces on one line; the name of the source has no colon.
var reference = regexp.MustCompile(`\{([^{}:\n]{1,200}):([^{}\n]{1,300})\}`)

// References finds the references of a text in their order. What stands in braces
// without a colon is text.
func References(text string) (out []Reference) {
	for _, at := range reference.FindAllStringSubmatchIndex(text, -1) {
		r := Reference{From: at[0], To: at[1], Of: spaced(text[at[2]:at[3]]), Figure: spaced(text[at[4]:at[5]])}
		if r.Of != "" && r.Figure != "" {
			out = append(out, r)
		}
	}
	return out
}

func spaced(s string) string { return strings.Join(strings.Fields(s), " ") }

// Fill puts what mark makes of each reference in its place.
func Fill(text string, mark func(r Reference) string) string {
	var b strings.Builder
	from := 0
	for _, r := range References(text) {
		b.WriteString(text[from:r.From])
		b.WriteString(mark(r))
		from = r.To
	}
	b.WriteString(text[from:])
	return b.String()
}
