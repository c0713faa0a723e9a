package web

import (
	"crypto/rand"
	"encoding/base64"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Front is what stands in front of the server.
type Front struct {
	Proxies []string // whose X-Forwarded-For is believed; this machine's own when none is named
	TLS     bool     // people reach it by TLS only
	// Metrics is an address of its own for figures; empty keeps them on the
	// server's, at /metrics.
	Metrics string
}

// NewEngine makes the gin engine with logs, metrics, security headers,
// cross-site protection and sessions. ready answers /readyz.
func NewEngine(people *accounts.Service, db *database.DB, front Front, ready func(r *http.Request) error) (*Engine, error) {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	if len(front.Proxies) == 0 {
		// What stands in front on the same machine, as the README sets it up: without
		// its word everybody would be this machine.
		front.Proxies = []string{"127.0.0.1", "::1"}
	}
	if err := e.SetTrustedProxies(front.Proxies); err != nil {
		return nil, fmt.Errorf("reading the proxies' addresses: %w", err)
	}
	registry := prometheus.NewRegistry()
	seconds := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "yewmoor_request_seconds", Help: "Time to answer, by route.", Buckets: prometheus.ExponentialBuckets(0.001, 2.5, 9),
	}, []string{"method", "route", "status"})
	registry.MustRegister(seconds, collectors.NewGoCollector())

	e.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, cause any) {
		slog.ErrorContext(c.Request.Context(), "panic", "route", c.FullPath(), "cause", fmt.Sprint(cause))
		c.AbortWithStatus(http.StatusInternalServerError)
	}))
	e.Use(func(c *gin.Context) {
		start := time.Now()
		c.Next()
		// The route, never the address: links carry tokens.
		status := strconv.Itoa(c.Writer.Status())
		seconds.WithLabelValues(methodLabel(c.Request.Method), c.FullPath(), status).Observe(time.Since(start).Seconds())
		slog.DebugContext(c.Request.Context(), "answered", "method", c.Request.Method, "route", c.FullPath(), "status", status, "took", time.Since(start).String())
	})
	e.Use(patience)
	e.Use(headers(front.TLS))
	e.Use(crossSite())
	e.Use(func(c *gin.Context) {
		// Files, health and metrics are the same for everybody: no session is read.
		if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
			return
		}
		ctx, err := people.Load(c.Request, c.ClientIP())
		if err != nil {
			slog.ErrorContext(c.Request.Context(), "session", "error", err)
			p := problem.Away()
			c.Header("Content-Type", p.ContentType(""))
			c.AbortWithStatusJSON(p.Status, p)
			return
		}
		c.Request = c.Request.WithContext(ctx)
	}, clean, because, namesChanges, once(db))
	e.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	e.GET("/readyz", func(c *gin.Context) {
		if err := ready(c.Request); err != nil {
			c.String(http.StatusServiceUnavailable, "not ready: %s\n", err)
			return
		}
		c.String(http.StatusOK, "ready\n")
	})
	figures := promhttp.HandlerFor(registry, promhttp.HandlerOpts{})
	if front.Metrics == "" {
		e.GET("/metrics", gin.WrapH(figures))
	}
	return &Engine{Engine: e, Metrics: figures}, nil
}

// methodLabel names a method for the figures: whoever makes methods up must not
// make labels, each of which is kept for good.
func methodLabel(method string) string {
	switch method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodDelete, http.MethodOptions:
		return method
	}
	return "other"
}

func headers(tls bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		h := c.Writer.Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=(), payment=(), usb=()")
		if tls {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if strings.HasPrefix(c.Request.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
			// What the API serves is never a page: a stored picture cannot run.
			// A browser's own PDF view would be shut out too.
			if !strings.HasSuffix(c.Request.URL.Path, ".pdf") {
				h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'; sandbox")
			}
		}
	}
}

// crossSite refuses writes that another site's page made the browser send.
func crossSite() gin.HandlerFunc {
	protection := http.NewCrossOriginProtection()
	return func(c *gin.Context) {
		if err := protection.Check(c.Request); err != nil {
			c.AbortWithStatus(http.StatusForbidden)
		}
	}
}

// ServeUI serves the built interface; every path that is not a file or an API
// is the interface's own. The page gets a nonce for its styles.
func ServeUI(e *Engine, dist fs.FS) error {
	index, err := fs.ReadFile(dist, "index.html")
	if err != nil {
		index = []byte("<!doctype html><title>Yewmoor</title><p>The interface is not built. Run <code>make ui</code>.")
	}
	artist, err := fs.ReadFile(dist, "artist.html")
	if err != nil {
		artist = index
	}
	static := http.FileServerFS(dist)
	e.NoRoute(func(c *gin.Context) {
		p := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if strings.HasPrefix(p, "api/") || strings.HasPrefix(c.Request.URL.Path, "/api/") || (c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead) {
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		if info, err := fs.Stat(dist, p); err == nil && !info.IsDir() && !strings.HasSuffix(p, ".html") {
			if strings.HasPrefix(p, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			} else {
				c.Header("Cache-Control", "no-cache")
			}
			static.ServeHTTP(c.Writer, c.Request)
			return
		}
		raw := make([]byte, 16)
		if _, err := rand.Read(raw); err != nil {
			c.AbortWithStatus(http.StatusInternalServerError)
			return
		}
		nonce := base64.RawStdEncoding.EncodeToString(raw)
		c.Header("Cache-Control", "no-cache")
		c.Header("Content-Security-Policy", "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'nonce-"+nonce+"'; script-src 'self'; connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
		page := index
		if strings.HasPrefix(p, "artist/") || p == "artist.html" {
			page = artist // an entry of its own: no session, and it opens without a connection
		}
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(strings.ReplaceAll(string(page), "__NONCE__", nonce)))
	})
	return nil
}
