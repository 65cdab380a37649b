package site

import (
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
)

// Metrics counts requests for whoever runs the server.
type Metrics struct {
	took    *prometheus.HistogramVec
	held    prometheus.Counter
	working prometheus.Gauge
}

// NewMetrics makes metrics that a registry gathers, with the bytes of what is kept.
func NewMetrics(r prometheus.Registerer, builds func() int64) (*Metrics, error) {
	m := &Metrics{
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "coldtap_request_seconds",
			Help:    "How long requests took, by route, method and status.",
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 10, 20}}, []string{"route", "method", "status"}),
		held: prometheus.NewCounter(prometheus.CounterOpts{Name: "coldtap_edits_held_total",
			Help: "Edits that collided with others' and were held for their author."}),
		working: prometheus.NewGauge(prometheus.GaugeOpts{Name: "coldtap_requests_working",
			Help: "Requests that are being worked on."}),
	}
	kept := prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "coldtap_builds_bytes",
		Help: "About how many bytes computed builds take."}, func() float64 { return float64(builds()) })
	for _, c := range []prometheus.Collector{m.took, m.held, m.working, kept} {
		if err := r.Register(c); err != nil {
			return nil, err
		}
	}
	return m, nil
}

// slowRequest is how long a request takes that is written down.
const slowRequest = 2 * time.Second

// Watch counts a request, and writes down one that was slow or failed.
func (s *Site) Watch(c *gin.Context) {
	began := time.Now()
	if s.Metrics != nil {
		s.Metrics.working.Inc()
		defer s.Metrics.working.Dec()
	}
	c.Next()
	took, route := time.Since(began), c.FullPath()
	if route == "" {
		route = "none"
	}
	if s.Metrics != nil {
		s.Metrics.took.WithLabelValues(route, c.Request.Method, strconv.Itoa(c.Writer.Status())).Observe(took.Seconds())
	}
	level := slog.LevelDebug
	if took > slowRequest || c.Writer.Status() >= http.StatusInternalServerError {
		level = slog.LevelWarn
	}
	fields := []any{"method", c.Request.Method, "route", route, "path", c.Request.URL.Path, "status", c.Writer.Status(),
		"ms", took.Milliseconds(), "bytes", c.Writer.Size(), "from", AddressOf(c)}
	if p := Who(c); p != nil {
		fields = append(fields, "person", p.ID)
	}
	if word := c.GetHeader(requestHeader); word != "" {
		fields = append(fields, "request", word)
	}
	slog.Log(c.Request.Context(), level, "request", fields...)
}

// EditHeld counts an edit that was held.
func (s *Site) EditHeld() {
	if s.Metrics != nil {
		s.Metrics.held.Inc()
	}
}
