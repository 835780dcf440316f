package web_test

import (
	"context"
	"net"
	"net/http"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/mail"
	"ninecoins/internal/testkit"
	"ninecoins/internal/web"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// held is a mail server that takes its time.
type held struct {
	asked, goes chan struct{}
	sent        chan mail.Letter
}

func (h held) Send(ctx context.Context, l mail.Letter) error {
	h.asked <- struct{}{}
	select {
	case <-h.goes:
		h.sent <- l
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// TestALetterOutlastsAShutdown shuts a server down while a letter for a new password is on its way.
func TestALetterOutlastsAShutdown(t *testing.T) {
	app := testkit.Start(t, true)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	post := held{make(chan struct{}, 1), make(chan struct{}), make(chan mail.Letter, 1)}
	ctx, shut := context.WithCancel(t.Context())
	server, err := web.New(ctx, web.Options{Store: app.Store, Mail: post, Address: "http://" + listener.Addr().String(), Now: func() time.Time { return testkit.Day }})
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(ctx, listener, "", "") }()
	resp, err := testkit.Visitor(t).PostForm("http://"+listener.Addr().String()+"/forgot", values([]string{"email", demo.People[0].Email}))
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	<-post.asked
	shut()
	require.Eventually(t, func() bool {
		c, err := net.Dial("tcp", listener.Addr().String())
		if err == nil {
			c.Close()
		}
		return err != nil
	}, 10*time.Second, 5*time.Millisecond, "it takes nobody in any more")
	select {
	case err := <-ended:
		require.Fail(t, "it ended before the letter was out", "%v", err)
	default:
	}
	close(post.goes)
	require.NoError(t, <-ended)
	assert.Equal(t, demo.People[0].Email, (<-post.sent).To)
}
