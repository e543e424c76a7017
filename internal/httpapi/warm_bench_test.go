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

// BenchmarkLongQuestionnaire asks for what a page of 2,000 questions and 100,000 respondents
// needs first, and for what comes near the screen then, after an edit of another question each
// time, so that nothing but the columns is remembered; and again without an edit.
func BenchmarkLongQuestionnaire(b *testing.B) {
	const questions, rows = 2000, 100_000
	c := newClient(b, service.Options{})
	var file strings.Builder
	for i := range questions {
		fmt.Fprintf(&file, "q%d,", i)
	}
	file.WriteString("last\n")
	line := make([]byte, 0, 2*questions+2)
	for row := range rows {
		line = line[:0]
		for i := range questions {
			line = append(line, byte('1'+(row*(i%7+1)+row/3+i)%5), ',')
		}
		file.Write(append(line, '1', '\n'))
	}
	st := c.begin(file.String())
	first := c.question(st, "q0")
	version := first["version"].(float64)
	for b.Loop() {
		b.StopTimer()
		version = c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, first["id"]), fmt.Sprintf(`{"note":"%v"}`, version), 200, "If-Match", fmt.Sprintf(`"%v"`, version))["version"].(float64)
		b.StartTimer()
		start := time.Now()
		page := c.call("GET", st+"/topline?many=60", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-after-edit")
		require.Len(b, page["outline"], questions+1)
		start = time.Now()
		c.call("GET", st+"/topline?many=60", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-first")
		start = time.Now()
		c.call("GET", st+"/questions?from=1001&many=40", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-next")
	}
}
