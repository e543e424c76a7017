package httpapi

import (
	"bufio"
	"fmt"
	"regexp"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gofiber/fiber/v3"
)

// writings are the files that are being written for somebody who watches, by the token that the
// page has given them.
type writings struct {
	mu sync.Mutex
	by map[string]*writing
}

// writing is how far one has come, in thousandths.
type writing struct{ thousandths atomic.Int64 }

var writingToken = regexp.MustCompile(`^[A-Za-z0-9-]{8,64}$`)

// Bounds of what is watched.
const (
	mostWritings = 200
	// writingBegins is how long a watcher waits for a file to be begun.
	writingBegins = 3 * time.Second
)

// begin notes a file that is being written; told tells how far it has come, and end that it is
// written. Without a token in the query nobody is told.
func (w *writings) begin(c fiber.Ctx) (told func(done, of int), end func()) {
	token := c.Query("watch")
	if !writingToken.MatchString(token) {
		return func(int, int) {}, func() {}
	}
	one := &writing{}
	w.mu.Lock()
	if w.by == nil {
		w.by = map[string]*writing{}
	}
	if len(w.by) < mostWritings {
		w.by[token] = one
	}
	w.mu.Unlock()
	told = func(done, of int) {
		if of > 0 {
			one.thousandths.Store(int64(1000 * done / of))
		}
	}
	return told, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.by, token)
	}
}

func (w *writings) at(token string) (thousandths int64, ok bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	one := w.by[token]
	if one == nil {
		return 0, false
	}
	return one.thousandths.Load(), true
}

// watchWriting tells how far a file has come, as server-sent events, until it is written.
func (s *server) watchWriting(c fiber.Ctx) error {
	token := c.Params("token")
	c.Set(fiber.HeaderContentType, "text/event-stream")
	conn := c.RequestCtx().Conn()
	return c.SendStreamWriter(func(w *bufio.Writer) {
		begun := false
		for start := time.Now(); time.Since(start) < watchMost; time.Sleep(watchEvery) {
			thousandths, ok := s.writings.at(token)
			begun = begun || ok
			if !ok && (begun || time.Since(start) > writingBegins) {
				fmt.Fprint(w, "event: gone\ndata: {}\n\n")
				_ = w.Flush()
				return
			}
			_ = conn.SetWriteDeadline(time.Now().Add(s.patience))
			if fmt.Fprintf(w, "data: {\"percent\":%g}\n\n", float64(thousandths)/10); w.Flush() != nil {
				return // nobody watches any more
			}
		}
	})
}
