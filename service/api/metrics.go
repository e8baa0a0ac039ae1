package api

import (
	"context"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"

	"hemble/service/store"
)

// metrics is what /metrics shows.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	jobs     *prometheus.CounterVec
	seconds  prometheus.Histogram
}

func newMetrics(s *store.Store) *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "hemble_requests_total", Help: "HTTP requests by route and status."}, []string{"route", "status"}),
		jobs:     prometheus.NewCounterVec(prometheus.CounterOpts{Name: "hemble_submissions_total", Help: "Submissions by outcome of marking."}, []string{"outcome"}),
		seconds:  prometheus.NewHistogram(prometheus.HistogramOpts{Name: "hemble_marking_seconds", Help: "Time that marking a submission took.", Buckets: prometheus.ExponentialBuckets(0.01, 3, 10)}),
	}
	waiting := prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "hemble_waiting", Help: "Submissions queued or being marked."}, func() float64 {
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		n, err := s.Waiting(ctx)
		if err != nil {
			return -1
		}
		return float64(n)
	})
	m.registry.MustRegister(m.requests, m.jobs, m.seconds, waiting)
	return m
}

func (m *metrics) count(c *gin.Context) {
	c.Next()
	m.requests.WithLabelValues(c.FullPath(), strconv.Itoa(c.Writer.Status())).Inc()
}

func (m *metrics) marked(ok bool, took time.Duration) {
	outcome := "marked"
	if !ok {
		outcome = "failed"
	}
	m.jobs.WithLabelValues(outcome).Inc()
	m.seconds.Observe(took.Seconds())
}
