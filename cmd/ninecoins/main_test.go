package main

import (
	"bufio"
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/json"
	"encoding/pem"
	"io"
	"math/big"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/localpg"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { testkit.Main(m) }

// call runs a command line and returns its exit code and what it wrote.
func call(t *testing.T, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(t.Context(), args, &o, &e)
	return code, o.String(), e.String()
}

func file(t *testing.T, name string, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, data, 0o644))
	return path
}

const usageFile = `{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [
	{"driver": "contacts", "now": 6400, "growth": "2%"}, {"driver": "newsletters", "now": 4}, {"driver": "automated_emails", "now": 0.6}, {"driver": "seats", "now": 3}]}`

func TestQuoteWritesJSONThatAgreesWithTheList(t *testing.T) {
	code, out, errs := call(t, "quote", "-json", "-usage", file(t, "u.json", []byte(usageFile)), "-plan", "bough", file(t, "p.json", demo.PriceLists()[0]))
	require.Zero(t, code, errs)
	var quotes []struct {
		Plan, Term, Bill, Currency string
		PerMonth                   string `json:"per_month"`
		Serves                     bool
		Lines                      []struct{ Amount string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &quotes))
	require.Len(t, quotes, 2)
	assert.Equal(t, "161", quotes[0].Bill)
	assert.Equal(t, "1633.8", quotes[1].Bill)
	assert.Equal(t, "136.15", quotes[1].PerMonth)
	assert.Len(t, quotes[0].Lines, 2)
	code, out, _ = call(t, "quote", "-month", "13", "-must", "automation/event-triggers", "-usage", file(t, "u.json", []byte(usageFile)), file(t, "p.json", demo.PriceLists()[0]))
	require.Zero(t, code)
	assert.Regexp(t, `brindlepost +bough +monthly +201 EUR +201 for 1 +serves`, out)
	assert.Contains(t, out, "no event triggers")
}

func TestProjectAgreesWithTheStudy(t *testing.T) {
	code, out, errs := call(t, "project", "-json", "-must", "automation/event-triggers", "-usage", file(t, "u.json", []byte(usageFile)), file(t, "p.json", demo.PriceLists()[0]), file(t, "q.json", demo.PriceLists()[3]))
	require.Zero(t, code, errs)
	var all []struct {
		Platform, Total string
		Months          []struct {
			Month, Plan string
			Accrued     string `json:"per_month"`
		}
		Steps []struct{ Month, Why string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &all))
	assert.Equal(t, "7036", all[0].Total)
	assert.Equal(t, "5652.5", all[1].Total)
	assert.Len(t, all[0].Months, 36)
	assert.Equal(t, "contacts pass 8,000", all[0].Steps[0].Why)
	code, out, _ = call(t, "project", "-months", "2", "-pay", "yearly", "-usage", file(t, "u.json", []byte(usageFile)), file(t, "p.json", demo.PriceLists()[0]))
	require.Zero(t, code)
	assert.Contains(t, out, "2027-02")
}

func TestBadInputEndsWithTwoAndEveryFault(t *testing.T) {
	sound := file(t, "u.json", []byte(usageFile))
	list := file(t, "p.json", demo.PriceLists()[0])
	broken := file(t, "broken.json", []byte(strings.NewReplacer(`"EUR"`, `"EURO"`, `"kind": "flat"`, `"kind": "share"`, `"price": "19.00"`, `"price": "dear"`).Replace(string(demo.PriceLists()[0]))))
	for _, row := range []struct {
		args []string
		want []string
	}{
		{nil, []string{"ninecoins serve"}},
		{[]string{"brew"}, []string{`there is no command "brew"`}},
		{[]string{"quote"}, []string{"quote needs a usage file and price lists"}},
		{[]string{"quote", "-usage", sound, "-pay", "weekly", list}, []string{`-pay "weekly" is none of monthly, yearly and mix`}},
		{[]string{"project", "-usage", sound, "-months", "121", list}, []string{"months go from 1 to 120"}},
		{[]string{"quote", "-usage", sound, "-colour", "red", list}, []string{"not defined: -colour"}},
		{[]string{"quote", "-usage", sound, "-plan", "stem", list}, []string{`there is no plan "stem"`}},
		{[]string{"quote", "-usage", sound, "/nowhere.json"}, []string{"no such file"}},
		{[]string{"project", "-usage", file(t, "u.json", []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "pigeons", "now": 1}]}`)), broken},
			[]string{`u.json: driver "pigeons" is unknown`, `currency: broken.json: expected an ISO 4217 code such as "EUR", found "EURO"`, `broken.json: expected an amount`}},
		{[]string{"quote", "-usage", sound, file(t, "kind.json", []byte(strings.Replace(string(demo.PriceLists()[0]), `"kind": "flat"`, `"kind": "share"`, 1)))}, []string{`add_ons[0].charges[0].rate: kind.json: is missing; expected a share from 0% to 100%`}},
		{[]string{"project", "-usage", file(t, "u.json", []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "contacts", "now": 900000000, "growth": "99%"}]}`)), list}, []string{"out of range"}},
	} {
		code, out, errs := call(t, row.args...)
		assert.Equal(t, 2, code, row.args)
		assert.Empty(t, out)
		for _, want := range row.want {
			assert.Contains(t, errs, want)
		}
		assert.NotContains(t, errs, "goroutine")
	}
	code, out, _ := call(t, "help")
	assert.Zero(t, code)
	assert.Contains(t, out, "Exit codes")
}

func freePort(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	_, port, _ := net.SplitHostPort(l.Addr().String())
	return port
}

func TestServeStartsChecksAndStops(t *testing.T) {
	t.Setenv("DATABASE_URL", testkit.Database(t))
	port := freePort(t)
	t.Setenv("PORT", port)
	code, out, errs := call(t, "serve", "-demo", "-check")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Check passed")

	ctx, stop := context.WithCancel(t.Context())
	said, says := io.Pipe()
	ended := make(chan int, 1)
	go func() { ended <- run(ctx, []string{"serve", "-demo"}, says, io.Discard); says.Close() }()
	text := make([]byte, 300)
	n, err := said.Read(text)
	require.NoError(t, err)
	assert.Contains(t, string(text[:n]), "Nine Coins is at http://127.0.0.1:"+port)
	go func() { _, _ = io.Copy(io.Discard, said) }()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	resp, err := (&http.Client{Timeout: 5 * time.Second, Jar: jar}).Post("http://127.0.0.1:"+port+"/demo", "", nil)
	require.NoError(t, err)
	body, _ := io.ReadAll(resp.Body)
	resp.Body.Close()
	assert.Equal(t, len(demo.StudyNames), strings.Count(string(body), "study-card"), "a second run keeps the data and loads no second demo")

	code, _, errs = call(t, "serve", "-check")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "Port "+port+" on 127.0.0.1 is taken")
	assert.Contains(t, errs, "PORT=9010 ./start")
	stop()
	assert.Zero(t, <-ended)
	code, _, errs = call(t, "serve", "-fresh")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "--fresh empties only the private database")
	t.Setenv("PORT", "many")
	code, _, errs = call(t, "serve")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `with PORT "many" cannot be used`)
	t.Setenv("PORT", "0")
	t.Setenv("DATABASE_URL", "postgres://nobody@127.0.0.1:1/none")
	code, _, errs = call(t, "serve", "-check")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "The database cannot be used")
}

func TestImportTakesFilesWholeOrNotAtAll(t *testing.T) {
	t.Setenv("DATABASE_URL", testkit.Database(t))
	code, _, errs := call(t, "import", file(t, "s.json", demo.Study()))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "s.json is refused, nothing of it was taken")
	assert.Contains(t, errs, "bring its price list in first")
	args := []string{"import"}
	for _, list := range demo.PriceLists() {
		args = append(args, file(t, "p.json", list))
	}
	code, out, errs := call(t, append(args, file(t, "s.json", demo.Study()))...)
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Took the price list of Osier Mail.")
	assert.Contains(t, out, "Took the study; it is at /studies/")
	code, _, errs = call(t, "demo")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `there is a study "spring-list" in the workspace already`)
}

func TestImportReachesAnApplicationThatIsRunning(t *testing.T) {
	folder, err := os.MkdirTemp("", "ninecoins-folder-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(folder, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(folder) })
	t.Setenv("NINECOINS_FOLDER", folder)
	lock, err := localpg.Take(folder)
	require.NoError(t, err)
	cluster, err := localpg.Start(t.Context(), localpg.Options{Dir: filepath.Join(folder, "postgres"), Throwaway: true})
	require.NoError(t, err)
	code, out, errs := call(t, "demo")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "The example is in")
	assert.NotContains(t, out, "Starting PostgreSQL")
	cluster.Stop()
	lock.Free()
	code, out, errs = call(t, "demo")
	assert.Equal(t, 2, code)
	assert.Contains(t, out, "Starting PostgreSQL", "nothing runs any more, so it is started")
	assert.Contains(t, errs, "already", "what was brought in is kept")
}

// TestWithoutTheDemoTheFirstOwnerIsAskedIn follows the link on the console.
func TestWithoutTheDemoTheFirstOwnerIsAskedIn(t *testing.T) {
	t.Setenv("DATABASE_URL", testkit.Database(t))
	port := freePort(t)
	t.Setenv("PORT", port)
	t.Setenv("NINECOINS_URL", "http://localhost:"+port)
	ctx, stop := context.WithCancel(t.Context())
	said, says := io.Pipe()
	ended := make(chan int, 1)
	go func() { ended <- run(ctx, []string{"serve"}, says, io.Discard); says.Close() }()
	lines := bufio.NewScanner(said)
	link := ""
	for lines.Scan() && !strings.Contains(lines.Text(), "Stop it with") {
		if strings.Contains(lines.Text(), "/set-up/") {
			link = lines.Text()
		}
	}
	require.True(t, strings.HasPrefix(link, "http://localhost:"+port+"/set-up/"), link)
	printed := make(chan string, 100)
	go func() {
		defer close(printed)
		for lines.Scan() {
			printed <- lines.Text()
		}
	}()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Timeout: 5 * time.Second, Jar: jar}
	ask := func(method, path string, form url.Values) (int, string) {
		var resp *http.Response
		var err error
		if method == http.MethodGet {
			resp, err = c.Get(path)
		} else {
			resp, err = c.PostForm(path, form)
		}
		require.NoError(t, err)
		defer resp.Body.Close()
		body, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, string(body)
	}
	_, body := ask(http.MethodPost, link, url.Values{"workspace": {"Madder"}, "name": {"Rue Sable"}, "email": {"rue@madder.example"}, "password": {testkit.Password}})
	assert.Contains(t, body, "Nothing on the Desk yet")
	assert.NotContains(t, body, "/mailbox")
	code, _ := ask(http.MethodPost, "http://localhost:"+port+"/demo", nil)
	assert.Equal(t, http.StatusNotFound, code)
	ask(http.MethodPost, "http://localhost:"+port+"/workspace", url.Values{"edit": {"invite"}, "email": {"sedge@madder.example"}, "role": {"rater"}})
	for line := range printed {
		if strings.Contains(line, "To: sedge@madder.example") {
			break // without a mail server letters come to the console
		}
	}
	go func() {
		for range printed {
		}
	}()
	stop()
	assert.Zero(t, <-ended)

	out := filepath.Join(t.TempDir(), "madder.json")
	exit, text, errs := call(t, "export", "-workspace", "Madder", out)
	require.Zero(t, exit, errs)
	assert.Contains(t, text, "Wrote Madder to madder.json")
	exit, _, errs = call(t, "export", "-workspace", "Nowhere", out)
	assert.Equal(t, 2, exit)
	assert.Contains(t, errs, `there are 0 workspaces called "Nowhere"`)
	t.Setenv("DATABASE_URL", testkit.Database(t))
	exit, text, errs = call(t, "import", out)
	require.Zero(t, exit, errs)
	assert.Contains(t, text, "Took the workspace Madder.")
}

// TestUnderAPublicAddressTheDemosDoorIsShut starts the example as for others to
// reach: its owner comes in by a letter to the console.
func TestUnderAPublicAddressTheDemosDoorIsShut(t *testing.T) {
	t.Setenv("DATABASE_URL", testkit.Database(t))
	t.Setenv("PORT", freePort(t))
	t.Setenv("NINECOINS_URL", "https://coins.example")
	code, out, errs := call(t, "serve", "-demo", "-check")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "nobody may look around as the demo's owner without a password")
	assert.Contains(t, out, "https://coins.example/forgot for imke@marl-thistle.example: the letter goes to this console")
	assert.Contains(t, out, "PostgreSQL, the health page and the sign-in door answer.")
}

// TestALargeWorkspaceComesInOnTheCommandLine brings in one that is larger than a
// price list or a study may be.
func TestALargeWorkspaceComesInOnTheCommandLine(t *testing.T) {
	t.Setenv("DATABASE_URL", testkit.Database(t))
	line := `{"at": "2026-11-01T00:00:00Z", "edit": "price list", "of": "madder", "became": "` + strings.Repeat("x", 250) + `"}`
	large := `{"format": "nine-coins/workspace/1", "name": "Madder", "people": [], "platforms": [], "studies": [], "history": [` + strings.Repeat(line+", ", 18_000) + line + `]}`
	require.Greater(t, len(large), 5<<20)
	code, out, errs := call(t, "import", file(t, "madder.json", []byte(large)))
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Took the workspace Madder.")
	code, _, errs = call(t, "import", file(t, "large.json", []byte(strings.Replace(large, "workspace/1", "study/1", 1))))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "at most 5 MB are read")
}

func TestSettingsThatDoNotGoTogetherAreRefused(t *testing.T) {
	for _, row := range []struct{ name, value, want string }{
		{"TLS_CERT", "cert.pem", "TLS_CERT and TLS_KEY go together"},
		{"SMTP_URL", "smtp://mail.example", "SMTP_URL and MAIL_FROM go together"},
		{"NINECOINS_URL", "coins.example", `NINECOINS_URL "coins.example" is not of the form https://coins.example`},
		{"NINECOINS_URL", "https://coins.example/below", "is not of the form"},
	} {
		t.Run(row.want, func(t *testing.T) {
			t.Setenv(row.name, row.value)
			code, _, errs := call(t, "serve")
			assert.Equal(t, 2, code)
			assert.Contains(t, errs, row.want)
		})
	}
}

// TestItSpeaksTLSItself serves with a certificate of its own making.
func TestItSpeaksTLSItself(t *testing.T) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	card := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), DNSNames: []string{"coins.example"}}
	der, err := x509.CreateCertificate(rand.Reader, card, card, &key.PublicKey, key)
	require.NoError(t, err)
	secret, err := x509.MarshalPKCS8PrivateKey(key)
	require.NoError(t, err)
	t.Setenv("DATABASE_URL", testkit.Database(t))
	t.Setenv("PORT", freePort(t))
	t.Setenv("TLS_CERT", file(t, "cert.pem", pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})))
	t.Setenv("TLS_KEY", file(t, "key.pem", pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: secret})))
	code, out, errs := call(t, "serve", "-demo", "-check")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "the sign-in door and the Desk answer")
	t.Setenv("NINECOINS_URL", "http://coins.example")
	code, _, errs = call(t, "serve")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "write https://")
}
