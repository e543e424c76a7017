package e2e

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// From how the households were drawn to a claim about all of them, and back to those who answered.
func TestADesignIsStatedAndTurned(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook?show=design", address, st.ID))
	p.sees("[data-test=design-form]", "by weight", "only proposed")
	p.seek("[data-test=design-strata]", "ward", "2 · ward")
	p.click("[data-test=design-save]")
	p.sees("[data-test=error]", "one cluster", "misspelt")
	p.forgive(422)
	p.choose("[data-test=design-single]", "taken to add nothing")
	p.click("[data-test=design-save]")
	p.sees("[data-test=design-said]", "Each counts by “weight”", "9 strata")
	p.sees("[data-test=design-head]", "The population is estimated")

	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q4 .tally", "Estimated, %", "95 % interval")
	p.sees("#q4 [data-test=claim]", "Rao–Scott F", "Each counts by “weight”", "not as it was at the first run")
	p.click("[data-test=design-turn]")
	p.sees("[data-test=design-head]", "Respondents are counted")
	p.await("the tally of respondents", `!document.querySelector('#q4 .tally').textContent.includes('Estimated')`)
	p.sees("#q4 [data-test=claim]", "χ² =")
}
