package e2e

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"widetally/e2e/browser"
	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// BenchmarkFirstPaint opens the demo in a browser that has never seen it and prints, as medians
// in ms from the start of the navigation, when something was painted first, when the questions
// that are seen first stood there, and how much script was fetched until then; beside it the
// first paint of a page of plain text.
func BenchmarkFirstPaint(b *testing.B) {
	address, cases, _ := serve(b, mariadbtest.Database(b))
	st, err := demo.Make(b.Context(), cases)
	require.NoError(b, err)
	topline := fmt.Sprintf("%s/studies/%d", address, st.ID)
	// look opens an address in a new browser and has it measure something once it is there.
	look := func(url, ready, measure string) []float64 {
		ctx, stop := browser.New(context.Background())
		defer stop()
		ctx, cancel := context.WithTimeout(ctx, time.Minute)
		defer cancel()
		require.NoError(b, chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)))
		require.NoError(b, chromedp.Do(ctx, chromedp.Navigate(url)))
		for {
			if is, err := chromedp.Run(ctx, chromedp.Evaluate[bool](ready)); err == nil && is {
				break
			}
			require.NoError(b, ctx.Err())
			time.Sleep(20 * time.Millisecond)
		}
		got, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](measure))
		require.NoError(b, err)
		return got
	}
	const paint = `performance.getEntriesByName('first-contentful-paint')[0].startTime`
	painted := `performance.getEntriesByName('first-contentful-paint').length > 0`
	var plain, first, drawn, script []float64
	for b.Loop() {
		plain = append(plain, look(address+"/api/v1/limits", painted, `[`+paint+`]`)[0])
		got := look(topline, painted+` && performance.getEntriesByName('drawn').length > 0`, `[`+paint+`, performance.getEntriesByName('drawn')[0].startTime,
			performance.getEntriesByType('resource').filter((r) => r.name.endsWith('.js') && r.startTime < performance.getEntriesByName('drawn')[0].startTime).reduce((sum, r) => sum + r.encodedBodySize, 0)]`)
		first, drawn, script = append(first, got[0]), append(drawn, got[1]), append(script, got[2]/1000)
	}
	for name, values := range map[string][]float64{"plain-text-ms": plain, "first-paint-ms": first, "drawn-ms": drawn, "script-kB": script} {
		slices.Sort(values)
		b.ReportMetric(values[len(values)/2], name)
	}
}
