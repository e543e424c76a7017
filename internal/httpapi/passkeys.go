package httpapi

import (
	"encoding/json"
	"net"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/internal/service"
)

func (s *server) passkeyRoutes(r fiber.Router) {
	r.Get("/passkeys", s.to((*server).listPasskeys))
	r.Post("/passkeys/begin", s.to((*server).beginPasskey))
	r.Post("/passkeys", s.to((*server).finishPasskey))
	r.Delete("/passkeys/:passkey", s.to((*server).endPasskey))
	r.Post("/session/passkey/begin", s.to((*server).beginPasskeySignIn))
	r.Post("/session/passkey", s.to((*server).signInByPasskey))
}

// site is where a request came to; keys belong to a name, so that an address of numbers has none.
func (s *server) site(c fiber.Ctx) (at service.Site, ok bool) {
	at.Origin = strings.TrimSuffix(s.backTo(c), backPath)
	u, err := url.Parse(at.Origin)
	if err != nil || net.ParseIP(u.Hostname()) != nil {
		return at, false
	}
	at.Host = u.Hostname()
	return at, s.signIn
}

// passkeyDTO is a passkey without what is held against answers.
type passkeyDTO struct {
	ID      string     `json:"id"`
	Name    string     `json:"name"`
	Created time.Time  `json:"created"`
	Seen    *time.Time `json:"seen"`
}

// askedDTO is what a browser asks a device, and the name of that for the answer.
type askedDTO struct {
	State   string `json:"state"`
	Options any    `json:"options"`
}

func (s *server) listPasskeys(c fiber.Ctx) error {
	all, err := s.People.Passkeys(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Passkeys []passkeyDTO `json:"passkeys"`
	}{[]passkeyDTO{}}
	for _, k := range all {
		out.Passkeys = append(out.Passkeys, passkeyDTO{k.ID, k.Name, k.CreatedAt, k.SeenAt})
	}
	return c.JSON(out)
}

func (s *server) beginPasskey(c fiber.Ctx) error {
	at, ok := s.site(c)
	if !ok {
		return fiber.ErrNotFound
	}
	options, state, err := s.People.BeginPasskey(c.Context(), at)
	if err != nil {
		return err
	}
	return c.JSON(askedDTO{state, options.Response})
}

func (s *server) finishPasskey(c fiber.Ctx) error {
	at, ok := s.site(c)
	if !ok {
		return fiber.ErrNotFound
	}
	var in struct {
		State  string          `json:"state"`
		Name   string          `json:"name"`
		Answer json.RawMessage `json:"answer"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.People.FinishPasskey(c.Context(), at, in.State, in.Name, in.Answer); err != nil {
		return err
	}
	return s.listPasskeys(c)
}

func (s *server) endPasskey(c fiber.Ctx) error {
	if err := s.People.EndPasskey(c.Context(), c.Params("passkey")); err != nil {
		return err
	}
	return s.listPasskeys(c)
}

func (s *server) beginPasskeySignIn(c fiber.Ctx) error {
	at, ok := s.site(c)
	if !ok {
		return fiber.ErrNotFound
	}
	options, state, err := s.People.BeginPasskeySignIn(c.Context(), at)
	if err != nil {
		return err
	}
	return c.JSON(askedDTO{state, options.Response})
}

func (s *server) signInByPasskey(c fiber.Ctx) error {
	at, ok := s.site(c)
	if !ok {
		return fiber.ErrNotFound
	}
	var in struct {
		State  string          `json:"state"`
		Answer json.RawMessage `json:"answer"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	secret, account, err := s.People.SignInByPasskey(c.Context(), at, in.State, in.Answer, s.whence(c))
	if err != nil {
		return err
	}
	return s.begun(c, secret, account)
}
