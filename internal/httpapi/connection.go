package httpapi

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net"
	"os"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"
)

// A connection that brings or takes nothing for this long gives its place up; one that
// brings or takes a file must move pace bytes in that time.
const (
	defaultPatience = 30 * time.Second
	pace            = 256 << 10
)

// errCutShort: the connection ended, or stopped moving, before all was sent.
var errCutShort = errors.New("httpapi: the body was cut short")

// pacedReader reads a request's body. As long as the client keeps pace the time to read
// goes on; a body shorter than announced is errCutShort, never taken for whole.
type pacedReader struct {
	ctx       *fasthttp.RequestCtx
	patience  time.Duration
	in        io.Reader
	announced int64 // bytes, below 0 where the length was not said
	got       int64
	due       int64 // bytes after which the time is extended
}

func (p *pacedReader) Read(b []byte) (int, error) {
	n, err := p.in.Read(b)
	p.got += int64(n)
	if p.got >= p.due {
		p.due = p.got + pace
		if err := p.ctx.SetReadDeadline(time.Now().Add(p.patience)); err != nil {
			return n, errCutShort
		}
	}
	switch {
	case err == nil:
	case errors.Is(err, io.EOF) && p.got >= p.announced:
	default:
		return n, errCutShort
	}
	return n, err
}

// upload is the request's body as it comes in.
func (s *server) upload(c fiber.Ctx) io.Reader {
	length := int64(c.Request().Header.ContentLength())
	return &pacedReader{ctx: c.RequestCtx(), patience: s.patience, in: c.Request().BodyStream(), announced: length}
}

// goneEvery is how often a request under way looks whether its client is still there.
const goneEvery = 250 * time.Millisecond

// untilGone ends a request's work soon after its client has gone: the framework only
// notices when it writes the answer. done must be called.
func untilGone(ctx context.Context, conn net.Conn) (_ context.Context, done func()) {
	ctx, cancel := context.WithCancel(ctx)
	raw, ok := conn.(syscall.Conn)
	if !ok {
		return ctx, cancel
	}
	var timer *time.Timer
	timer = time.AfterFunc(goneEvery, func() {
		if gone(raw) {
			cancel()
		} else if ctx.Err() == nil {
			timer.Reset(goneEvery)
		}
	})
	return ctx, func() { timer.Stop(); cancel() }
}

// gone peeks at a connection: an end without further bytes is a client that left.
func gone(c syscall.Conn) bool {
	raw, err := c.SyscallConn()
	if err != nil {
		return false
	}
	left := false
	err = raw.Control(func(fd uintptr) {
		var b [1]byte
		n, _, err := syscall.Recvfrom(int(fd), b[:], syscall.MSG_PEEK|syscall.MSG_DONTWAIT)
		left = n == 0 && err == nil || errors.Is(err, syscall.ECONNRESET)
	})
	return err == nil && left
}

// sendFile answers with an open file, which it closes and removes, as fast as the client
// takes it.
func (s *server) sendFile(c fiber.Ctx, f *os.File) error {
	conn := c.RequestCtx().Conn()
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer os.Remove(f.Name())
		defer f.Close()
		for {
			_ = conn.SetWriteDeadline(time.Now().Add(s.patience))
			if _, err := io.CopyN(w, f, pace); err != nil || w.Flush() != nil {
				return
			}
		}
	})
}
