package httpapi

import (
	"fmt"
	"io/fs"
	"path"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// fetched names an answer of the API that the page asks for first of all.
const fetched = `<link rel="preload" as="fetch" crossorigin="anonymous" href="/api/v1/%s">`

// nonceMark stands in the built index.html where each answer gets its own nonce.
const nonceMark = "__NONCE__"

func (s *server) frontRoutes(app *fiber.App) {
	app.Get("/assets/:name", s.to((*server).asset))
	for name := range rootFiles {
		app.Get("/"+name, s.to((*server).rootFile))
	}
	app.Get(sharedPath+":token", s.to((*server).shared))
	app.Get("/*", s.to((*server).index))
}

// assetTypes are the media types of what is built.
var assetTypes = map[string]string{".js": "text/javascript; charset=utf-8", ".css": "text/css; charset=utf-8", ".svg": "image/svg+xml", ".woff2": "font/woff2", ".woff": "font/woff", ".ttf": "font/ttf", ".png": "image/png"}

// asset answers with a part of the front end, as it was compressed when it was built where the
// browser takes that. Its name changes with its content, so it is kept for good.
func (s *server) asset(c fiber.Ctx) error {
	name := "assets/" + c.Params("name")
	media := assetTypes[path.Ext(name)]
	if media == "" {
		return fiber.ErrNotFound
	}
	small, err := fs.ReadFile(s.web, name+".br")
	compressed := err == nil && acceptsBrotli(c.Get(fiber.HeaderAcceptEncoding))
	raw := small
	if !compressed {
		if raw, err = fs.ReadFile(s.web, name); err != nil {
			return fiber.ErrNotFound
		}
	}
	c.Set(fiber.HeaderContentType, media)
	c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable")
	c.Set(fiber.HeaderVary, fiber.HeaderAcceptEncoding)
	if compressed {
		c.Set(fiber.HeaderContentEncoding, "br")
	}
	return c.Send(raw)
}

func acceptsBrotli(header string) bool {
	for _, one := range strings.Split(header, ",") {
		coding, weight, _ := strings.Cut(strings.TrimSpace(one), ";")
		if strings.TrimSpace(coding) == "br" && strings.ReplaceAll(weight, " ", "") != "q=0" {
			return true
		}
	}
	return false
}

// rootFiles are what a browser asks for by a fixed name, to show the application among others and to
// install it, with their media types.
var rootFiles = map[string]string{
	"icon.svg":             "image/svg+xml",
	"icon-192.png":         "image/png",
	"icon-512.png":         "image/png",
	"manifest.webmanifest": "application/manifest+json",
}

func (s *server) rootFile(c fiber.Ctx) error {
	name := strings.TrimPrefix(c.Path(), "/")
	raw, err := fs.ReadFile(s.web, name)
	if err != nil {
		return fiber.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, rootFiles[name])
	c.Set(fiber.HeaderCacheControl, "public, max-age=3600")
	return c.Send(raw)
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
	nonce, err := newNonce()
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentSecurityPolicy, "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-"+nonce+"'; font-src 'self'; img-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set(fiber.HeaderContentType, fiber.MIMETextHTMLCharsetUTF8)
	text := strings.ReplaceAll(string(page), nonceMark, nonce)
	if needed := s.places[placeOf(c.Path())]; needed != nil {
		text = needed.Replace(text)
	}
	if s.signIn { // the page asks who it is before it shows anything
		text = strings.Replace(text, scriptsMark, `<meta name="sign-in" content="yes">`+scriptsMark, 1)
	}
	// Only a number goes from the address into the page.
	if study, err := strconv.ParseUint(path.Base(c.Path()), 10, 63); err == nil && placeOf(c.Path()) == "topline" {
		soon := fmt.Sprintf(fetched, fmt.Sprintf("studies/%d/topline?from=1&amp;many=60", study)) + fmt.Sprintf(fetched, "methods")
		text = strings.Replace(text, scriptsMark, soon+scriptsMark, 1)
	}
	return c.SendString(text)
}
