package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// From how the households were drawn to a claim about all of them, a crossing, and a document with the
// respondents beside the estimates; and back to those who answered.
func TestADesignIsStatedAndTurned(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook?show=design", address, st.ID))
	p.sees("[data-test=design-form]", "by weight", "stratum", "street", "only proposed")
	p.seek("[data-test=design-strata]", "ward", "2 · ward")
	p.click("[data-test=design-save]")
	p.sees("[data-test=error]", "one cluster", "misspelt")
	p.forgive(422)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook?show=design", address, st.ID))
	p.click("[data-test=design-save]")
	p.sees("[data-test=design-said]", "Each counts by “weight”", "104 clusters, 12 strata: 92 degrees of freedom")
	p.sees("[data-test=design-head]", "The population is estimated")

	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q4 .tally", "Estimated, %", "95 % interval")
	p.click("#q4 [data-test=claim] [data-test=unfold]")
	p.sees("#q4 [data-test=claim]", "Rao–Scott F", "Drawn within “stratum”, in clusters, “street”", "not as it was at the first run")
	p.click("#q4 [data-test=claim] [data-test=show-working]")
	p.sees("#q4 [data-test=claim]", "stratum by stratum (12 strata)", "“Oldgate, inland”")
	p.click("#q4 [data-test=claim] [data-test=count-here]")
	p.sees("#q4 [data-test=claim]", "χ² =", "Estimate the population here")
	p.click("#q4 [data-test=claim] [data-test=count-here]")
	p.sees("#q4 [data-test=claim]", "Rao–Scott F")
	p.key("#q4", "x")
	p.seek("#q4 [data-test=find-other]", "garden", "8 · ")
	p.sees("#q4 [data-test=described]", "estimated for the population")

	p.key("#q4", "r")
	p.sees("#q4 [data-test=in-report]", "In the report")
	p.key("#q4 [data-test=show-working]", "r")
	p.sees("#q4 [data-test=select-analysis]", "In the report")
	raw := []byte(body(t, fmt.Sprintf("%s/api/v1/studies/%d/report/file?form=docx", address, st.ID)))
	files, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	f, err := files.Open("word/document.xml")
	require.NoError(t, err)
	written, err := io.ReadAll(f)
	require.NoError(t, err)
	text := strings.ReplaceAll(regexp.MustCompile(`<[^>]*>`).ReplaceAllString(string(written), " "), "\u00a0", " ")
	for _, want := range []string{"Estimated, %", "1,219", "Design-based test of goodness of fit", "tell how the sample was drawn", "Rao–Scott F", "Drawn within “stratum”, in clusters, “street”", "weights in “weight”"} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "unweighted")
	assert.NotContains(t, text, "simple random sample")

	p.click("[data-test=design-turn]")
	p.sees("[data-test=design-head]", "Respondents are counted")
	p.await("the tally of respondents", `!document.querySelector('#q4 .tally').textContent.includes('Estimated')`)
	p.sees("#q4 [data-test=claim]", "χ² =")
}

// A file with eighty replicate weights, as published surveys have them, from its arrival to a mean.
func TestReplicateWeightsComeIn(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	r := rand.New(rand.NewPCG(80, 80))
	var file strings.Builder
	file.WriteString("pweight,uses,score")
	for i := range 80 {
		fmt.Fprintf(&file, ",rw%d", i+1)
	}
	for range 120 {
		w := 0.5 + r.Float64()
		fmt.Fprintf(&file, "\n%.3f,%s,%d.5", w, []string{"yes", "no"}[r.IntN(2)], r.IntN(100))
		for range 80 {
			fmt.Fprintf(&file, ",%.3f", w*float64(r.IntN(3)))
		}
	}
	p.visit(address + "/intake")
	p.upload("register.csv", file.String()+"\n")
	p.sees("[data-test=looks-drawn]", "“pweight”, “rw…”")
	p.click("[data-test=keep-design]")
	p.sees("[data-test=design-form]", "by pweight", "80 replicate weights, rw1 …")
	p.click("[data-test=design-save]")
	p.sees("[data-test=error]", "Say how the replicate weights were made")
	p.forgive(422)
	p.choose("[data-test=design-method]", "a bootstrap")
	p.click("[data-test=design-save]")
	p.sees("[data-test=design-said]", "80 replicate weights (bootstrap)", "79 degrees of freedom")
	p.visit(address + "/studies/1")
	p.sees("#q2 .tally", "Estimated, %")
	p.key("#q3", "d")
	p.sees("#q3 [data-test=described]", "that this sample stands for is", "80 replicate weights (bootstrap)")
}

// A file whose columns are damaged in each way: what is wrong, and where, stands under the sentence, and
// nothing is stated.
func TestADamagedDesignIsTold(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	var file strings.Builder
	file.WriteString("w,lacking,negative,zero_wt,halves,alone,blank_unit,few,q\n")
	for i := range 40 {
		lacking, negative, stratum, alone, unit, few := "1.5", "1.5", "north", "A", fmt.Sprint("u", i%8), "20"
		switch i {
		case 4:
			lacking = ""
		case 5:
			negative = "-0.5"
		case 6:
			stratum = ""
		case 7:
			alone = "B"
		case 8:
			unit = ""
		}
		fmt.Fprintf(&file, "%.2f,%s,%s,0,%s,%s,%s,%s,%s\n", 1+float64(i%9)/10, lacking, negative, stratum, alone, unit, few, []string{"yes", "no"}[i%2])
	}
	p.visit(address + "/intake")
	p.upload("damaged.csv", file.String())
	for row, kind := range map[int]string{1: "a weight", 2: "a weight", 3: "a weight", 4: "a weight", 8: "a number"} {
		p.choose(fmt.Sprintf("[data-test=check-table] tbody tr:nth-child(%d) .choice", row), kind)
	}
	p.click("[data-test=keep]")
	p.sees("#q9 .sub", "40 respondents")
	for _, c := range []struct{ weight, strata, cluster, population, says string }{
		{weight: "by lacking", says: "Row 5 has no weight"},
		{weight: "by negative", says: "The weight of row 6 is below 0"},
		{weight: "by zero_wt", says: "No row has a weight above 0"},
		{weight: "by w", strata: "halves", says: "Row 7 has a weight but no stratum"},
		{weight: "by w", strata: "alone", says: "The stratum “B” has one cluster"},
		{weight: "by w", cluster: "blank_unit", says: "Row 9 has a weight but no cluster"},
		{weight: "by w", population: "the numbers in few", says: "fewer in the population than were drawn"},
	} {
		p.visit(address + "/studies/1/codebook?show=design")
		p.sees("[data-test=design-form]", "counts")
		p.choose("[data-test=design-weight]", c.weight)
		if c.strata != "" {
			p.seek("[data-test=design-strata]", c.strata, map[string]string{"halves": "5 · ", "alone": "6 · "}[c.strata])
		}
		if c.cluster != "" {
			p.choose("[data-test=design-cluster]", "7 · "+c.cluster)
		}
		if c.population != "" {
			p.choose("[data-test=design-population]", c.population)
		}
		p.click("[data-test=design-save]")
		p.sees("[data-test=error]", c.says)
		p.forgive(422)
	}
	p.visit(address + "/studies/1")
	p.sees("[data-test=page-notes]", "unweighted")
}
