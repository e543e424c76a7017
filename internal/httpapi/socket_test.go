package httpapi

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
	"widetally/internal/testroom"
)

// listening serves the client's application on a real socket.
func (c *client) listening() string {
	c.t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(c.t, err)
	return c.listeningOn(l)
}

func (c *client) listeningOn(l net.Listener) string {
	c.t.Helper()
	go func() { _ = c.app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	c.t.Cleanup(func() { _ = c.app.ShutdownWithTimeout(3 * time.Second) })
	return l.Addr().String()
}

// dial sends bytes as they are and returns everything that comes back.
func dial(t *testing.T, addr string, raw string) (*bufio.Reader, net.Conn) {
	t.Helper()
	conn, err := net.Dial("tcp", addr)
	require.NoError(t, err)
	t.Cleanup(func() { conn.Close() })
	_, _ = io.WriteString(conn, raw) // a refusal may close it on the way
	return bufio.NewReader(conn), conn
}

// A stranger's page can send a body that reads like a further request. Refused or not,
// with its length given or in chunks, no part of it is ever taken for one.
func TestABodyIsNeverReadAsARequest(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	addr := c.listening()
	inner := fmt.Sprintf("DELETE /api/v1%s HTTP/1.1\r\nHost: %s\r\n\r\n", st, addr)
	for _, padding := range []int{0, 10_000, 20_000, 70_000, 300_000, 2_000_000} {
		body := strings.Repeat("\r\n", padding/2) + strings.Repeat(inner, 20)
		for _, head := range []string{"POST /api/v1/studies", "POST /api/v1/arrivals?name=a.csv", "POST /api/v1/nowhere", "PUT /", "GET /api/v1/studies"} {
			for _, origin := range []string{"https://stranger.example", "null", ""} {
				request := fmt.Sprintf("%s HTTP/1.1\r\nHost: %s\r\nOrigin: %s\r\nContent-Type: text/plain\r\nContent-Length: %d\r\n\r\n%s", head, addr, origin, len(body), body)
				chunked := fmt.Sprintf("%s HTTP/1.1\r\nHost: %s\r\nOrigin: %s\r\nTransfer-Encoding: chunked\r\n\r\n%x\r\n%s\r\n0\r\n\r\n", head, addr, origin, len(body), body)
				for _, raw := range []string{request, chunked} {
					answers, conn := dial(t, addr, raw)
					first, err := http.ReadResponse(answers, nil)
					if err == nil {
						_, _ = io.Copy(io.Discard, first.Body)
						if first.StatusCode >= 400 {
							assert.True(t, first.Close, "a refusal closes the connection: %s, %d bytes", head, padding)
						}
					}
					conn.Close()
				}
			}
		}
	}
	assert.Equal(t, 25.0, c.call("GET", st+"/topline", "", 200)["study"].(map[string]any)["rows"], "the study is still there")
}

// A body that breaks off is refused, not taken for whole.
func TestAnUploadCutShortIsNotTaken(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	addr := c.listening()
	for name, raw := range map[string]string{
		"length": fmt.Sprintf("POST /api/v1/arrivals?name=a.csv HTTP/1.1\r\nHost: %s\r\nContent-Length: 400\r\n\r\nward\nHarbour\n", addr),
		"chunks": fmt.Sprintf("POST /api/v1/arrivals?name=a.csv HTTP/1.1\r\nHost: %s\r\nTransfer-Encoding: chunked\r\n\r\nd\r\nward\nHarbour\n\r\n", addr),
	} {
		t.Run(name, func(t *testing.T) {
			answers, conn := dial(t, addr, raw)
			require.NoError(t, conn.(*net.TCPConn).CloseWrite())
			res, err := http.ReadResponse(answers, nil)
			if err != nil {
				return // it gave up on a client that has gone
			}
			body, _ := io.ReadAll(res.Body)
			assert.GreaterOrEqual(t, res.StatusCode, 400, "%s", body)
		})
	}
}

// watched is a listener whose connections keep the times by which the server wants to have read,
// until the test says that they have come.
type watched struct {
	net.Listener
	taken chan *watchedConn
}

func (l watched) Accept() (net.Conn, error) {
	conn, err := l.Listener.Accept()
	if err != nil {
		return nil, err
	}
	c := &watchedConn{TCPConn: conn.(*net.TCPConn)}
	l.taken <- c
	return c, nil
}

type watchedConn struct {
	*net.TCPConn
	times atomic.Int64 // how often the server has said by when
}

func (c *watchedConn) SetReadDeadline(by time.Time) error {
	if !by.IsZero() {
		c.times.Add(1)
	}
	return nil
}
func (c *watchedConn) SetDeadline(by time.Time) error { return c.SetReadDeadline(by) }
func (c *watchedConn) late()                          { _ = c.TCPConn.SetReadDeadline(time.Unix(1, 0)) }

// A connection that stands still gives its place up, before its request, in the middle
// of its body, and after its answer; one that keeps moving does not.
func TestSlowConnectionsGiveTheirPlaceUp(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	inner, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	l := watched{inner, make(chan *watchedConn, 1)}
	addr := c.listeningOn(l)
	for name, raw := range map[string]string{
		"no request":   "",
		"half a head":  "GET /api/v1/studies HTTP/1.1\r\nHost: " + addr,
		"half a body":  fmt.Sprintf("POST /api/v1/arrivals?name=a.csv HTTP/1.1\r\nHost: %s\r\nContent-Length: 400000\r\n\r\nward\n", addr),
		"after it all": fmt.Sprintf("GET /api/v1/studies HTTP/1.1\r\nHost: %s\r\n\r\n", addr),
	} {
		t.Run(name, func(t *testing.T) {
			answers, _ := dial(t, addr, raw)
			conn := <-l.taken
			testroom.Await(t, "a time to be set", func() bool { return conn.times.Load() > 0 })
			if name == "after it all" {
				res, err := http.ReadResponse(answers, nil)
				require.NoError(t, err)
				_, _ = io.Copy(io.Discard, res.Body)
				testroom.Await(t, "a time for the next request", func() bool { return conn.times.Load() > 1 })
			}
			conn.late()
			if _, err := io.Copy(io.Discard, answers); err != nil { // with what was sent unread it is a reset
				assert.ErrorIs(t, err, syscall.ECONNRESET, "the server closes it")
			}
		})
	}
	in, out := io.Pipe()
	go func() {
		_, _ = io.WriteString(out, "ward\n")
		conn := <-l.taken
		for range 4 {
			before := conn.times.Load()
			_, _ = io.WriteString(out, strings.Repeat("Harbour\n", pace/8))
			testroom.Await(t, "more time for who keeps pace", func() bool { return conn.times.Load() > before })
		}
		out.Close()
	}()
	res, err := http.Post("http://"+addr+"/api/v1/arrivals?name=a.csv", "application/octet-stream", in)
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, http.StatusCreated, res.StatusCode)
}

// Work for a client that has gone ends soon, and no other's does.
func TestWorkEndsWhenTheClientHasGone(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	for name, leaves := range map[string]bool{"gone": true, "there": false} {
		client, err := net.Dial("tcp", l.Addr().String())
		require.NoError(t, err)
		defer client.Close()
		conn, err := l.Accept()
		require.NoError(t, err)
		defer conn.Close()
		ctx, done := untilGone(t.Context(), conn)
		defer done()
		if leaves {
			require.NoError(t, client.Close())
		} else {
			_, _ = io.WriteString(client, "a further request")
		}
		if leaves {
			testroom.Await(t, "the work to end", func() bool { return ctx.Err() != nil })
			continue
		}
		time.Sleep(2 * goneEvery) // it has looked, or has not: nothing ends
		assert.NoError(t, ctx.Err(), name)
	}
}

func TestAnswersAreNotKeptByCaches(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	for _, path := range []string{"/api/v1/studies", "/api/v1/nowhere", "/api/v1/studies/9"} {
		assert.Equal(t, "no-store", c.send("GET", path, "").Header.Get("Cache-Control"), path)
	}
}
