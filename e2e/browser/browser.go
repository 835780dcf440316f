// Package browser drives a headless Chromium from Debian's packages against
// pages on loopback.
package browser

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Open starts a browser that works as root and without a network beyond
// loopback. Close ends it and removes what it kept.
func Open(ctx context.Context) (browser context.Context, close func(), err error) {
	program, err := exec.LookPath("chromium")
	if err != nil {
		return nil, nil, fmt.Errorf("chromium is not installed: apt-get install chromium: %w", err)
	}
	profile, err := os.MkdirTemp("", "ninecoins-browser-")
	if err != nil {
		return nil, nil, err
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(program), chromedp.UserDataDir(profile),
		chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WSURLReadTimeout(60*time.Second),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.Flag("disable-dev-shm-usage", true), chromedp.Flag("force-color-profile",
			"srgb"), chromedp.Flag("hide-scrollbars", true))
	allocator, stopAllocator := chromedp.NewExecAllocator(ctx, options...)
	browser, stopBrowser := chromedp.NewContext(allocator)
	close = func() {
		stopBrowser()
		stopAllocator()
		_ = os.RemoveAll(profile)
	}
	if err := chromedp.Do(browser); err != nil {
		close()
		return nil, nil, fmt.Errorf("starting chromium: %w", err)
	}
	return browser, close, nil
}

// Settled waits until the page is there to its end, fonts are loaded and its charts
// drawn: a heading that is there says nothing of what comes after it.
func Settled() chromedp.Action[chromedp.Void] {
	return chromedp.Evaluate[chromedp.Void](`new Promise((whole) => document.readyState === "complete" ? whole() : addEventListener("load", whole)).then(() => document.fonts.ready).then(() => new Promise((done) => {
		const drawn = () => !document.querySelector(".js [data-chart], .js [data-bars], .js [data-curve], .js [data-growth-chart], .js [data-lines], .js [data-plane]") || "drawn" in document.documentElement.dataset;
		const look = (left) => drawn() || !left ? requestAnimationFrame(() => requestAnimationFrame(() => done())) : setTimeout(look, 20, left - 1);
		look(500);
	}))`, chromedp.EvalAwaitPromise)
}

// WithoutScripts turns scripts off in the tab.
func WithoutScripts() chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true})
		return chromedp.Void{}, err
	}
}

// WithCookie gives the browser a session's cookie for an address.
func WithCookie(address string, cookie *http.Cookie) chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, network.SetCookie, network.SetCookieParams{Name: cookie.Name, Value: cookie.Value, URL: address, HTTPOnly: new(true)})
		return chromedp.Void{}, err
	}
}

// Foremost has the tab take itself for the one in front, as others are open beside
// it: what has the focus in it shows.
func Foremost() chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
		return chromedp.Void{}, err
	}
}

// Media has the page drawn for a medium, such as paper ("print").
func Media(medium string) chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: medium})
		return chromedp.Void{}, err
	}
}

// ForcedColours has the page drawn in colours that its reader has forced on it:
// white on black.
func ForcedColours() chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{
			{Name: "forced-colors", Value: "active"}, {Name: "prefers-color-scheme", Value: "dark"}}})
		return chromedp.Void{}, err
	}
}

// Print prints the page on paper of a size in inches, as a PDF.
func Print(width, height float64) chromedp.Action[[]byte] {
	return func(ctx context.Context, t *chromedp.Target) ([]byte, error) {
		pdf, err := cdp.Call(ctx, t, page.PrintToPDF, page.PrintToPDFParams{PaperWidth: width, PaperHeight: height, PreferCSSPageSize: new(false)})
		if err != nil {
			return nil, err
		}
		return pdf.Data, nil
	}
}

// SlowLine has everything come over a line of 1.6 Mbit/s with 150 ms to answer,
// each time anew.
func SlowLine() chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, network.Enable, network.EnableParams{})
		if err == nil {
			_, err = cdp.Call(ctx, t, network.SetCacheDisabled, network.SetCacheDisabledParams{CacheDisabled: true})
		}
		if err == nil {
			_, err = cdp.Call(ctx, t, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
				MatchedNetworkConditions: []*network.Conditions{{Latency: 150, DownloadThroughput: 200_000, UploadThroughput: 100_000}}})
		}
		return chromedp.Void{}, err
	}
}

// Beforehand has a script run in every page before its own.
func Beforehand(script string) chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: script})
		return chromedp.Void{}, err
	}
}
