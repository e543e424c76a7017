package e2e

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/statistics"
	"widetally/web"
)

// From a table of the statistics office to a claim that keeps the version which it used; and the
// office slow, failing, answering half a document and gone, which hurts nothing.
func TestSharesFromTheOfficeToAClaim(t *testing.T) {
	t.Parallel()
	var how atomic.Pointer[statistics.StandIn]
	how.Store(&statistics.StandIn{})
	asked, late := make(chan struct{}, 1), make(chan struct{})
	office := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if how.Load().Slow > 0 {
			asked <- struct{}{}
		}
		how.Load().ServeHTTP(w, r)
	}))
	defer office.Close()
	limit := func(ctx context.Context) (context.Context, context.CancelFunc) {
		ctx, cancel := context.WithCancelCause(ctx)
		go func() {
			select {
			case <-ctx.Done():
			case <-late:
				cancel(context.DeadlineExceeded)
			}
		}()
		return ctx, func() { cancel(nil) }
	}
	address, _, _ := serveWith(t, mariadbtest.Database(t), service.Options{Office: office.URL, OfficeLimit: limit}, web.Files())
	p := open(t)
	p.visit(address + "/shares")
	p.sees("#page", "Nothing is on the shelf yet")
	p.click("[data-test=add-office]")
	p.pressWord("[data-test=office-tables]", "Households by tenure, ward and year")
	p.choose("[data-test=along]", "Tenure")
	p.choose("[data-test=fix-year]", "2024")
	p.choose("[data-test=fix-ward]", "All wards")
	p.sees("[data-test=table-take]", "Owns outright", "8100") // 2100 + 1900 + 1500 + 2600
	p.click("[data-test=take]")
	p.choose("[data-test=set-form] [data-test=kind]", "an official register or census")
	p.choose("[data-test=set-form] [data-test=scale]", "counts of a group")
	p.click("[data-test=set-save]")
	p.sees("[data-test=share-set]", "1 Mar 2026", "Households by tenure, ward and year: 2024, All wards", "Fernmouth Office of Figures", "Owns with a mortgage 9600", "version 1")

	// While a form is open the office fails in every way; what is on the shelf stays.
	for text, s := range map[string]*statistics.StandIn{"answers with an error": {Fail: true}, "cannot be read as JSON-stat": {Broken: true}, "takes too long": {Slow: time.Hour}} {
		how.Store(s)
		p.click("[data-test=add-office]")
		if s.Slow > 0 {
			<-asked
			late <- struct{}{}
		}
		p.sees("#page [role=alert]", text, "Nothing was changed")
		p.sees("[data-test=share-set]", "Owns with a mortgage 9600")
		p.click("[data-test=add-office]")
	}
	p.forgive(502)
	p.forgive(504)
	how.Store(&statistics.StandIn{})
	p.click("[data-test=add-office]")
	p.sees("[data-test=office-tables]", "Adults by age band")

	// A table that comes as SDMX-CSV, its total left out; and the office is killed while another
	// is on its way: the form that is open keeps what it has.
	p.pressWord("[data-test=office-tables]", "People who work by way to work")
	p.choose("[data-test=along]", "Way to work")
	p.choose("[data-test=fix-TIME_PERIOD]", "2025")
	p.sees("[data-test=table-take]", "Bus or tram4500", "“All who work” is left out")
	how.Store(&statistics.StandIn{Slow: time.Hour})
	p.choose("[data-test=fix-TIME_PERIOD]", "2024")
	<-asked
	office.Listener.Close() // first, so that nobody comes in behind
	office.CloseClientConnections()
	p.sees("#page [role=alert]", "cannot be reached", "Nothing was changed")
	p.sees("[data-test=table-take]", "Way to work", "Year fixed at 2024")
	assert.NotContains(t, p.read("[data-test=table-take]"), "4500", "the figures were those of another year")
	p.click("[data-test=add-office]")
	p.click("[data-test=add-office]")
	p.sees("#page [role=alert]", "cannot be reached")
	p.sees("[data-test=share-set]", "Owns with a mortgage 9600")
	p.forgive(502)
	p.click("[data-test=add-office]")

	// The published categories go to fewer answers: one by its name, two added up by hand.
	p.visit(address + "/intake")
	p.upload("homes.csv", "tenure\n"+strings.Repeat("Owns\n", 520)+strings.Repeat("Rents from the council\n", 240)+strings.Repeat("Rents from a landlor\n", 180)+strings.Repeat("Other\n", 20))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "960 respondents")
	p.key("#q1", "c")
	p.click("#q1 [data-test=from-shelf]")
	p.choose("#q1 [data-test=shelf-set]", "Households by tenure")
	p.sees("#q1 [data-test=fit-close]", "“Rents from a landlor”")
	p.sees("#q1 [data-test=fit-left]", "“Owns outright”", "“Owns with a mortgage”")
	p.sees("#q1 [data-test=fit-lacking]", "“Owns”")
	p.run(`document.querySelector('#q1 [data-test="fit-Owns"] .v-field').dispatchEvent(new MouseEvent('mousedown', {bubbles: true, cancelable: true}))`)
	for _, category := range []string{"Owns outright", "Owns with a mortgage"} {
		p.pressWord(".v-overlay--active", category)
	}
	p.run(`document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape', bubbles: true}))`)
	p.gone("#q1 [data-test=fit-left]")
	p.sees("#q1 [data-test=shelf]", "17700") // 8100 + 9600
	p.click("#q1 [data-test=fit-take]")
	p.sees("#q1 [data-test='shares.scale']", "a ratio")
	p.click("#q1 [data-test=state-run]")
	p.sees("#q1 [data-test=finding]", "Households by tenure, ward and year: 2024, All wards")
	assert.Contains(t, p.read("#q1 [data-test=claim]"), "Claim 1")

	// Another version on the shelf is told; the claim keeps its own.
	p.visit(address + "/shares")
	p.click("[data-test=set-edit]")
	p.fill("[data-test=set-form] [data-cell='1:1']", "8200")
	p.click("[data-test=set-save]")
	p.sees("[data-test=share-set]", "version 2", "Owns outright 8200")
	p.click("[data-test=set-versions]")
	p.sees("[data-test=share-set] ul", "version 1", "Owns outright 8100")
	p.visit(address + "/studies/1")
	p.sees("#q1 [data-test=newer-shares]", "version 1", "the shelf has version 2")
	p.click("#q1 [data-test=change-claim]")
	p.sees("#q1 [data-test=claim-form]", "31780")
}
