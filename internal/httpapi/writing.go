package httpapi

import (
	"bufio"
	"context"
	"fmt"
	"regexp"
	"time"

	"github.com/gofiber/fiber/v3"
)

var writingToken = regexp.MustCompile(`^[A-Za-z0-9-]{8,64}$`)

// writingBegins is how long a watcher waits for a file to be begun.
const writingBegins = 3 * time.Second

// writing notes a file that is being written; told tells how far it has come, and end that it is
// written. Without a token in the query nobody is told.
func (s *server) writing(c fiber.Ctx) (told func(done, of int), end func()) {
	token := c.Query("watch")
	if !writingToken.MatchString(token) {
		return func(int, int) {}, func() {}
	}
	return s.Writings.Begin(token)
}

// watchWriting tells how far a file has come, as server-sent events, until it is written.
func (s *server) watchWriting(c fiber.Ctx) error {
	token := c.Params("token")
	c.Set(fiber.HeaderContentType, "text/event-stream")
	conn, ctx := c.RequestCtx().Conn(), context.WithoutCancel(c.Context())
	return c.SendStreamWriter(func(w *bufio.Writer) {
		begun := false
		for start := time.Now(); time.Since(start) < watchMost; time.Sleep(watchEvery) {
			thousandths, ok := s.Writings.At(ctx, token)
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
