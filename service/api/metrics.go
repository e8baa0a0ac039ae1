package api

import (
	"context"
	"log/slog"
	"strconv"
	"time"

	"hemble/service/stores"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
)

// metrics is what /metrics shows.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	jobs     *prometheus.CounterVec
	marking  prometheus.Histogram
	building prometheus.Histogram
	running  prometheus.Histogram
}

func seconds(name, help string) prometheus.Histogram {
	return prometheus.NewHistogram(prometheus.HistogramOpts{Name: name, Help: help,
		Buckets: prometheus.ExponentialBuckets(0.01, 3, 10)})
}

func (a *API) newMetrics() *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "hemble_requests_total",
			Help: "HTTP requests by route and status."}, []string{"route", "status"}),
		jobs: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "hemble_submissions_total",
			Help: "Submissions by outcome: marked; unbuilt, unreadable or stopped, which are marked with nothing; failed, which is the service's own fault."},
			[]string{"outcome"}),
		marking:  seconds("hemble_marking_seconds", "Time that marking a submission took, its build included."),
		building: seconds("hemble_build_seconds", "Time that building a source took."),
		running:  seconds("hemble_run_seconds", "Time that a submission's trials and the search for causes took."),
	}
	count := func(name, help string, f func() float64) {
		m.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, f))
	}
	total := func(name, help string, f func() float64) {
		m.registry.MustRegister(prometheus.NewCounterFunc(prometheus.CounterOpts{Name: name, Help: help}, f))
	}
	count("hemble_streams", "Event streams that are open.", func() float64 { return float64(a.Hub.Streams()) })
	count("hemble_simulations_waiting", "Simulations on request that wait for their turn.",
		func() float64 { return float64(a.turns.Waiting()) })
	total("hemble_sqlite_waits_total", "Writes that had to wait for another.",
		func() float64 { return float64(a.Store.Waits().WaitCount) })
	total("hemble_sqlite_wait_seconds_total", "Time that writes waited for others.",
		func() float64 { return a.Store.Waits().WaitDuration.Seconds() })
	m.registry.MustRegister(m.requests, m.jobs, m.marking, m.building, m.running, &folder{a.Store},
		collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

func (m *metrics) count(c *gin.Context) {
	c.Next()
	m.requests.WithLabelValues(c.FullPath(), strconv.Itoa(c.Writer.Status())).Inc()
}

func (m *metrics) marked(outcome string, took time.Duration) {
	m.jobs.WithLabelValues(outcome).Inc()
	m.marking.Observe(took.Seconds())
}

// folder tells of the data folder: what waits in its database, and what it takes.
type folder struct{ store *stores.Stores }

var (
	queueJobs = prometheus.NewDesc("hemble_queue_jobs",
		"Jobs by kind (first: a student waits; again: marked again) and state.", []string{"kind", "state"}, nil)
	queueOldest = prometheus.NewDesc("hemble_queue_oldest_seconds",
		"How long the job has waited that waits longest, by kind.", []string{"kind"}, nil)
	diskFree = prometheus.NewDesc("hemble_disk_free_bytes", "What the disk of the data folder still takes.", nil,
		nil)
	diskUsed = prometheus.NewDesc("hemble_data_bytes", "What the data folder takes, by what: database, reels.",
		[]string{"what"}, nil)
)

func (f *folder) Describe(c chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{queueJobs, queueOldest, diskFree, diskUsed} {
		c <- d
	}
}

func (f *folder) Collect(c chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	gauge := func(d *prometheus.Desc, v float64, labels ...string) {
		c <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, v, labels...)
	}
	loads, err := f.store.Grading.Loads(ctx)
	if err != nil {
		slog.Warn("measuring the queue", "error", err)
	}
	for _, l := range loads {
		gauge(queueJobs, float64(l.Jobs), l.Kind, l.State)
		if l.State == "queued" {
			oldest := 0.0
			if l.Oldest != nil {
				oldest = f.store.Now().Sub(*l.Oldest).Seconds()
			}
			gauge(queueOldest, oldest, l.Kind)
		}
	}
	u, err := f.store.Usage()
	if err != nil {
		slog.Warn("measuring the data folder", "error", err)
		return
	}
	gauge(diskFree, float64(u.Free))
	gauge(diskUsed, float64(u.Database), "database")
	gauge(diskUsed, float64(f.store.Grading.ReelBytes()), "reels")
}
