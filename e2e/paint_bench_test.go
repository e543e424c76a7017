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
// that are seen first stood there, and how much script and style was fetched until then; beside
// it the first paint of a page of plain text.
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
	const mark = `performance.getEntriesByName('drawn')[0].startTime`
	until := func(ending string) string {
		return `performance.getEntriesByType('resource').filter((r) => r.name.endsWith('` + ending + `') && r.startTime < ` + mark + `).reduce((sum, r) => sum + r.encodedBodySize, 0) / 1000`
	}
	units := []string{"first-paint-ms", "drawn-ms", "script-kB", "style-kB"}
	values := map[string][]float64{}
	for b.Loop() {
		values["plain-text-ms"] = append(values["plain-text-ms"], look(address+"/api/v1/limits", painted, `[`+paint+`]`)[0])
		for i, v := range look(topline, painted+` && performance.getEntriesByName('drawn').length > 0`, `[`+paint+`, `+mark+`, `+until(".js")+`, `+until(".css")+`]`) {
			values[units[i]] = append(values[units[i]], v)
		}
	}
	for unit, list := range values {
		slices.Sort(list)
		b.ReportMetric(list[len(list)/2], unit)
	}
}
