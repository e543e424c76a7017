// Package httpapi is the HTTP face of the use cases: routes, handlers, problem
// details, and the front end. It holds no rule of the job.
package httpapi

import (
	"context"
	"io/fs"
	"log/slog"
	"net"
	"net/url"
	"runtime/debug"
	"strings"
	"sync/atomic"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/requestid"
	"golang.org/x/sync/semaphore"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/internal/cache"
	"widetally/internal/chart"
	"widetally/internal/i18n"
	"widetally/internal/institution"
	"widetally/internal/operations"
	"widetally/internal/service"
)

// Bounds of every request.
const (
	maxBody       = 1 << 20 // of JSON; files are streamed and bounded by the use case
	requestTime   = 60 * time.Second
	fileTime      = 10 * time.Minute
	headerBytes   = 16 << 10
	maxConcurrent = 2048 // connections, which may wait for their next request
	answerBytes   = 64 << 20
)

// Config says what the server needs.
type Config struct {
	Places *service.Places
	// Words are the languages in which answers are given.
	Words *i18n.Languages
	// Web holds the built front end.
	Web fs.FS
	// Charts is the module that draws charts without a browser.
	Charts string
	// Hosts are further host names under which the application may be reached;
	// loopback names always are.
	Hosts []string
	// Proxies are the addresses of those that pass requests on and say from whom; nobody else is believed.
	Proxies []string
	// Origins are the addresses at which the application is reached by others, such as
	// https://tally.example; where there are any, people sign in, and it is reached under these alone.
	Origins []string
	// Metrics count what is answered; nil where nobody reads them.
	Metrics *operations.Metrics
	// Institution signs people in; nil where none does.
	Institution *institution.Institution
	// AnswerBytes bounds the answers kept in memory; 0 means 64 MB.
	AnswerBytes int
	// Patience is how long a connection may stand still; 0 means 30 seconds.
	Patience time.Duration
	Log      *slog.Logger
}

// server answers requests in one language; in gives that of a request.
type server struct {
	*application
	words *i18n.Catalogue
	sight sight
}

// sight is how much of a study somebody sees who may see it, and what is offered there.
type sight int

const (
	everything sight = iota
	noChanges        // what is asked, and no changes of answers and codebook
	noAnswers        // what is counted: no single answers, nothing asked
	byLink           // and not who works on it
)

// application is what all requests share.
type application struct {
	*service.Places
	languages *i18n.Languages
	web       fs.FS
	// places holds what of the front end each place of the application needs.
	places map[string]*strings.Replacer
	hosts  map[string]bool
	// origins are those at which people sign in, signIn whether they do.
	origins     map[string]bool
	signIn      bool
	institution *institution.Institution
	proxied     bool // by proxies that are believed
	log         *slog.Logger
	metrics     *operations.Metrics
	// patience is how long a connection may stand still.
	patience time.Duration
	heavy    *semaphore.Weighted // the computations that go on, at most heavyAtOnce
	pages    *semaphore.Weighted // the pages that are sent, at most heavyAtOnce
	charts   *chart.Drawer
	// rendered holds questions as they were sent. A view never changes, so what was said of
	// it stays right as long as it is asked for. answers holds whole answers.
	rendered *cache.Cache[renderedAs, part]
	answers  *cache.Cache[answeredAs, *answered]
	asking   atomic.Int64 // the requests that are worked on
}

// New builds the application.
func New(c Config) *fiber.App {
	s := &server{words: c.Words.First(), application: &application{Places: c.Places, languages: c.Words, web: c.Web, places: placesOf(c.Web), hosts: map[string]bool{"localhost": true, "127.0.0.1": true, "::1": true}, log: c.Log, charts: chart.New(c.Charts), heavy: semaphore.NewWeighted(heavyAtOnce), pages: semaphore.NewWeighted(heavyAtOnce)}}
	if c.AnswerBytes == 0 {
		c.AnswerBytes = answerBytes
	}
	s.rendered, s.answers = cache.New[renderedAs, part](c.AnswerBytes/2), cache.New[answeredAs, *answered](c.AnswerBytes/2)
	if s.patience = c.Patience; s.patience == 0 {
		s.patience = defaultPatience
	}
	for _, h := range c.Hosts {
		s.hosts[strings.ToLower(h)] = true
	}
	s.origins, s.proxied = map[string]bool{}, len(c.Proxies) > 0
	s.institution, s.metrics = c.Institution, c.Metrics
	for _, text := range c.Origins {
		if at, ok := Origin(text); ok {
			s.origins[at], s.signIn = true, true
		}
	}
	app := fiber.New(fiber.Config{
		AppName: "Wide Tally", ErrorHandler: s.fail, BodyLimit: maxBody, StreamRequestBody: true, StrictRouting: true, CaseSensitive: true,
		TrustProxy: len(c.Proxies) > 0, TrustProxyConfig: fiber.TrustProxyConfig{Proxies: c.Proxies},
		ReadTimeout: s.patience, WriteTimeout: s.patience, IdleTimeout: s.patience, ReadBufferSize: headerBytes, Concurrency: maxConcurrent, Immutable: true,
	})
	app.Use(requestid.New(), s.logged, recover.New(recover.Config{EnableStackTrace: true, StackTraceHandler: s.panicked}))
	app.Use(helmet.New(helmet.Config{ContentTypeNosniff: "nosniff", XFrameOptions: "DENY", ReferrerPolicy: "no-referrer",
		CrossOriginOpenerPolicy: "same-origin", CrossOriginResourcePolicy: "same-origin", CrossOriginEmbedderPolicy: "require-corp"}))
	app.Use(s.guard, s.room, bounded, compress.New(compress.Config{Level: compress.LevelBestSpeed, Next: asTheyAre}))
	api := app.Group("/api/v1", uncached, s.identify, s.admitted, revised)
	s.peopleRoutes(api)
	s.trailRoutes(api)
	s.liveRoutes(api)
	s.remarkRoutes(api)
	s.studyRoutes(api)
	s.arrivalRoutes(api)
	s.questionRoutes(api)
	s.analysisRoutes(api)
	s.checkRoutes(api)
	s.codebookRoutes(api)
	s.designRoutes(api)
	s.derivedRoutes(api)
	s.computeRoutes(api)
	s.sharesRoutes(api)
	s.reportRoutes(api)
	s.bookRoutes(api)
	s.disclosureRoutes(api)
	s.waveRoutes(api)
	api.Use(func(fiber.Ctx) error { return fiber.ErrNotFound })
	s.frontRoutes(app)
	app.Hooks().OnPreShutdown(func() error { s.Live.Close(); return nil })
	return app
}

// in is the server in the language of a request.
func (s *server) in(c fiber.Ctx) *server {
	seen, _ := c.Locals(sightKey{}).(sight)
	return &server{s.application, s.languages.For(c.Get(fiber.HeaderAcceptLanguage)), seen}
}

// to answers with a method of the server in the language of the request.
func (s *server) to(answer func(s *server, c fiber.Ctx) error) fiber.Handler {
	return func(c fiber.Ctx) error { return answer(s.in(c), c) }
}

// say says a message in the language of the answers.
func (s *server) say(m document.Message) string { return s.words.Say(m) }

// guard refuses requests that reach the server under a foreign name (DNS
// rebinding) and changes that a foreign page asks for.
func (s *server) guard(c fiber.Ctx) error {
	host := c.Host()
	if s.secure() {
		c.Set(fiber.HeaderStrictTransportSecurity, "max-age=63072000")
	}
	if s.signIn {
		return s.guardOrigins(c, host)
	}
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	if !s.hosts[strings.ToLower(strings.Trim(name, "[]"))] {
		return &refusal{status: fiber.StatusForbidden, code: "foreign"}
	}
	if c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead {
		return c.Next()
	}
	if origin := c.Get(fiber.HeaderOrigin); origin != "" {
		if u, err := url.Parse(origin); err != nil || u.Host != host {
			return &refusal{status: fiber.StatusForbidden, code: "foreign"}
		}
	} else if site := c.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return &refusal{status: fiber.StatusForbidden, code: "foreign"}
	}
	return c.Next()
}

// guardOrigins is guard where the addresses at which the application is reached are known: a request comes to one
// of them, and a change from a page of one of them.
func (s *server) guardOrigins(c fiber.Ctx, host string) error {
	known := s.origins["https://"+strings.ToLower(host)] || s.origins["http://"+strings.ToLower(host)]
	sent, site := c.Get(fiber.HeaderOrigin), c.Get("Sec-Fetch-Site")
	reads := c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead
	if !known || sent != "" && !s.origins[strings.ToLower(sent)] && !reads || sent == "" && !reads && site != "" && site != "same-origin" && site != "none" {
		return &refusal{status: fiber.StatusForbidden, code: "foreign"}
	}
	return c.Next()
}

// asTheyAre tells the answers that are not compressed: those that must go out as they come, and
// those that are small already.
func asTheyAre(c fiber.Ctx) bool {
	return strings.HasSuffix(c.Path(), "/progress") || c.Path() == "/api/v1/live" || strings.HasPrefix(c.Path(), "/assets/") || strings.Contains(c.Path(), "/guide/pictures/")
}

// bounded gives each request a limited time, and ends it when its client has gone.
func bounded(c fiber.Ctx) error {
	limit := requestTime
	if c.Method() == fiber.MethodPost && (strings.HasPrefix(c.Path(), "/api/v1/arrivals") || c.Path() == "/api/v1/studies" || c.Path() == "/api/v1/studies/open" || strings.HasSuffix(c.Path(), "/refresh")) {
		limit = fileTime
	}
	if c.Method() == fiber.MethodGet && strings.HasSuffix(c.Path(), "/file") {
		limit = fileTime // what leaves whole
	}
	ctx, cancel := context.WithTimeout(c.Context(), limit)
	defer cancel()
	ctx, done := untilGone(ctx, c.RequestCtx().Conn())
	defer done()
	c.SetContext(study.WithActor(study.WithKept(ctx), study.Actor{ID: study.ThisComputer, Via: study.ViaPage}))
	return c.Next()
}

// uncached keeps answers of the API out of every cache.
func uncached(c fiber.Ctx) error {
	c.Set(fiber.HeaderCacheControl, "no-store")
	return c.Next()
}

// logged writes one line a request: no query, no body, no answers.
func (s *server) logged(c fiber.Ctx) error {
	start := time.Now()
	err := c.Next()
	if err != nil {
		if err = s.fail(c, err); err != nil {
			return err
		}
	}
	s.metrics.Answered(c.Route().Path, c.Method(), c.Response().StatusCode(), time.Since(start))
	if strings.HasPrefix(c.Path(), "/api/") {
		s.log.Info("request", "method", c.Method(), "path", c.Path(), "status", c.Response().StatusCode(), "ms", time.Since(start).Milliseconds(), "by", study.ActorOf(c.Context()).ID, "id", requestid.FromContext(c))
	}
	return nil
}

func (s *server) panicked(c fiber.Ctx, e any) {
	s.log.Error("panic", "id", requestid.FromContext(c), "path", c.Path(), "what", e, "stack", string(debug.Stack()))
}
