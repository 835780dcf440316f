// Package web serves the pages. A page shows part of an outcome and computes
// nothing; every edit is a form that is posted to the page it stands on, saved
// at once, and answered with a redirect to that page.
package web

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"time"

	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// Server holds what the handlers share.
type Server struct {
	store     *store.Store
	workspace store.Workspace
	today     func() time.Time
	log       *slog.Logger
	views     *views
	assets    *assets
	watcher   *store.Watcher
	closing   <-chan struct{} // closed when open pages are to let go
}

// Options say what a server works with.
type Options struct {
	Store     *store.Store
	Workspace store.Workspace
	Now       func() time.Time // the clock; freshness counts from its day
	Log       *slog.Logger
}

// New makes a server, whose pages follow the database until the context ends.
// It fails only on templates at fault.
func New(ctx context.Context, o Options) (*Server, error) {
	a, err := loadAssets()
	if err != nil {
		return nil, err
	}
	v, err := loadViews(a)
	if err != nil {
		return nil, err
	}
	return &Server{store: o.Store, workspace: o.Workspace, log: o.Log, views: v, assets: a, watcher: o.Store.Watch(ctx), closing: ctx.Done(), today: func() time.Time {
		now := o.Now()
		return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	}}, nil
}

// Handler returns the whole application.
func (s *Server) Handler() http.Handler {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.HandleMethodNotAllowed = true
	e.Use(s.logged, s.recovered, secured, limited)
	e.GET("/healthz", s.health)
	e.GET("/assets/:hash/*path", s.assets.serve)
	e.GET("/favicon.ico", func(c *gin.Context) { c.Redirect(http.StatusMovedPermanently, s.assets.path("mark.svg")) })

	e.GET("/", s.desk)
	e.POST("/", s.deskEdit)
	e.GET("/shelf", s.shelf)
	e.GET("/shelf/:edition", s.edition)
	e.GET("/studies/:study", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, "/studies/"+c.Param("study")+"/brief") })
	for _, p := range s.coinPages() {
		e.GET("/studies/:study/"+p.key, s.show(p))
		e.POST("/studies/:study/"+p.key, s.edited(p))
	}
	e.GET("/studies/:study/options/:option", s.show(s.optionPage()))
	e.POST("/studies/:study/options/:option", s.edited(s.optionPage()))
	e.GET("/studies/:study/events", s.events)
	e.GET("/studies/:study/history", s.show(s.historyPage()))
	e.POST("/studies/:study/history", s.edited(s.historyPage()))
	e.GET("/studies/:study/receipts/:option", s.show(s.receiptPage()))
	e.NoRoute(func(c *gin.Context) { s.fail(c, notFound("There is no such page.")) })
	e.NoMethod(func(c *gin.Context) { s.fail(c, notFound("This page takes no such request.")) })

	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		http.Error(w, "This request came from another site and was refused. Nothing was changed.", http.StatusForbidden)
	}))
	return guard.Handler(e)
}

// Serve answers on a listener until the context ends, then lets requests
// finish for five seconds at most.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	server := &http.Server{Handler: s.Handler(), ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 15 * time.Second, WriteTimeout: 30 * time.Second,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10, ErrorLog: slog.NewLogLogger(s.log.Handler(), slog.LevelWarn)}
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(l) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	wait, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	return server.Shutdown(wait)
}

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c, 2*time.Second)
	defer cancel()
	if err := s.store.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"status": "the database does not answer"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"status": "ok"})
}
