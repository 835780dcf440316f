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
	"os"
	"path/filepath"
	"time"

	"ninecoins/e2e/browser"

	"github.com/chromedp/chromedp"
)

// views are the main views: file name to path within the study.
var views = [][2]string{{"desk", ""}, {"prices", "/prices"}, {"growth", "/growth"}, {"costs", "/costs"}, {"scores", "/scores"}, {"verdict", "/verdict"}}

func main() {
	address := flag.String("address", "http://127.0.0.1:9009", "where the application runs")
	to := flag.String("to", "docs/screenshots", "folder for the pictures")
	size := flag.String("size", "1280x800", "width x height")
	page := flag.String("page", "", "one page instead of the main views; STUDY stands for the first study on the Desk")
	script := flag.String("do", "", "script to run before the picture")
	name := flag.String("name", "page", "file name for -page")
	flag.Parse()
	if err := run(*address, *to, *size, *page, *name, *script); err != nil {
		log.Fatal(err)
	}
}

func run(address, to, size, page, name, script string) error {
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
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(width, height), chromedp.Navigate(address)); err != nil {
		return err
	}
	study, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector(".study-card h2 a")?.getAttribute("href").replace("/brief", "") ?? ""`))
	if err != nil {
		return err
	}
	if page != "" {
		if len(page) >= 5 && page[:5] == "STUDY" {
			page = study + page[5:]
		}
		return shoot(ctx, address+page, filepath.Join(to, name+".png"), script)
	}
	for _, v := range views {
		path := "/"
		if v[1] != "" {
			path = study + v[1]
		}
		if err := shoot(ctx, address+path, filepath.Join(to, v[0]+".png"), ""); err != nil {
			return fmt.Errorf("%s: %w", v[0], err)
		}
	}
	return nil
}

func shoot(ctx context.Context, url, file, script string) error {
	err := chromedp.Do(ctx, chromedp.Navigate(url), browser.Settled())
	if err == nil && script != "" {
		err = chromedp.Do(ctx, chromedp.Evaluate[chromedp.Void](script, chromedp.EvalAwaitPromise), browser.Settled())
	}
	if err != nil {
		return err
	}
	picture, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(file, picture, 0o644)
}
