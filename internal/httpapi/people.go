package httpapi

import (
	"errors"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/service"
)

// cookieName is that of the token of a session. Over https it is bound to this host alone.
func (s *application) cookieName() string {
	if s.secure() {
		return "__Host-widetally"
	}
	return "widetally"
}

// secure says whether every address at which the application is reached is one of https.
func (s *application) secure() bool {
	for origin := range s.origins {
		if !strings.HasPrefix(origin, "https://") {
			return false
		}
	}
	return len(s.origins) > 0
}

func (s *application) setCookie(c fiber.Ctx, secret string) {
	s.put(c, s.cookieName(), secret, people.LongestTime)
}

// put gives the browser a cookie that no script reads and no other site sends; "" takes it away.
func (s *application) put(c fiber.Ctx, name, value string, last time.Duration) {
	cookie := &fiber.Cookie{Name: name, Value: value, Path: "/", HTTPOnly: true, Secure: s.secure(), SameSite: fiber.CookieSameSiteLaxMode, MaxAge: int(last.Seconds())}
	if value == "" {
		cookie.MaxAge, cookie.Expires = -1, time.Unix(0, 0)
	}
	c.Cookie(cookie)
}

// Origin is an address at which the application is reached, as a browser sends it; false for what is none.
func Origin(text string) (string, bool) {
	u, err := url.Parse(strings.TrimSuffix(text, "/"))
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.Path != "" || u.RawQuery != "" || u.User != nil {
		return "", false
	}
	return strings.ToLower(u.Scheme + "://" + u.Host), true
}

// identify says who sent a request: where people sign in whoever the session is of, and nobody else gets
// further than to the places where one signs in.
func (s *server) identify(c fiber.Ctx) error {
	if !s.signIn {
		return c.Next()
	}
	who, err := s.whoIs(c)
	switch {
	case err == nil && who.Token != nil && !scriptMay(who, c.Method(), c.Path()):
		return study.ErrNotAllowed
	case err == nil:
		who.Address = s.whence(c).Address
		c.SetContext(study.WithActor(c.Context(), who))
		return c.Next()
	case errors.Is(err, service.ErrSignedOut) && who.Via == study.ViaLink:
		if !linkMay(who.Token.Study, c.Method(), c.Path()) {
			return study.ErrNotAllowed
		}
		who.Address = s.whence(c).Address
		c.SetContext(study.WithActor(c.Context(), who))
		return c.Next()
	case errors.Is(err, service.ErrSignedOut) && open(c.Path()):
		c.SetContext(study.WithActor(c.Context(), stranger))
		return c.Next()
	case errors.Is(err, service.ErrSignedOut):
		return &refusal{status: fiber.StatusUnauthorized, code: "signed_out"}
	}
	return err
}

// whoIs is who sent a request: by a token where one is sent, by the session otherwise.
func (s *server) whoIs(c fiber.Ctx) (study.Actor, error) {
	if header := c.Get(fiber.HeaderAuthorization); header != "" {
		secret, _ := strings.CutPrefix(header, "Bearer ")
		return s.People.ByToken(c.Context(), secret)
	}
	account, err := s.People.SignedIn(c.Context(), c.Cookies(s.cookieName()))
	// A link counts where one looks, and where it is asked who does; not where one signs in.
	looks := !open(c.Path()) || c.Path() == "/api/v1/session" && c.Method() == fiber.MethodGet
	if errors.Is(err, service.ErrSignedOut) && looks {
		if l, linked := s.People.ByLink(c.Context(), c.Cookies(s.linkCookie())); linked == nil {
			return l.Actor(), err
		}
	}
	return account.Actor(), err
}

// stranger is who has not signed in: of no account, so that no study lets him in.
var stranger = study.Actor{ID: "stranger", Account: people.NoAccount, Via: study.ViaPage}

// open are the addresses at which somebody who has not signed in gets an answer.
func open(path string) bool {
	return path == "/api/v1/session" || path == institutionPath || strings.HasPrefix(path, "/api/v1/session/passkey") || path == backPath || strings.HasPrefix(path, "/api/v1/invitations/")
}

func (s *server) peopleRoutes(r fiber.Router) {
	s.institutionRoutes(r)
	s.tokenRoutes(r)
	s.linkRoutes(r)
	s.passkeyRoutes(r)
	r.Get("/session", s.to((*server).getSession))
	r.Post("/session", s.to((*server).beginSession))
	r.Delete("/session", s.to((*server).endSession))
	r.Get("/sessions", s.to((*server).listSessions))
	r.Delete("/sessions/:session", s.to((*server).endOther))
	r.Get("/accounts", s.to((*server).listAccounts))
	r.Put("/accounts", s.to((*server).closeAccount))
	r.Put("/account/password", s.to((*server).changePassword))
	r.Post("/invitations", s.to((*server).invite))
	r.Get("/invitations/:token", s.to((*server).getInvitation))
	r.Post("/invitations/:token", s.to((*server).acceptInvitation))
	s.sharingRoutes(r)
}

type accountDTO struct {
	Email         string `json:"email"`
	Name          string `json:"name"`
	Administrator bool   `json:"administrator"`
	// ID is that under which what somebody does is noted.
	ID string `json:"id"`
}

func toAccount(a people.Account) *accountDTO {
	return &accountDTO{a.Email, a.Name, a.Administrator, a.Actor().ID}
}

type sessionDTO struct {
	// SignIn says that people sign in here; where they do not, everybody at this computer is the same.
	SignIn bool `json:"signIn"`
	// Account is whose session it is; null where nobody has signed in.
	Account *accountDTO `json:"account"`
	// Institution is what people call the institution by which one can sign in; "" where there is none.
	Institution string `json:"institution"`
	// Link is the study at which one looks by a link; 0 where there is none.
	Link uint64 `json:"link"`
	// Passkeys says that one can sign in here by a passkey.
	Passkeys bool `json:"passkeys"`
}

func (s *server) toSession(c fiber.Ctx, a *accountDTO) sessionDTO {
	out := sessionDTO{SignIn: s.signIn, Account: a}
	_, out.Passkeys = s.site(c)
	if s.institution != nil {
		out.Institution = s.institution.Name
	}
	return out
}

func (s *server) getSession(c fiber.Ctx) error {
	out := s.toSession(c, nil)
	if who := study.ActorOf(c.Context()); who.Via == study.ViaLink {
		out.Link = who.Token.Study
	}
	if who := study.ActorOf(c.Context()); who.Account > 0 && who.Account != stranger.Account {
		a, err := s.People.SignedIn(c.Context(), c.Cookies(s.cookieName()))
		if err != nil {
			return err
		}
		out.Account = toAccount(a)
	}
	return c.JSON(out)
}

// whence is where a request comes from: what a proxy that is believed says last, since whatever stands before that
// anybody can have written.
func (s *server) whence(c fiber.Ctx) service.From {
	from := service.From{Agent: c.Get(fiber.HeaderUserAgent), Address: c.RequestCtx().RemoteIP().String()}
	if list := c.Get(fiber.HeaderXForwardedFor); s.proxied && c.IsProxyTrusted() && list != "" {
		from.Address = strings.TrimSpace(list[strings.LastIndexByte(list, ',')+1:])
	}
	return from
}

func (s *server) beginSession(c fiber.Ctx) error {
	var body struct {
		Email    string `json:"email"`
		Password string `json:"password"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	secret, account, err := s.People.SignIn(c.Context(), body.Email, body.Password, s.whence(c))
	if err != nil {
		return err
	}
	return s.begun(c, secret, account)
}

// begun gives the browser the session that was begun; one that was there before is not gone on with.
func (s *server) begun(c fiber.Ctx, secret string, account people.Account) error {
	if err := s.People.SignOut(c.Context(), c.Cookies(s.cookieName())); err != nil {
		return err
	}
	s.setCookie(c, secret)
	return c.JSON(s.toSession(c, toAccount(account)))
}

func (s *server) endSession(c fiber.Ctx) error {
	if err := s.People.SignOut(c.Context(), c.Cookies(s.cookieName())); err != nil {
		return err
	}
	s.setCookie(c, "")
	return c.SendStatus(fiber.StatusNoContent)
}

type oneSessionDTO struct {
	ID      string    `json:"id"`
	Agent   string    `json:"agent"`
	Address string    `json:"address"`
	Since   time.Time `json:"since"`
	Seen    time.Time `json:"seen"`
	This    bool      `json:"this"`
}

func (s *server) listSessions(c fiber.Ctx) error {
	all, err := s.People.Sessions(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Sessions []oneSessionDTO `json:"sessions"`
	}{[]oneSessionDTO{}}
	this := s.People.This(c.Cookies(s.cookieName()))
	for _, one := range all {
		out.Sessions = append(out.Sessions, oneSessionDTO{one.Hash, one.Agent, one.Address, one.CreatedAt, one.SeenAt, one.Hash == this})
	}
	return c.JSON(out)
}

func (s *server) endOther(c fiber.Ctx) error {
	if err := s.People.EndSession(c.Context(), c.Params("session")); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) listAccounts(c fiber.Ctx) error {
	all, err := s.People.Accounts(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Accounts []*accountDTO `json:"accounts"`
	}{[]*accountDTO{}}
	for _, a := range all {
		if a.DisabledAt == nil {
			out.Accounts = append(out.Accounts, toAccount(a))
		}
	}
	return c.JSON(out)
}

func (s *server) closeAccount(c fiber.Ctx) error {
	var body struct {
		Email  string `json:"email"`
		Closed bool   `json:"closed"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	if err := s.People.Close(c.Context(), body.Email, body.Closed); err != nil {
		return err
	}
	return s.listAccounts(c)
}

func (s *server) changePassword(c fiber.Ctx) error {
	var body struct {
		Present  string `json:"present"`
		Password string `json:"password"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	secret, err := s.People.ChangePassword(c.Context(), body.Present, body.Password, s.whence(c))
	if err != nil {
		return err
	}
	s.setCookie(c, secret)
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) invite(c fiber.Ctx) error {
	var body struct {
		Email string `json:"email"`
		Name  string `json:"name"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	secret, err := s.People.Invite(c.Context(), body.Email, body.Name)
	if err != nil {
		return err
	}
	return c.Status(fiber.StatusCreated).JSON(fiber.Map{"path": "/invited/" + secret, "until": time.Now().Add(people.InvitedFor)})
}

func (s *server) getInvitation(c fiber.Ctx) error {
	a, err := s.People.Invited(c.Context(), c.Params("token"))
	if err != nil {
		return err
	}
	return c.JSON(toAccount(a))
}

func (s *server) acceptInvitation(c fiber.Ctx) error {
	var body struct {
		Password string `json:"password"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	secret, account, err := s.People.Accept(c.Context(), c.Params("token"), body.Password, s.whence(c))
	if err != nil {
		return err
	}
	s.setCookie(c, secret)
	return c.Status(fiber.StatusCreated).JSON(s.toSession(c, toAccount(account)))
}
