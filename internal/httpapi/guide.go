package httpapi

import (
	"bytes"
	"crypto/rand"
	_ "embed"
	"encoding/base64"
	"html/template"
	"sync"

	"github.com/gofiber/fiber/v3"
	"github.com/yuin/goldmark"

	"widetally/docs"
)

//go:embed guide.html
var guidePage string

var guideTemplate = template.Must(template.New("guide").Parse(guidePage))

// guideBody is the page of how-tos as HTML; its pictures stand beside it.
var guideBody = sync.OnceValues(func() (template.HTML, error) {
	var out bytes.Buffer
	page := bytes.ReplaceAll(docs.Guide, []byte("../screenshots/"), []byte("/guide/"))
	err := goldmark.Convert(page, &out)
	return template.HTML(out.String()), err //nolint:gosec // our own page
})

// newNonce is what allows the one style of a page.
func newNonce() (string, error) {
	raw := make([]byte, 16)
	_, err := rand.Read(raw)
	return base64.RawStdEncoding.EncodeToString(raw), err
}

// guide answers with the how-tos.
func (s *server) guide(c fiber.Ctx) error {
	body, err := guideBody()
	if err != nil {
		return err
	}
	nonce, err := newNonce()
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := guideTemplate.Execute(&out, struct {
		Nonce, Title, Back string
		Body               template.HTML
	}{nonce, s.words.Text("guide.title", nil), s.words.Text("guide.back", nil), body}); err != nil {
		return err
	}
	c.Set(fiber.HeaderContentSecurityPolicy, "default-src 'none'; style-src 'nonce-"+nonce+"'; font-src 'self'; img-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
	c.Set(fiber.HeaderContentType, fiber.MIMETextHTMLCharsetUTF8)
	return c.Send(out.Bytes())
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
