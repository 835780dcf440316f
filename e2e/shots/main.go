// Command shots takes the pictures in docs/screenshots from a running
// application with the demo data:
//
//	go run ./e2e/shots -address http://127.0.0.1:9009 -to docs/screenshots
//	go run ./e2e/shots -address … -to DIR -size 390x844 -page /studies/…/costs
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"ninecoins/e2e/browser"

	"github.com/chromedp/chromedp"
)

// views are the main views: file name to path; STUDY stands for the first
// study on the Desk.
var views = [][2]string{{"desk", "/"}, {"brief", "STUDY/brief"}, {"line-up", "STUDY/line-up"},
	{"coverage", "STUDY/coverage"}, {"prices", "STUDY/prices"}, {"growth", "STUDY/growth"}, {"costs", "STUDY/costs"}, {"along", "STUDY/costs/along"}, {"field", "STUDY/costs/field"},
	{"chance", "STUDY/costs/chance?now=1"}, {"leaving", "STUDY/costs/leaving"}, {"scores",
		"STUDY/scores"}, {"verdict", "STUDY/verdict"}, {"shelf", "/shelf"},
	{"option", "STUDY/options/brindlepost"}, {"receipt", "STUDY/receipts/brindlepost?plan=bough&term=monthly&against=canopy+monthly"},
	{"compare", "/shelf/platforms/brindlepost/compare?from=2025-04-02"}}

func main() {
	address := flag.String("address", "http://127.0.0.1:9009", "where the application runs")
	to := flag.String("to", "docs/screenshots", "folder for the pictures")
	size := flag.String("size", "1280x800", "width x height")
	page := flag.String("page", "", "one page instead of the main views; STUDY stands for the first study on the Desk")
	script := flag.String("do", "", "script to run before the picture")
	name := flag.String("name", "page", "file name for -page")
	out := flag.Bool("signed-out", false, "without signing in as the demo's owner")
	cookie := flag.String("cookie", "", "value of somebody else's session cookie")
	still := flag.Bool("without-scripts", false, "with scripts turned off")
	forced := flag.Bool("forced-colours", false, "with the colours that a reader has forced on all pages")
	paper := flag.Bool("paper", false, "print on A4 instead, into a PDF")
	flag.Parse()
	if *paper {
		take, ending = func() chromedp.Action[[]byte] { return browser.Print(8.27, 11.69) }, ".pdf"
	}
	var as []chromedp.Action[chromedp.Void]
	if *still {
		as = append(as, browser.WithoutScripts())
		settled = func() chromedp.Action[chromedp.Void] { return chromedp.Sleep(time.Second) }
	}
	if *forced {
		as = append(as, browser.ForcedColours())
	}
	if err := run(*address, *to, *size, *page, *name, *script, *cookie, *out, as); err != nil {
		log.Fatal(err)
	}
}

// take takes the picture, and ending is how its file ends.
var take, ending = func() chromedp.Action[[]byte] { return chromedp.CaptureScreenshot() }, ".png"

// settled waits until a page is drawn.
var settled = browser.Settled

func run(address, to, size, page, name, script, cookie string, out bool, as []chromedp.Action[chromedp.Void]) error {
	var width, height int64
	if _, err := fmt.Sscanf(size, "%dx%d", &width, &height); err != nil {
		return fmt.Errorf("size %q is not of the form 1280x800", size)
	}
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	ctx, done, err := browser.Open(ctx)
	if err != nil {
		return err
	}
	defer done()
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(width, height), chromedp.Navigate(address+"/sign-in")); err != nil {
		return err
	}
	if cookie != "" {
		if err := chromedp.Do(ctx, browser.WithCookie(address, &http.Cookie{Name: "nine-coins", Value: cookie}), chromedp.Navigate(address)); err != nil {
			return err
		}
	} else if !out {
		if err := chromedp.Do(ctx, chromedp.Click("[data-demo]"), chromedp.WaitVisible(".desk")); err != nil {
			return fmt.Errorf("signing in as the demo's owner: %w", err)
		}
	}
	study, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector(".study-card h2 a")?.getAttribute("href").replace("/brief", "") ?? ""`))
	if err != nil {
		return err
	}
	if err := chromedp.Do(ctx, as...); err != nil {
		return err
	}
	if page != "" {
		return shoot(ctx, address+strings.Replace(page, "STUDY", study, 1), filepath.Join(to, name+ending), script)
	}
	for _, v := range views {
		if err := shoot(ctx, address+strings.Replace(v[1], "STUDY", study, 1), filepath.Join(to, v[0]+".png"), ""); err != nil {
			return fmt.Errorf("%s: %w", v[0], err)
		}
	}
	return nil
}

func shoot(ctx context.Context, url, file, script string) error {
	err := chromedp.Do(ctx, chromedp.Navigate(url), settled())
	if err == nil && script != "" {
		err = chromedp.Do(ctx, chromedp.Evaluate[chromedp.Void](script, chromedp.EvalAwaitPromise), settled())
	}
	if err != nil {
		return err
	}
	picture, err := chromedp.Run(ctx, take())
	if err != nil {
		return err
	}
	return os.WriteFile(file, picture, 0o644)
}
