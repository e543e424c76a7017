package httpapi

import (
	"crypto/rand"
	"encoding/base64"
	"sync"

	"github.com/gofiber/fiber/v3"

	"widetally/docs"
	"widetally/internal/help"
)

// howTos are the pages of the guide.
var howTos = sync.OnceValue(func() []help.HowTo { return help.HowTos(docs.Guide) })

// getGuide answers with the how-tos.
func (s *server) getGuide(c fiber.Ctx) error {
	return c.JSON(struct {
		Pages []help.HowTo `json:"pages"`
	}{howTos()})
}

// guidePicture answers with a picture of the guide.
func (s *server) guidePicture(c fiber.Ctx) error {
	raw, err := docs.Pictures.ReadFile("screenshots/" + c.Params("picture"))
	if err != nil {
		return fiber.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, "image/png")
	c.Set(fiber.HeaderCacheControl, "public, max-age=3600")
	return c.Send(raw)
}

// newNonce is what allows the styles of a page.
func newNonce() (string, error) {
	raw := make([]byte, 16)
	_, err := rand.Read(raw)
	return base64.RawStdEncoding.EncodeToString(raw), err
}
