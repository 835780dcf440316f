//go:build load

// Command load puts a bounded load of mixed reading and editing on two server
// processes that share one database, on loopback, and says what came of it:
//
//	go run -tags load ./e2e/load -rate 200 -for 60s
//
// It starts everything itself in a folder of its own, and ends it again.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"ninecoins/internal/localpg"
)

const longest = 5 * time.Minute

func main() {
	rate := flag.Int("rate", 200, "requests a second")
	length := flag.Duration("for", time.Minute, "how long, at most 5m")
	flag.Parse()
	if *length > longest || *rate < 1 || *rate > 2000 {
		log.Fatal("at most 5 minutes, at 1 to 2000 requests a second")
	}
	if err := run(*rate, *length); err != nil {
		log.Fatal(err)
	}
}

func run(rate int, length time.Duration) error {
	folder, err := os.MkdirTemp("", "ninecoins-load-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	if err := os.Chmod(folder, 0o755); err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), longest+2*time.Minute)
	defer cancel()
	binary := filepath.Join(folder, "ninecoins")
	if out, err := exec.CommandContext(ctx, "go", "build", "-o", binary, "./cmd/ninecoins").CombinedOutput(); err != nil {
		return fmt.Errorf("building: %w: %s", err, out)
	}
	cluster, err := localpg.Start(ctx, localpg.Options{Dir: filepath.Join(folder, "postgres")})
	if err != nil {
		return err
	}
	defer cluster.Stop()
	var servers []*server
	for range 2 {
		s, err := serve(ctx, binary, cluster.URL())
		if err != nil {
			return err
		}
		defer s.stop()
		servers = append(servers, s)
	}
	crew, study, err := sign(servers)
	if err != nil {
		return err
	}
	return load(ctx, rate, length, servers, crew, study)
}

// server is one process of the application.
type server struct {
	address string
	cmd     *exec.Cmd
}

func serve(ctx context.Context, binary, database string) (*server, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	address := l.Addr().String()
	_, port, _ := net.SplitHostPort(address)
	l.Close()
	cmd := exec.CommandContext(ctx, binary, "serve", "-demo")
	cmd.Env = append(os.Environ(), "PORT="+port, "DATABASE_URL="+database)
	cmd.Stderr = os.Stderr
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	s := &server{"http://" + address, cmd}
	for range 200 {
		if resp, err := http.Get(s.address + "/healthz"); err == nil {
			resp.Body.Close()
			return s, nil
		}
		time.Sleep(50 * time.Millisecond)
	}
	s.stop()
	return nil, errors.New("a server did not start")
}

func (s *server) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	_ = s.cmd.Wait()
}

// memory returns what the process holds at present, in MB.
func (s *server) memory() float64 {
	status, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	var kb float64
	if m := regexp.MustCompile(`VmRSS:\s+(\d+)`).FindSubmatch(status); m != nil {
		_, _ = fmt.Sscan(string(m[1]), &kb)
	}
	return kb / 1024
}

// hand is somebody who works: an owner, editor, rater or reader.
type hand struct {
	client *http.Client
	role   string
	mu     sync.Mutex
	seats  int
	rating string
	path   string // of the rating that they give
}

var (
	studyAt = regexp.MustCompile(`/studies/[0-9a-f-]{36}`)
	rateAt  = regexp.MustCompile(`name="path" value="(ratings\.[^"]*/tallowpost/help\.value)"`)
	joinAt  = regexp.MustCompile(`/join/[A-Za-z0-9_-]{43}`)
)

func client() *http.Client {
	jar, _ := cookiejar.New(nil)
	return &http.Client{Jar: jar, Timeout: 30 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: 64}}
}

// sign has the demo's owner invite six others, two of each other role, and
// returns all of them with the path of the demo's study.
func sign(servers []*server) ([]*hand, string, error) {
	owner := client()
	body, err := send(owner, http.MethodPost, servers[0].address+"/demo", nil)
	if err != nil {
		return nil, "", err
	}
	crew := []*hand{{client: owner, role: "owner", seats: 3}}
	study := studyAt.FindString(body)
	for n, role := range []string{"editor", "editor", "rater", "rater", "reader", "reader"} {
		if _, err := send(owner, http.MethodPost, servers[0].address+"/workspace",
			url.Values{"edit": {"invite"}, "email": {fmt.Sprintf("hand%d@marl.example", n)}, "role": {role}}); err != nil {
			return nil, "", err
		}
		box, err := send(owner, http.MethodGet, servers[0].address+"/mailbox", nil)
		if err != nil {
			return nil, "", err
		}
		c := client()
		if _, err := send(c, http.MethodPost, servers[1].address+joinAt.FindString(box),
			url.Values{"name": {fmt.Sprintf("Hand %d", n)}, "password": {"fennel under glass 9"}}); err != nil {
			return nil, "", err
		}
		crew = append(crew, &hand{client: c, role: role, seats: 3})
	}
	for _, h := range crew {
		page, err := send(h.client, http.MethodGet, servers[0].address+study+"/scores", nil)
		if err != nil {
			return nil, "", err
		}
		if found := rateAt.FindStringSubmatch(page); found != nil {
			h.path = found[1]
		}
	}
	return crew, study, nil
}

func send(c *http.Client, method, address string, form url.Values) (string, error) {
	req, err := http.NewRequest(method, address, strings.NewReader(form.Encode()))
	if err != nil {
		return "", err
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	resp, err := c.Do(req)
	if err != nil {
		return "", err
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	if err == nil && resp.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s %s answered %s", method, address, resp.Status)
	}
	return string(body), err
}

// tally counts what came of the requests.
type tally struct {
	mu    sync.Mutex
	by    map[string]int
	odd   []string
	times []time.Duration
}

func (t *tally) note(kind string, status int, took time.Duration, body string, err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.times = append(t.times, took)
	switch {
	case err != nil:
		t.by[kind+" error"]++
		t.odd = append(t.odd, err.Error())
	case status == http.StatusOK:
		t.by[kind+" ok"]++
	case (status == http.StatusConflict || status == http.StatusForbidden || status == http.StatusUnprocessableEntity) && strings.Contains(body, "<main"):
		t.by[fmt.Sprintf("%s refused in words (%d)", kind, status)]++
	default:
		t.by[fmt.Sprintf("%s %d", kind, status)]++
		t.odd = append(t.odd, fmt.Sprintf("%s: %d: %.200s", kind, status, body))
	}
}

var pages = []string{"/brief", "/line-up", "/coverage", "/prices", "/growth", "/costs", "/costs?as=table&show=cash", "/trials", "/scores",
	"/verdict", "/options/fernwire", "/receipts/osier-mail?month=2028-12", "/history"}

// one makes one request: seven in ten read, three in ten edit.
func one(t *tally, h *hand, address, study string) {
	form := url.Values{}
	kind, path := "read", study+pages[rand.IntN(len(pages))]
	if rand.IntN(12) == 0 {
		path = "/"
	}
	if rand.IntN(10) < 3 {
		kind = "edit"
		h.mu.Lock()
		defer h.mu.Unlock() // one hand types one thing at a time
		path = h.fill(form, study)
	}
	method := http.MethodGet
	if kind == "edit" {
		method = http.MethodPost
	}
	req, err := http.NewRequest(method, address+path, strings.NewReader(form.Encode()))
	if err != nil {
		t.note(kind, 0, 0, "", err)
		return
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	begun := time.Now()
	resp, err := h.client.Do(req)
	if err != nil {
		t.note(kind, 0, time.Since(begun), "", err)
		return
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	t.note(kind, resp.StatusCode, time.Since(begun), string(body), err)
}

// fill chooses an edit; several hands meet in the same fields, so that some
// are refused because of another's.
func (h *hand) fill(form url.Values, study string) string {
	set := func(pairs ...string) {
		for i := 0; i < len(pairs); i += 2 {
			form.Set(pairs[i], pairs[i+1])
		}
	}
	switch rand.IntN(5) {
	case 0:
		to := 3 + (h.seats-2)%9
		set("op", "set", "path", "drivers.seats.now", "was", fmt.Sprint(h.seats), "value", fmt.Sprint(to))
		h.seats = to
		return study + "/growth"
	case 1:
		to := fmt.Sprint(rand.IntN(10))
		set("op", "set", "path", h.path, "was", h.rating, "value", to)
		h.rating = to
		return study + "/scores"
	case 2:
		set("op", "set", "path", "criteria.ease.weight", "was", fmt.Sprintf("%d%%", 18+rand.IntN(3)), "value", fmt.Sprint(18+rand.IntN(3)))
		return study + "/scores"
	case 3:
		set("op", "redo")
		return study + "/verdict"
	}
	set("op", "undo")
	return study + "/costs"
}

func load(ctx context.Context, rate int, length time.Duration, servers []*server, crew []*hand, study string) error {
	t := &tally{by: map[string]int{}}
	fmt.Printf("%d requests a second for %s, %d people, two servers\n", rate, length, len(crew))
	var all sync.WaitGroup
	var underway, most atomic.Int64
	tick := time.NewTicker(time.Second / time.Duration(rate))
	defer tick.Stop()
	begun, shown := time.Now(), time.Time{}
	sent := 0
	for time.Since(begun) < length && ctx.Err() == nil {
		if time.Since(shown) > length/6 {
			shown = time.Now()
			fmt.Printf("%5.0f s  memory %.0f and %.0f MB\n", time.Since(begun).Seconds(), servers[0].memory(), servers[1].memory())
		}
		<-tick.C
		n := sent
		sent++
		most.Store(max(most.Load(), underway.Add(1)))
		all.Go(func() {
			defer underway.Add(-1)
			one(t, crew[rand.IntN(len(crew))], servers[n%2].address, study)
		})
	}
	all.Wait()
	took := time.Since(begun)
	fmt.Printf("%5.0f s  memory %.0f and %.0f MB\n", took.Seconds(), servers[0].memory(), servers[1].memory())
	time.Sleep(5 * time.Second)
	fmt.Printf("at rest  memory %.0f and %.0f MB\n", servers[0].memory(), servers[1].memory())
	slices.Sort(t.times)
	at := func(share float64) time.Duration {
		return t.times[min(len(t.times)-1, int(share*float64(len(t.times))))]
	}
	fmt.Printf("%d sent, %.0f a second; at most %d at once; half within %.1f ms, 99 in 100 within %.1f ms, the longest %.1f ms\n", sent,
		float64(sent)/took.Seconds(), most.Load(), ms(at(0.5)), ms(at(0.99)), ms(at(1)))
	var kinds []string
	for kind := range t.by {
		kinds = append(kinds, kind)
	}
	slices.Sort(kinds)
	for _, kind := range kinds {
		fmt.Printf("%7d  %s\n", t.by[kind], kind)
	}
	if len(t.odd) > 0 {
		return fmt.Errorf("%d answers were neither right nor refused in words, for example: %s", len(t.odd), t.odd[0])
	}
	return nil
}

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }
