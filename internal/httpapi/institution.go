package httpapi

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/internal/institution"
	"widetally/internal/service"
)

// Where a browser is sent to the institution, and where it comes back.
const (
	institutionPath = "/api/v1/session/institution"
	backPath        = institutionPath + "/done"
	pendingFor      = 10 * time.Minute
)

func (s *server) institutionRoutes(r fiber.Router) {
	r.Get("/session/institution", s.to((*server).toInstitution))
	r.Get("/session/institution/done", s.to((*server).fromInstitution))
}

// backTo is where the institution sends a browser back, at the address at which it is now.
func (s *server) backTo(c fiber.Ctx) string {
	at := "https://" + strings.ToLower(c.Host())
	if !s.origins[at] {
		at = "http://" + strings.ToLower(c.Host())
	}
	return at + backPath
}

func (s *server) pendingCookie(c fiber.Ctx, value string) {
	s.put(c, s.cookieName()+"-institution", value, pendingFor)
}

// within is a page of the application, for who asks for another one the shelf.
func within(path string) string {
	u, err := url.Parse(path)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(u.Path, "//") || strings.ContainsAny(path, "\\\r\n") {
		return "/studies"
	}
	return path
}

// toInstitution sends a browser to the institution.
func (s *server) toInstitution(c fiber.Ctx) error {
	if s.institution == nil {
		return fiber.ErrNotFound
	}
	address, pending, err := s.institution.Begin(c.Context(), s.backTo(c), within(c.Query("to", "/studies")))
	if err != nil {
		return s.refused(c, err)
	}
	raw, err := json.Marshal(pending)
	if err != nil {
		return err
	}
	s.pendingCookie(c, base64.RawURLEncoding.EncodeToString(raw))
	return c.Redirect().Status(fiber.StatusSeeOther).To(address)
}

// fromInstitution signs in who comes back.
func (s *server) fromInstitution(c fiber.Ctx) error {
	if s.institution == nil {
		return fiber.ErrNotFound
	}
	var pending institution.Pending
	raw, err := base64.RawURLEncoding.DecodeString(c.Cookies(s.cookieName() + "-institution"))
	if err == nil {
		_ = json.Unmarshal(raw, &pending) // what cannot be read has no state
	}
	s.pendingCookie(c, "")
	who, err := s.institution.Finish(c.Context(), s.backTo(c), pending, c.Query("state"), c.Query("code"))
	if err != nil {
		return s.refused(c, err)
	}
	secret, _, err := s.People.SignInBy(c.Context(), who, s.whence(c))
	if err != nil {
		return s.refused(c, err)
	}
	if err := s.People.SignOut(c.Context(), c.Cookies(s.cookieName())); err != nil {
		return err
	}
	s.setCookie(c, secret)
	return c.Redirect().Status(fiber.StatusSeeOther).To(within(pending.To))
}

// refused sends a browser back to where one signs in, which says why.
func (s *server) refused(c fiber.Ctx, err error) error {
	why := ""
	switch {
	case errors.Is(err, institution.ErrAway):
		why = "away"
	case errors.Is(err, institution.ErrRefused):
		why = "unasked"
	case errors.Is(err, service.ErrNoAccount):
		why = "no_account"
	case errors.Is(err, service.ErrUnverified):
		why = "unverified"
	default:
		return err
	}
	s.log.Warn("sign-in by the institution", "why", why, "error", err)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/studies?refused=" + why)
}
