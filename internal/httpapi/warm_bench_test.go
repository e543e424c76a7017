package httpapi

import (
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// BenchmarkWarmCrossing asks over HTTP for a question of 1,000,000 respondents with a tested
// crossing below it, and in the same run for what one query answers; the ratio is printed.
func BenchmarkWarmCrossing(b *testing.B) {
	c := newClient(b, service.Options{})
	var file strings.Builder
	file.WriteString("tenure,caddy\n")
	for i := range 1_000_000 {
		fmt.Fprintf(&file, "%d,%d\n", 1+(i*7)%5, 1+(i*i+i/3)%7)
	}
	st := c.begin(file.String())
	tenure, caddy := c.question(st, "tenure"), c.question(st, "caddy")
	c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":"crosstab","version":1,"questions":["%v","%v"],"settings":{"test":{"role":"null","level":0.05}}}}`, caddy["id"], tenure["id"]), 201)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	go func() { _ = c.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	b.Cleanup(func() { _ = c.app.Shutdown() })
	ask := func(path string) float64 {
		start := time.Now()
		res, err := http.Get("http://" + listener.Addr().String() + "/api/v1" + path)
		require.NoError(b, err)
		_, err = io.Copy(io.Discard, res.Body)
		require.NoError(b, err)
		res.Body.Close()
		require.Equal(b, http.StatusOK, res.StatusCode)
		return time.Since(start).Seconds()
	}
	crossing := fmt.Sprintf("%s/questions/%v", st, caddy["id"])
	ask(crossing)
	own, one, page := 0.0, 0.0, 0.0
	for b.Loop() {
		one += ask(st)
		own += ask(crossing)
		page += ask(st + "/topline")
	}
	b.ReportMetric(own/one, "×one-query")
	b.ReportMetric(page/one, "page×one-query")
	b.ReportMetric(1000*own/float64(b.N), "ms")
}
