package httpapi

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/service"
)

func (s *server) liveRoutes(r fiber.Router) {
	r.Get("/live", s.to((*server).live))
	r.Put("/studies/:study/here", s.to((*server).putHere))
	r.Delete("/studies/:study/here/:tab", s.to((*server).leaveHere))
}

// How long a browser watches on one connection, after which it asks again; how often it is told that the
// connection stands, and how often what it may see is looked up.
const (
	liveFor    = 15 * time.Minute
	liveBeat   = 10 * time.Second
	liveChecks = 15 * time.Second
)

// hereDTO is somebody who looks at a study.
type hereDTO struct {
	Name    string `json:"name"`
	Place   string `json:"place"`
	Editing bool   `json:"editing"`
}

// liveDTO is what became of a study.
type liveDTO struct {
	Study    uint64 `json:"study"`
	Revision uint64 `json:"revision"`
	// Gone says that it is no longer there, or not for who asks.
	Gone bool `json:"gone,omitempty"`
	// Here are the others who look at it.
	Here []hereDTO `json:"here"`
	// By and What tell of the newest edit, where somebody else made it.
	By   string `json:"by,omitempty"`
	What string `json:"what,omitempty"`
}

// listener is a browser that watches, with what it was told.
type listener struct {
	s       *server
	ctx     context.Context
	who     study.Actor
	told    map[uint64]liveDTO
	sees    map[uint64]sees
	checked time.Time
}

// sees is whether somebody sees a study, asked when it had a revision: who shares it counts that up.
type sees struct {
	is       bool
	revision uint64
}

// live tells what becomes of the studies that somebody may see, as server-sent events.
func (s *server) live(c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, "text/event-stream")
	conn, secret, link := c.RequestCtx().Conn(), c.Cookies(s.cookieName()), c.Cookies(s.linkCookie())
	l := &listener{s: s, ctx: context.WithoutCancel(c.Context()), who: study.ActorOf(c.Context()), told: map[uint64]liveDTO{}}
	return c.SendStreamWriter(func(w *bufio.Writer) {
		done := s.Live.Watch()
		defer done()
		write := func(format string, args ...any) bool {
			_ = conn.SetWriteDeadline(time.Now().Add(s.patience))
			fmt.Fprintf(w, format, args...)
			return w.Flush() == nil
		}
		told := false
		for end := time.Now().Add(liveFor); time.Now().Before(end); {
			if time.Since(l.checked) > liveChecks {
				if s.signIn {
					_, err := s.People.SignedIn(l.ctx, secret)
					if l.who.Via == study.ViaLink {
						_, err = s.People.ByLink(l.ctx, link)
					}
					if err != nil {
						write("event: signed_out\ndata: {}\n\n")
						return
					}
				}
				l.checked, l.sees = time.Now(), map[uint64]sees{}
			}
			now, next := s.Live.Now()
			if now != nil {
				for _, one := range l.news(now) {
					raw, _ := json.Marshal(one) // plain texts and numbers
					if !write("data: %s\n\n", raw) {
						return // nobody listens any more
					}
				}
				if !told { // what was not told is not there, or not for who listens
					if told = true; !write("event: all\ndata: {}\n\n") {
						return
					}
				}
			}
			select {
			case <-s.Live.Closed():
				return
			case <-next:
			case <-time.After(liveBeat):
				if !write(": \n\n") {
					return
				}
			}
		}
	})
}

// news is what a listener was not told yet.
func (l *listener) news(now *service.Now) (out []liveDTO) {
	for _, id := range slices.Sorted(maps.Keys(now.Revisions)) {
		if !l.who.Token.Lets(id, study.ToSee) {
			continue
		}
		before, known := l.told[id]
		seen, asked := l.sees[id]
		if !asked || seen.revision != now.Revisions[id] {
			seen = sees{l.s.Live.Sees(l.ctx, id), now.Revisions[id]}
			l.sees[id] = seen
		}
		if !seen.is {
			if known && !before.Gone {
				out = append(out, l.tell(liveDTO{Study: id, Gone: true, Here: []hereDTO{}}))
			}
			continue
		}
		one := liveDTO{Study: id, Revision: now.Revisions[id], Here: l.others(now.Here[id])}
		if known && before.Revision == one.Revision && slices.Equal(before.Here, one.Here) && !before.Gone {
			continue
		}
		if e, there := now.Newest[id]; there && known && before.Revision != one.Revision && e.Actor != l.who.ID && l.who.Via != study.ViaLink {
			if what, err := e.Said(); err == nil {
				one.By, one.What = e.Name, l.s.say(what)
			}
		}
		out = append(out, l.tell(one))
	}
	for id, before := range l.told {
		if _, there := now.Revisions[id]; !there && !before.Gone {
			out = append(out, l.tell(liveDTO{Study: id, Gone: true, Here: []hereDTO{}}))
		}
	}
	return out
}

func (l *listener) tell(one liveDTO) liveDTO {
	l.told[one.Study] = one
	return one
}

// others are those who look at a study beside who listens; somebody with several tabs is told once, where they
// change something if they do.
func (l *listener) others(all []people.Presence) []hereDTO {
	out, at := []hereDTO{}, map[uint64]int{}
	if l.who.Via == study.ViaLink { // who works on it is none of theirs
		return out
	}
	for _, p := range all {
		if p.Account == l.who.Account {
			continue
		}
		i, seen := at[p.Account]
		if !seen {
			i = len(out)
			at[p.Account], out = i, append(out, hereDTO{p.Name, p.Place, p.Editing})
		}
		if p.Editing && !out[i].Editing {
			out[i] = hereDTO{p.Name, p.Place, true}
		}
	}
	return out
}

func (s *server) putHere(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Tab     string `json:"tab"`
		Place   string `json:"place"`
		Editing bool   `json:"editing"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Live.Here(c.Context(), n, in.Tab, in.Place, in.Editing); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) leaveHere(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	if err := s.Live.Gone(c.Context(), n, c.Params("tab")); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

// revisionHeader tells which revision of a study an answer is of, madeHeader which one a change has made.
const (
	revisionHeader = "Study-Revision"
	madeHeader     = "Study-Made"
)

func revised(c fiber.Ctx) error {
	if !strings.HasPrefix(c.Path(), "/api/v1/studies/") {
		return c.Next()
	}
	ctx, told := study.WithTold(c.Context())
	c.SetContext(ctx)
	err := c.Next()
	for header, n := range map[string]uint64{revisionHeader: told.Seen(), madeHeader: told.Made()} {
		if n > 0 {
			c.Set(header, strconv.FormatUint(n, 10))
		}
	}
	return err
}
