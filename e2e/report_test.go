package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// From the demo to a document with two tables, a picture, a claim and a paragraph with a number
// that follows its source; the pieces in another order; and the number that says what it was once
// the claim has changed.
func TestFromTheToplineToADocument(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	_, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(address + "/studies/1/report")
	p.sees("[data-test=report-empty]", "Nothing is chosen for the report yet")
	p.click("[data-test=report-empty] a")
	p.sees("#q4", "1,240")
	p.key("#q4", "r")
	p.sees("#q4 [data-test=in-report]", "In the report")
	p.key("#q21", "r")
	p.sees("#q21 [data-test=in-report]", "In the report")
	p.click("#q4 [data-test=unfold]")
	p.key("#q4 [data-test=show-working]", "r")
	p.sees("#q4 [data-test=select-analysis]", "In the report")
	p.pressWord("nav", "Report")
	p.sees("#page", "Table 1. ", "Table 2. ", "Claim 1: ", "Figure 1. ", "Chi-square test of goodness of fit: Claim 1 at the 5 % level", "Pearson 1900")

	// A paragraph with a live number, before everything.
	p.click("[data-test=piece-1] [data-test=write-before]")
	p.fill("[data-test=prose] textarea", "## What came out\n\nThe claim on tenure comes to **p = {claim 1: p}**, that on glass to p = {claim 3: p} and <script>alert(1)</script>; see {claim 1: figure} and {nobody: n}.")
	p.click("[data-test=prose-keep]")
	p.sees("#page", "What came out", "p = 0.0020, that on glass to p = 0.0018", "<script>alert(1)</script>", "Figure 1", "{nobody: n} [this figure is not in the report]")

	// Another order, another base, other parts; what the survey discloses.
	p.click("[data-test=piece-2] [data-test=piece-up]")
	p.await("the second tally first", `document.querySelector('#page').textContent.indexOf('collection missed') < document.querySelector('#page').textContent.indexOf('Table 2')`)
	p.click("[data-test=piece-2] [data-test=piece-base]")
	p.sees("[data-test=piece-2]", "% of everyone")
	p.click("[data-test=facts-edit]")
	p.fill("[data-test=fact-mode] textarea", "By telephone and at the door")
	p.click("[data-test=facts-keep]")
	p.sees("#page", "Mode: By telephone and at the door")
	assert.NotContains(t, p.read("[data-test=facts-lacking]"), "mode")
	assert.NotContains(t, p.read("[data-test=facts-lacking]"), "weighting", "the study tells that itself")

	// The document has them all, as a reader of such documents sees it.
	document := body(t, address+"/api/v1/studies/1/report/file?form=docx")
	parts, err := zip.NewReader(bytes.NewReader(document), int64(len(document)))
	require.NoError(t, err)
	found := map[string]string{}
	for _, f := range parts.File {
		r, err := f.Open()
		require.NoError(t, err)
		raw, err := io.ReadAll(r)
		require.NoError(t, err)
		found[f.Name] = string(raw)
	}
	main := found["word/document.xml"]
	assert.NoError(t, xml.Unmarshal([]byte(main), new(struct{})))
	for _, want := range []string{"0.0020", "What came out", `w:val="Heading2"`, "<w:tbl>", "<w:tblHeader/>", "Rents it privately", "By telephone and at the door"} {
		assert.True(t, strings.Contains(main, want), want)
	}
	assert.GreaterOrEqual(t, strings.Count(main, "<w:tbl>"), 3)
	assert.Contains(t, found["word/media/picture-1.svg"], "<svg")
	assert.True(t, strings.HasPrefix(found["word/media/picture-1.png"], "\x89PNG"))

	// Printed, the place is the report alone, as wide as the paper.
	media := func(kind string) {
		_, err := chromedp.Call(p.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: kind})
		require.NoError(t, err)
	}
	media("print")
	p.await("the report alone", `document.querySelector('.rail').getClientRects().length === 0 && document.querySelector('[data-test=piece-acts]').getClientRects().length === 0 && document.querySelector('#page').getBoundingClientRect().width > 0.95 * innerWidth`)
	media("")

	// It is saved from the page, under the name that the server gives it.
	p.run(`window.saved = ''; HTMLAnchorElement.prototype.click = function () { window.saved = this.download }`)
	p.click("[data-test=save-as]")
	p.item("save-docx")
	p.await("the document", `/^fernmouth-kerbside-survey-\d{4}-\d\d-\d\d\.docx$/.test(window.saved)`)
	p.gone("[data-test=writing]")

	// Once a claim has changed, the paragraph says what its number was.
	p.visit(address + "/studies/1#q23")
	p.sees("#q23 [data-test=claim]", "Claim 3")
	p.click("#q23 [data-test=unfold]")
	p.click("#q23 [data-test=change-claim]")
	p.choose("#q23 [data-test=direction]", "different from that")
	p.click("#q23 [data-test=save-claim]")
	p.gone("#q23 [data-test=claim-form]")
	p.pressWord("nav", "Report")
	p.sees("#page", "that on glass to p = 0.0036 [0.0018 when this was written]")

	// Undo is at hand, and the report stays as it was for who looks again.
	p.click("[data-test=piece-3] [data-test=piece-remove]")
	p.gone("[data-test=piece-3]")
	p.click("[data-test=study-undo]")
	p.sees("[data-test=piece-3]", "Claim 1")
	p.audited("the report")

	// The whole study leaves as one file, and opens as it was: the report, and the claim that was changed.
	p.visit(address + "/studies")
	p.sees("[data-test=study-file]", "Save as a file")
	file := body(t, address+"/api/v1/studies/1/file")
	p.visit(address + "/intake")
	p.upload("study.zip", string(file))
	p.sees("[data-test=packed]", "Fernmouth kerbside survey, 1,240 households", "15 claims")
	p.click("[data-test=open-packed]")
	p.sees("#q4", "Claim 1")
	p.pressWord("nav", "Report")
	p.sees("#page", "that on glass to p = 0.0036 [0.0018 when this was written]", "direction")
}

func body(t *testing.T, address string) []byte {
	t.Helper()
	res, err := http.Get(address) //nolint:gosec // our own server
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return raw
}
