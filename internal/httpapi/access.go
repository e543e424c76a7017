package httpapi

import (
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
)

// admitted looks whether who asks has the access to a study that an address takes, before anything else of the
// request is read. The use cases ask once more.
func (s *server) admitted(c fiber.Ctx) error {
	if !s.signIn {
		return c.Next()
	}
	parts := strings.Split(strings.TrimPrefix(c.Path(), "/api/v1/studies/"), "/")
	n, err := strconv.ParseUint(parts[0], 10, 63)
	if err != nil {
		return c.Next() // a shelf's address, or one that names no study
	}
	if err := s.People.May(c.Context(), n, accessOf(c.Method(), parts[1:])); err != nil {
		return err
	}
	switch {
	case study.ActorOf(c.Context()).Via == study.ViaLink:
		c.Locals(sightKey{}, byLink)
	case s.People.May(c.Context(), n, study.ToChange) == nil:
	case s.People.May(c.Context(), n, study.ToAsk) == nil:
		c.Locals(sightKey{}, noChanges)
	default:
		c.Locals(sightKey{}, noAnswers)
	}
	return c.Next()
}

type sightKey struct{}

// accessOf is the access that an address of a study takes; rest are its parts behind the study. What nobody
// thought of takes the widest that a change can.
func accessOf(method string, rest []string) study.Access {
	place, last := "", ""
	if len(rest) > 0 {
		place, last = rest[0], rest[len(rest)-1]
	}
	reads := method == fiber.MethodGet || method == fiber.MethodHead
	switch {
	case place == "trail", place == "links":
		return study.ToOwn
	case reads && (place == "responses" || place == "files" || place == "file"):
		return study.ToSeeAnswers
	case place == "microdata":
		return study.ToChange
	case reads, place == "here", place == "remarks", last == "count" && place == "subgroups", last == "check" && place == "analyses", last == "shares" && place == "questions":
		return study.ToSee
	case place == "", place == "restore" && method == fiber.MethodPost, place == "members", place == "links":
		if method == fiber.MethodPatch {
			return study.ToChange // its name, its units
		}
		return study.ToOwn
	case place == "analyses", place == "claims", place == "report", place == "books", place == "banners", place == "nets", place == "undo", place == "redo", last == "shelf" && place == "questions":
		return study.ToAsk
	}
	return study.ToChange
}
