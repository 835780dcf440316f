package mail_test

import (
	"encoding/base64"
	"io"
	"mime"
	"mime/quotedprintable"
	netmail "net/mail"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

var mimeWords mime.WordDecoder

// decoded reads the text of a message.
func decoded(t *testing.T, m *netmail.Message) string {
	t.Helper()
	body := m.Body
	switch strings.ToLower(m.Header.Get("Content-Transfer-Encoding")) {
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	}
	text, err := io.ReadAll(body)
	require.NoError(t, err)
	return strings.ReplaceAll(string(text), "\r\n", "\n")
}
