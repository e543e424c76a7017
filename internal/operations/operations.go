// Package operations tells whoever keeps the application running how it is: whether it lives, whether it can answer, and how much
// it does, in the form that Prometheus reads. None of it names a study, a person or an answer.
package operations

import (
	"context"
	"database/sql"
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Metrics counts what is answered.
type Metrics struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
}

// New makes metrics of the process and of what is answered, with those of further things by their names.
func New(gauges map[string]func() float64) *Metrics {
	m := &Metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "widetally_requests_total", Help: "Requests by route, method and status."}, []string{"route", "method", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "widetally_request_seconds", Help: "How long answers took, by route; streams until their head.",
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10, 60}}, []string{"route"}),
	}
	m.registry.MustRegister(m.requests, m.seconds, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	for name, value := range gauges {
		m.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "widetally_" + name, Help: "As it is at the moment."}, value))
	}
	return m
}

// Pools adds those of connections to the database, by name.
func (m *Metrics) Pools(pools map[string]*sql.DB) {
	for name, pool := range pools {
		m.registry.MustRegister(collectors.NewDBStatsCollector(pool, name))
	}
}

// Answered counts an answer; route is the pattern of its address, with no number in it.
func (m *Metrics) Answered(route, method string, status int, took time.Duration) {
	if m == nil {
		return
	}
	m.requests.WithLabelValues(route, method, strconv.Itoa(status)).Inc()
	m.seconds.WithLabelValues(route).Observe(took.Seconds())
}

// readyTime bounds how long it is waited for the database before it counts as gone.
const readyTime = 2 * time.Second

// Handler answers at /health that the process lives, at /ready whether it can answer, and at /metrics with all metrics.
func (m *Metrics) Handler(ready func(ctx context.Context) error) http.Handler {
	mux := http.NewServeMux()
	tell := func(w http.ResponseWriter, status int, text string) {
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		w.Header().Set("Cache-Control", "no-store")
		w.WriteHeader(status)
		_, _ = w.Write([]byte(text + "\n"))
	}
	mux.HandleFunc("GET /health", func(w http.ResponseWriter, _ *http.Request) { tell(w, http.StatusOK, "alive") })
	mux.HandleFunc("GET /ready", func(w http.ResponseWriter, r *http.Request) {
		ctx, stop := context.WithTimeout(r.Context(), readyTime)
		defer stop()
		if err := ready(ctx); err != nil {
			w.Header().Set("Retry-After", "1")
			tell(w, http.StatusServiceUnavailable, "the database does not answer")
			return
		}
		tell(w, http.StatusOK, "ready")
	})
	mux.Handle("GET /metrics", promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{}))
	return mux
}
