package testkit

import (
	"io"
	"net"
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

// Cable is the way to a database, which a test can cut and mend.
type Cable struct {
	URL string // of the database, by this way

	to    string
	mu    sync.Mutex
	cut   bool
	ends  map[net.Conn]bool
	inlet net.Listener
}

// NewCable lays a cable to a database.
func NewCable(t testing.TB, database string) *Cable {
	t.Helper()
	u, err := url.Parse(database)
	require.NoError(t, err)
	c := &Cable{to: u.Host, ends: map[net.Conn]bool{}}
	c.inlet, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	u.Host = c.inlet.Addr().String()
	c.URL = u.String()
	go func() {
		for {
			in, err := c.inlet.Accept()
			if err != nil {
				return
			}
			go c.carry(in)
		}
	}()
	t.Cleanup(func() { c.inlet.Close(); c.Cut() })
	return c
}

func (c *Cable) carry(in net.Conn) {
	out, err := net.Dial("tcp", c.to)
	if err != nil || !c.hold(in, out) {
		in.Close()
		if out != nil {
			out.Close()
		}
		return
	}
	go func() { _, _ = io.Copy(in, out); in.Close() }()
	_, _ = io.Copy(out, in)
	out.Close()
}

// hold notes the ends of a connection; false while the cable is cut.
func (c *Cable) hold(ends ...net.Conn) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, end := range ends {
		c.ends[end] = true
	}
	return !c.cut
}

// Cut breaks all connections, and new ones as soon as they are made.
func (c *Cable) Cut() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.cut = true
	for end := range c.ends {
		end.Close()
	}
	clear(c.ends)
}

// Mend lets new connections through again.
func (c *Cable) Mend() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.cut = false
}
