package httpapi

import (
	"encoding/json"
	"sync"

	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"
)

// answered is an answer as it was sent, compressed for those who take that when the first of
// them asks.
type answered struct {
	body  []byte
	once  sync.Once
	small []byte
}

// answeredAs names an answer: nothing that it tells has changed as long as the study has its
// revision.
type answeredAs struct {
	study, revision uint64
	address         string
	language        string
	sight           sight
}

// Bytes estimates the memory that an answer holds, compressed and as it is.
func (a *answered) Bytes() int { return 500 + len(a.body) + len(a.body)/2 }

// longestAddress bounds the addresses under which answers are remembered.
const longestAddress = 500

// worthSmall is from how many bytes on an answer is compressed.
const worthSmall = 1400

// remembered answers from memory where nothing of the study has changed since the same was
// asked last; one query tells. make gives the answer, the revision that it is of, and whether
// it may be kept.
func (s *server) remembered(c fiber.Ctx, study uint64, make func() (body any, revision uint64, keep bool, err error)) error {
	address := c.OriginalURL()
	known, err := s.known(c, study, address)
	if known != nil || err != nil {
		return err
	}
	body, revision, keep, err := make()
	if err != nil {
		return err
	}
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	a := &answered{body: raw}
	if keep && len(address) <= longestAddress {
		s.answers.Put(answeredAs{study, revision, address, s.words.Language(), s.sight}, a)
	}
	return a.send(c)
}

// known sends an answer from memory where there is one. Pages take turns, so that small
// requests do not wait behind all who ask for one.
func (s *server) known(c fiber.Ctx, study uint64, address string) (*answered, error) {
	if err := s.pages.Acquire(c.Context(), 1); err != nil {
		return nil, err
	}
	defer s.pages.Release(1)
	now, err := s.Studies.Get(c.Context(), study)
	if err != nil {
		return nil, err
	}
	a, ok := s.answers.Get(answeredAs{study, now.Revision, address, s.words.Language(), s.sight})
	if !ok {
		return nil, nil
	}
	return a, a.send(c)
}

func (a *answered) send(c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSONCharsetUTF8)
	if len(a.body) < worthSmall || !acceptsBrotli(c.Get(fiber.HeaderAcceptEncoding)) {
		return c.Send(a.body)
	}
	a.once.Do(func() {
		a.small = fasthttp.AppendBrotliBytesLevel(nil, a.body, fasthttp.CompressBrotliDefaultCompression)
	})
	c.Set(fiber.HeaderContentEncoding, "br")
	c.Set(fiber.HeaderVary, fiber.HeaderAcceptEncoding)
	return c.Send(a.small)
}

// mostAtOnceAsked bounds the requests that are worked on at the same moment; who comes beyond
// is asked to come again.
const mostAtOnceAsked = 400

// room lets in as many requests as there is room for.
func (s *server) room(c fiber.Ctx) error {
	if s.asking.Add(1) > mostAtOnceAsked {
		s.asking.Add(-1)
		return &refusal{status: fiber.StatusServiceUnavailable, code: "crowded"}
	}
	defer s.asking.Add(-1)
	return c.Next()
}

// part is a question as it was sent.
type part json.RawMessage

// Bytes is the memory that it holds, its view with it.
func (p part) Bytes() int { return 2000 + 2*len(p) }
