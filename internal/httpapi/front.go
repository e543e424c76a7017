package httpapi

import (
	"bytes"
	"crypto/rand"
	"encoding/base64"
	"io/fs"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/static"
)

// nonceMark stands in the built index.html where each answer gets its own nonce.
const nonceMark = "__NONCE__"

func (s *server) frontRoutes(app *fiber.App) {
	assets, err := fs.Sub(s.web, "assets")
	if err != nil {
		panic("httpapi: " + err.Error()) // the name of the folder is a constant
	}
	app.Get("/assets/*", static.New("", static.Config{FS: assets, MaxAge: 31536000}))
	app.Get("/icon.svg", s.icon)
	app.Get("/*", s.index)
}

func (s *server) icon(c fiber.Ctx) error {
	icon, err := fs.ReadFile(s.web, "icon.svg")
	if err != nil {
		return fiber.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, "image/svg+xml")
	c.Set(fiber.HeaderCacheControl, "public, max-age=3600")
	return c.Send(icon)
}

// index answers every address of the application with its one page.
func (s *server) index(c fiber.Ctx) error {
	if strings.Contains(c.Path()[strings.LastIndexByte(c.Path(), '/'):], ".") {
		return fiber.ErrNotFound
	}
	page, err := fs.ReadFile(s.web, "index.html")
	if err != nil {
		return err
	}
	raw := make([]byte, 16)
	if _, err := rand.Read(raw); err != nil {
		return err
	}
	nonce := base64.RawStdEncoding.EncodeToString(raw)
	c.Set(fiber.HeaderContentSecurityPolicy, "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-"+nonce+"'; font-src 'self'; img-src 'self' data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set(fiber.HeaderContentType, fiber.MIMETextHTMLCharsetUTF8)
	return c.Send(bytes.ReplaceAll(page, []byte(nonceMark), []byte(nonce)))
}
