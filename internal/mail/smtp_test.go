package mail_test

import (
	"io"
	"net"
	netmail "net/mail"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/mail"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// office is a small mail server that keeps what it is given.
type office struct {
	taken  chan taken
	refuse string // a recipient that it does not know
}

type taken struct {
	from, to, text string
}

type session struct {
	office *office
	letter taken
}

func (o *office) NewSession(*smtp.Conn) (smtp.Session, error)  { return &session{office: o}, nil }
func (s *session) Mail(from string, _ *smtp.MailOptions) error { s.letter.from = from; return nil }
func (s *session) Reset()                                      {}
func (s *session) Logout() error                               { return nil }
func (s *session) Data(r io.Reader) error {
	text, err := io.ReadAll(r)
	s.letter.text = string(text)
	s.office.taken <- s.letter
	return err
}
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if to == s.office.refuse {
		return &smtp.SMTPError{Code: 550, Message: "nobody of that name"}
	}
	s.letter.to = to
	return nil
}

func open(t *testing.T) (*office, string) {
	t.Helper()
	o := &office{taken: make(chan taken, 10), refuse: "gone@marl.example"}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	server := smtp.NewServer(o)
	server.Domain = "localhost"
	server.ReadTimeout = 10 * time.Second
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(l) }()
	t.Cleanup(func() {
		require.NoError(t, server.Close())
		<-ended
	})
	return o, "smtp://" + l.Addr().String()
}

func TestALetterReachesAMailServerWhole(t *testing.T) {
	o, address := open(t)
	s, err := mail.NewSMTP(address, "Nine Coins <coins@marl.example>")
	require.NoError(t, err)
	long := "https://coins.marl.example/join/" + strings.Repeat("a1B2_-", 20)
	require.NoError(t, s.Send(t.Context(), mail.Letter{To: "dov@marl.example", Subject: "Einladung für Döv", Text: "Grüße.\n.\nA lone point ends nothing.\n" + long + "\n"}))
	got := <-o.taken
	assert.Equal(t, "coins@marl.example", got.from)
	assert.Equal(t, "dov@marl.example", got.to)
	m, err := netmail.ReadMessage(strings.NewReader(got.text))
	require.NoError(t, err)
	assert.Equal(t, `"Nine Coins" <coins@marl.example>`, m.Header.Get("From"))
	assert.NotEmpty(t, m.Header.Get("Message-ID"))
	subject, err := (&mimeWords).DecodeHeader(m.Header.Get("Subject"))
	require.NoError(t, err)
	assert.Equal(t, "Einladung für Döv", subject)
	text := decoded(t, m)
	assert.Contains(t, text, "Grüße.\n.\nA lone point")
	assert.Contains(t, text, long, "an address is not broken")
}

func TestARefusedLetterSaysWhy(t *testing.T) {
	o, address := open(t)
	s, err := mail.NewSMTP(address, "coins@marl.example")
	require.NoError(t, err)
	err = s.Send(t.Context(), mail.Letter{To: o.refuse, Subject: "x", Text: "y"})
	assert.ErrorContains(t, err, "did not take the letter to gone@marl.example")
	assert.ErrorContains(t, err, "nobody of that name")
	assert.ErrorContains(t, s.Send(t.Context(), mail.Letter{To: "two\r\nBcc: all@marl.example", Subject: "x"}), "mail: to")
	require.NoError(t, s.Send(t.Context(), mail.Letter{To: "dov@marl.example", Subject: "x\r\nBcc: all@marl.example", Text: "y"}))
	m, err := netmail.ReadMessage(strings.NewReader((<-o.taken).text))
	require.NoError(t, err)
	assert.Empty(t, m.Header.Get("Bcc"), "a subject adds no headers")

	away, err := mail.NewSMTP("smtp://127.0.0.1:1", "coins@marl.example")
	require.NoError(t, err)
	assert.ErrorContains(t, away.Send(t.Context(), mail.Letter{To: "dov@marl.example"}), "the server 127.0.0.1 did not take the letter")
	guarded, err := mail.NewSMTP(strings.Replace(address, "smtp://", "smtp://coins:secret@", 1), "coins@marl.example")
	require.NoError(t, err)
	assert.Error(t, guarded.Send(t.Context(), mail.Letter{To: "dov@marl.example"}), "no password goes out without TLS")
}

func TestSettingsAtFaultAreToldWithoutTheirPassword(t *testing.T) {
	for _, address := range []string{"", "mail.example:25", "http://mail.example", "smtp://", "smtp://u:hush@", "smtp://mail.example:none"} {
		_, err := mail.NewSMTP(address, "coins@marl.example")
		require.Error(t, err, address)
		assert.NotContains(t, err.Error(), "hush")
	}
	_, err := mail.NewSMTP("smtps://mail.example", "nobody at all")
	assert.ErrorContains(t, err, "letters cannot come from")
}
