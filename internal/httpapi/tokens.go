package httpapi

import (
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/people"
	"widetally/core/study"
)

func (s *server) tokenRoutes(r fiber.Router) {
	r.Get("/tokens", s.to((*server).listTokens))
	r.Post("/tokens", s.to((*server).addToken))
	r.Delete("/tokens/:token", s.to((*server).endToken))
}

type tokenDTO struct {
	ID      string            `json:"id"`
	Name    string            `json:"name"`
	Scope   people.TokenScope `json:"scope"`
	Study   uint64            `json:"study"`
	Expires time.Time         `json:"expires"`
	Seen    *time.Time        `json:"seen"`
	Expired bool              `json:"expired"`
}

func toToken(t people.Token) tokenDTO {
	return tokenDTO{t.Hash, t.Name, t.Scope, t.Study, t.ExpiresAt, t.SeenAt, time.Now().After(t.ExpiresAt)}
}

func (s *server) listTokens(c fiber.Ctx) error {
	all, err := s.People.Tokens(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Tokens []tokenDTO          `json:"tokens"`
		Scopes []people.TokenScope `json:"scopes"`
	}{[]tokenDTO{}, people.TokenScopes}
	for _, t := range all {
		out.Tokens = append(out.Tokens, toToken(t))
	}
	return c.JSON(out)
}

func (s *server) addToken(c fiber.Ctx) error {
	var in struct {
		Name  string            `json:"name"`
		Scope people.TokenScope `json:"scope"`
		// Study is the only one for which it serves; 0 for all.
		Study uint64 `json:"study"`
		Days  int    `json:"days"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	secret, t, err := s.People.AddToken(c.Context(), in.Name, in.Scope, in.Study, in.Days)
	if err != nil {
		return err
	}
	return c.Status(fiber.StatusCreated).JSON(struct {
		tokenDTO
		Secret string `json:"secret"`
	}{toToken(t), secret})
}

func (s *server) endToken(c fiber.Ctx) error {
	if err := s.People.EndToken(c.Context(), c.Params("token")); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

// ownPlaces are those in which people look after themselves and each other; scripts have no part in them.
var ownPlaces = []string{"session", "sessions", "account", "accounts", "invitations", "tokens", "trail", "live", "passkeys", "groups"}

// scriptMay says whether a script may come to an address at all. Of a study the use cases ask once more.
func scriptMay(who study.Actor, method, path string) bool {
	parts := strings.Split(strings.TrimPrefix(path, "/api/v1/"), "/")
	reads := method == fiber.MethodGet || method == fiber.MethodHead
	switch {
	case slices.Contains(ownPlaces, parts[0]):
		return false
	case parts[0] == "studies" && len(parts) > 1 && parts[1] != "open":
		return true // by the access that the address takes
	case reads, parts[0] == "compute", parts[0] == "analyses" && (len(parts) == 1 || len(parts) == 2 && parts[1] == "quick"), strings.HasSuffix(path, "/fit"):
		return true
	case parts[0] == "arrivals":
		return slices.Contains(who.Token.May, study.ToChange)
	}
	// What makes a study or changes the shelf of shares is of no single study.
	return who.Token.Study == 0 && slices.Contains(who.Token.May, study.ToChange)
}
