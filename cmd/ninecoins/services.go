package main

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/outside"
	"ninecoins/internal/standin"
	"ninecoins/internal/store"
)

// services are those outside that the application asks: the ones that the settings name,
// else with the demo stand-ins on this machine, which end with the context.
func services(ctx context.Context, s settings, withDemo bool, clock *store.Clock, log *slog.Logger) (feed, rates *outside.Service, err error) {
	for _, one := range []struct {
		name, address string
		to            **outside.Service
	}{{"FEED_URL", s.Feed, &feed}, {"RATES_URL", s.Rates, &rates}} {
		if one.address == "" {
			continue
		}
		u, err := url.Parse(one.address)
		if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
			return nil, nil, errInput{fmt.Sprintf("%s %q is not of the form https://feed.example", one.name, one.address)}
		}
		*one.to = &outside.Service{Address: strings.TrimSuffix(one.address, "/")}
	}
	if !withDemo || feed != nil && rates != nil {
		return feed, rates, nil
	}
	var config net.ListenConfig
	l, err := config.Listen(ctx, "tcp", "127.0.0.1:0")
	if err != nil {
		return nil, nil, fmt.Errorf("starting the stand-ins for services outside: %w", err)
	}
	today := func() time.Time { return clock.Now().UTC().Truncate(24 * time.Hour) }
	server := &http.Server{Handler: &standin.Services{Lists: demo.Newest(), Today: today}, ReadHeaderTimeout: 5 * time.Second,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	go func() { _ = server.Serve(l) }()
	go func() {
		<-ctx.Done()
		_ = server.Close()
	}()
	stood := &outside.Service{Address: "http://" + l.Addr().String()}
	if feed == nil {
		feed = stood
	}
	if rates == nil {
		rates = stood
	}
	return feed, rates, nil
}
