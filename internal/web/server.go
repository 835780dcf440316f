// Package web serves the pages. A page shows part of an outcome and computes
// nothing; every edit is a form that is posted to the page it stands on, saved
// at once, and answered with a redirect to that page. Every route tells what
// it needs of whoever comes.
package web

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"runtime"
	"strings"
	"sync"
	"time"

	"ninecoins/internal/core/work"
	"ninecoins/internal/doors"
	"ninecoins/internal/mail"
	"ninecoins/internal/outside"
	"ninecoins/internal/store"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// Server holds what the handlers share.
type Server struct {
	store    *store.Store
	sessions *scs.SessionManager
	mail     mail.Sender
	address  string // public, without a slash at its end
	example  Example
	demo     string // email of the demo's owner; "" where there is no demo
	proxies  []string
	today    func() time.Time
	log      *slog.Logger
	views    *views
	assets   *assets
	watcher  *store.Watcher
	places   places
	feed     *outside.Service
	rates    *rateBook
	gate     *work.Gate      // of what takes long
	pages    *work.Gate      // of what is more than one computing, and within a page
	beside   sync.RWMutex    // read locked by what goes on after an answer, or beside it
	closing  <-chan struct{} // closed when open pages are to let go
	table    []route         // what is answered to
}

// Options say what a server works with.
type Options struct {
	Store   *store.Store
	Mail    mail.Sender
	Address string           // under which people reach it: http://… or https://…; cookies are Secure under the latter
	Example Example          // what an empty Desk offers to begin with
	Demo    string           // email of the demo's owner, whom one may look around as on this machine; "": no demo. Not under a public address
	Proxies []string         // addresses of proxies whose X-Forwarded-For is believed
	Now     func() time.Time // the clock; freshness counts from its day
	Log     *slog.Logger     // nil: nothing is noted
	Feed    *outside.Service // publishes price lists; nil: there is none
	Rates   *outside.Service // publishes reference rates; nil: there is none
}

// Example is a study that shows what this is for.
type Example struct {
	Bring     func(ctx context.Context, by store.Editing) (uuid.UUID, error) // brings it in; nil: there is none
	PriceList []byte                                                         // one of its price list files
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
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	s := &Server{store: o.Store, mail: o.Mail, address: strings.TrimSuffix(o.Address, "/"), demo: o.Demo, example: o.Example, proxies: o.Proxies, log: o.Log, views: v,
		assets: a, watcher: o.Store.Watch(ctx), closing: ctx.Done(), gate: work.NewGate(runtime.GOMAXPROCS(0) - 1), pages: work.NewGate(runtime.GOMAXPROCS(0) - 1), places: newPlaces(), feed: o.Feed, rates: &rateBook{from: o.Rates, ending: ctx}, today: func() time.Time {
			now := o.Now()
			return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
		}}
	if !Local(s.address) {
		s.demo = "" // whoever reaches a public address does not sit at this machine
	}
	s.rates.beside = &s.beside
	s.table = s.routes()
	o.Store.Hear(func(study uuid.UUID, p *work.Panic) {
		s.log.Error("panic", "what", p.Cause(), "study", study, "trace", p.Trace)
	})
	s.sessions = newSessions(o.Store, s.secure(), s.sessionFailed)
	return s, nil
}

// secure reports whether people reach the application under https.
func (s *Server) secure() bool { return strings.HasPrefix(s.address, "https://") }

// Handler returns the whole application. It fails on a route that does not
// tell its need.
func (s *Server) Handler() (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.HandleMethodNotAllowed = true
	e.ContextWithFallback = true
	if err := e.SetTrustedProxies(s.proxies); err != nil {
		return nil, fmt.Errorf("trusted proxies: %w", err)
	}
	e.Use(s.logged, s.recovered, s.secured, s.formsOnly, hurried, gzip.Gzip(gzip.DefaultCompression, gzip.WithCustomShouldCompressFn(isPage)))
	for _, r := range s.table {
		if r.need == doors.Untold {
			return nil, fmt.Errorf("route %s %s does not tell what it needs", r.method, r.path)
		}
		handlers := []gin.HandlerFunc{s.admit(r.need), r.handle}
		if sessionless(r.path) {
			handlers = handlers[1:]
		}
		e.Handle(r.method, r.path, handlers...)
		if r.method == http.MethodGet { // the same without its body (RFC 9110, section 9.3.2)
			e.Handle(http.MethodHead, r.path, handlers...)
		}
	}
	e.NoRoute(s.admit(doors.Anyone), func(c *gin.Context) { s.fail(c, notFound("There is no such page.")) })
	e.NoMethod(s.admit(doors.Anyone), func(c *gin.Context) {
		s.fail(c, &failure{status: http.StatusMethodNotAllowed, What: "This page takes no " + quoted(c.Request.Method) + " request.",
			Do: "It takes " + c.Writer.Header().Get("Allow") + ". Nothing was changed."})
	})

	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		http.Error(w, "This request came from another site and was refused. Nothing was changed.", http.StatusForbidden)
	}))
	return guard.Handler(s.withSessions(e)), nil
}

// Serve answers on a listener until the context ends, then lets requests
// finish for five seconds at most, and letters go out. With a certificate and key it speaks TLS.
func (s *Server) Serve(ctx context.Context, l net.Listener, certificate, key string) error {
	handler, err := s.Handler()
	if err != nil {
		return err
	}
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 15 * time.Second, WriteTimeout: 30 * time.Second,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10, ErrorLog: slog.NewLogLogger(s.log.Handler(), slog.LevelWarn)}
	ended := make(chan error, 1)
	go func() {
		if certificate != "" {
			ended <- server.ServeTLS(l, certificate, key)
			return
		}
		ended <- server.Serve(l)
	}()
	go s.keepHouse(ctx)
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	wait, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	err = server.Shutdown(wait)
	s.beside.Lock() // once all that ended, in half a minute at most; nothing begins any more
	return err
}

// keepHouse empties the bin of what rested there long enough, now and every
// hour.
func (s *Server) keepHouse(ctx context.Context) {
	for tick := time.NewTicker(time.Hour); ; {
		if err := s.store.Purge(ctx, store.InBinFor); err != nil && ctx.Err() == nil {
			s.log.Warn("keeping house", "error", err)
		}
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
	}
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
