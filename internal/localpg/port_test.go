package localpg

import (
	"context"
	"net"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAPortThatWasTakenMeanwhileIsToldFromOtherFailures(t *testing.T) {
	t.Parallel()
	dir, err := os.MkdirTemp("", "ninecoins-cluster-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	c, err := Start(t.Context(), Options{Dir: dir, Throwaway: true})
	require.NoError(t, err)
	t.Cleanup(c.Stop)
	assert.False(t, c.portTaken())
	c.end()
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	free := c.port
	c.port = taken.Addr().(*net.TCPAddr).Port
	heard := make(chan struct{})
	go func() { // whoever took the port says nothing, and keeps those who connect waiting
		defer close(heard)
		for {
			conn, err := taken.Accept()
			if err != nil {
				return
			}
			defer conn.Close()
		}
	}()
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second) // less than await would give it
	defer cancel()
	require.Error(t, c.launch(ctx))
	assert.NoError(t, ctx.Err(), "nobody waits for a server that has ended")
	assert.True(t, c.portTaken(), "so another one is tried")
	taken.Close()
	<-heard
	c.port = free
	require.NoError(t, c.launch(t.Context()))
	assert.False(t, c.portTaken())
}
