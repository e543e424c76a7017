package operations

import (
	"context"
	"errors"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Whoever asks is told whether the process lives, whether the database answers, in bounded time, and what was answered, by route alone.
func TestHowItIs(t *testing.T) {
	t.Parallel()
	m := New(map[string]func() float64{"watching": func() float64 { return 3 }})
	m.Answered("/api/v1/studies/:study/topline", "GET", 200, 30*time.Millisecond)
	m.Answered("/api/v1/studies/:study/topline", "GET", 200, time.Millisecond)
	m.Answered("/api/v1/studies/:study/undo", "POST", 412, time.Millisecond)
	(*Metrics)(nil).Answered("/", "GET", 200, 0) // nobody counts
	var gone error
	handler := m.Handler(func(ctx context.Context) error {
		_, bounded := ctx.Deadline()
		assert.True(t, bounded)
		return gone
	})
	ask := func(method, path string) (int, string, string) {
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, httptest.NewRequest(method, path, nil))
		return w.Code, w.Body.String(), w.Header().Get("Retry-After")
	}
	for _, k := range []struct {
		method, path string
		err          error
		status       int
		retry        string
	}{
		{"GET", "/health", nil, 200, ""}, {"GET", "/health", errors.New("gone"), 200, ""},
		{"GET", "/ready", nil, 200, ""}, {"GET", "/ready", errors.New("gone"), 503, "1"}, {"GET", "/ready", nil, 200, ""},
		{"POST", "/health", nil, 405, ""}, {"GET", "/debug/pprof/", nil, 404, ""},
	} {
		gone = k.err
		status, text, retry := ask(k.method, k.path)
		assert.Equal(t, k.status, status, "%s %s", k.method, k.path)
		assert.Equal(t, k.retry, retry)
		assert.NotContains(t, text, "gone", "nothing of the inside")
	}
	_, text, _ := ask("GET", "/metrics")
	for _, line := range []string{
		`widetally_requests_total{method="GET",route="/api/v1/studies/:study/topline",status="200"} 2`,
		`widetally_requests_total{method="POST",route="/api/v1/studies/:study/undo",status="412"} 1`,
		`widetally_request_seconds_bucket{route="/api/v1/studies/:study/topline",le="0.01"} 1`,
		`widetally_request_seconds_count{route="/api/v1/studies/:study/topline"} 2`,
		"widetally_watching 3", "go_goroutines ",
	} {
		assert.Contains(t, text, line)
	}
}
