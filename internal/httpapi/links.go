package httpapi

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/export"
)

func (s *server) linkRoutes(r fiber.Router) {
	r.Get("/studies/:study/links", s.to((*server).listLinks))
	r.Post("/studies/:study/links", s.to((*server).addLink))
	r.Delete("/studies/:study/links/:link", s.to((*server).endLink))
}

type linkDTO struct {
	ID      string          `json:"id"`
	Shows   people.LinkKind `json:"shows"`
	By      string          `json:"by"`
	Expires time.Time       `json:"expires"`
	Seen    *time.Time      `json:"seen"`
	Expired bool            `json:"expired"`
}

func (s *server) toLink(l people.Link) linkDTO {
	return linkDTO{l.Hash, l.Shows, s.People.Named(people.ActorID(l.By)), l.ExpiresAt, l.SeenAt, time.Now().After(l.ExpiresAt)}
}

func (s *server) listLinks(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	all, err := s.People.Links(c.Context(), n)
	if err != nil {
		return err
	}
	out := struct {
		Links []linkDTO         `json:"links"`
		Shows []people.LinkKind `json:"shows"`
	}{[]linkDTO{}, people.LinkKinds}
	for _, l := range all {
		out.Links = append(out.Links, s.toLink(l))
	}
	return c.JSON(out)
}

func (s *server) addLink(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in struct {
		Shows people.LinkKind `json:"shows"`
		Days  int             `json:"days"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	secret, l, err := s.People.AddLink(c.Context(), n, in.Shows, in.Days)
	if err != nil {
		return err
	}
	return c.Status(fiber.StatusCreated).JSON(struct {
		linkDTO
		Path string `json:"path"`
	}{s.toLink(l), sharedPath + secret})
}

func (s *server) endLink(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	if err := s.People.EndLink(c.Context(), n, c.Params("link")); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

// sharedPath is where links lead.
const sharedPath = "/shared/"

func (s *application) linkCookie() string { return s.cookieName() + "-link" }

// shared shows what a link shows: the report at once, as a page by itself; the topline by sending the browser
// to it with the link in a cookie, for as long as the browser is open.
func (s *server) shared(c fiber.Ctx) error {
	l, err := s.People.ByLink(c.Context(), c.Params("token"))
	if errors.Is(err, study.ErrNotFound) || !s.signIn {
		c.Status(fiber.StatusNotFound).Set(fiber.HeaderContentType, fiber.MIMETextPlainCharsetUTF8)
		return c.SendString(s.words.Text("ui.people.links.over", nil))
	}
	if err != nil {
		return err
	}
	who := l.Actor()
	who.Address = s.whence(c).Address
	c.SetContext(study.WithActor(c.Context(), who))
	if l.Shows == people.LinkTopline {
		s.put(c, s.linkCookie(), c.Params("token"), time.Until(l.ExpiresAt))
		return c.Redirect().Status(fiber.StatusSeeOther).To(fmt.Sprintf("/studies/%d?read=1", l.StudyID))
	}
	v, err := s.Reports.Report(c.Context(), l.StudyID)
	if err != nil {
		return err
	}
	made, err := s.maker().For(export.HTMLReport).Make(c.Context(), v.Report, s.content(v))
	if err != nil {
		return err
	}
	var page bytes.Buffer
	if err := made.Write(&page, export.HTMLReport); err != nil {
		return err
	}
	c.Set(fiber.HeaderContentSecurityPolicy, "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'; sandbox")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Robots-Tag", "noindex")
	c.Set(fiber.HeaderContentType, fiber.MIMETextHTMLCharsetUTF8)
	return c.Send(page.Bytes())
}

// linkMay says whether somebody who looks by a link gets an answer at an address: where the topline of its study shows
// itself, and nowhere else.
func linkMay(studyID uint64, method, path string) bool {
	if method != fiber.MethodGet {
		return false
	}
	rest, ofStudy := strings.CutPrefix(path, fmt.Sprintf("/api/v1/studies/%d", studyID))
	if !ofStudy {
		return path == "/api/v1/session" || path == "/api/v1/methods" || path == "/api/v1/help" || path == "/api/v1/live" || path == "/api/v1/limits" || strings.HasPrefix(path, "/api/v1/guide")
	}
	place, last := "", rest[strings.LastIndexByte(rest, '/')+1:]
	if parts := strings.Split(rest, "/"); len(parts) > 1 {
		place = parts[1]
	}
	switch place {
	case "", "topline", "design":
		return rest == "" || strings.Count(rest, "/") == 1
	case "questions":
		return last != "table" // which leaves as a file
	case "analyses":
		return strings.Contains(rest, "/charts/")
	}
	return false
}
