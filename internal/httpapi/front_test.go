package httpapi

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/valyala/fasthttp"

	"widetally/internal/operations"
	"widetally/internal/service"
)

// The page of each place names what its place needs, its scripts before and its styles behind
// what is painted first, and that of a study asks for its figures at once.
func TestThePageNamesWhatItsPlaceNeeds(t *testing.T) {
	t.Parallel()
	c := newClientWith(t, service.Options{}, func(config *Config) {
		config.Web = fstest.MapFS{
			"index.html":  {Data: []byte(`<html><head><meta content="__NONCE__"></head><body><p>Wide Tally</p></body></html>`)},
			"places.json": {Data: []byte(`{"topline":{"scripts":["assets/t.js"],"styles":["assets/t.css"]},"claims":{"scripts":["assets/c.js"],"styles":[]},"studies":{"scripts":["assets/s.js"],"styles":[]}}`)},
		}
	})
	const figures = `<link rel="preload" as="fetch" crossorigin="anonymous" href="/api/v1/studies/7/topline?from=1&amp;many=60">` +
		`<link rel="preload" as="fetch" crossorigin="anonymous" href="/api/v1/methods">`
	script := func(name string) string { return `<link rel="modulepreload" crossorigin href="/assets/` + name + `">` }
	for address, want := range map[string]string{"/": script("s.js"), "/studies": script("s.js"), "/studies/7": script("t.js") + figures, "/studies/7/claims": script("c.js"), "/studies/x%22%3E": script("t.js"), "/studies/7/nowhere": "", "/elsewhere": ""} {
		res := c.send("GET", address, "")
		require.Equal(t, http.StatusOK, res.StatusCode)
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		head, body, _ := strings.Cut(string(raw), "</head>")
		_, links, _ := strings.Cut(head, `">`)
		assert.Equal(t, want, links, address)
		styles := ""
		if address == "/studies/7" || address == "/studies/x%22%3E" {
			styles = `<link rel="stylesheet" crossorigin href="/assets/t.css">`
		}
		assert.Equal(t, "<body><p>Wide Tally</p>"+styles+"</body></html>", body, address)
	}
}

// Who comes when there is no room is asked politely to come again; the place of who was refused
// is given back.
func TestNoRoom(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	s := &server{words: languages(t).First(), application: &application{Places: c.cases, languages: languages(t), log: slog.New(slog.DiscardHandler)}}
	app := fiber.New(fiber.Config{ErrorHandler: s.fail})
	app.Use(s.room)
	app.Get("/", func(c fiber.Ctx) error { return c.SendString("answered") })
	ask := func() *http.Response {
		res, err := app.Test(httptest.NewRequest("GET", "/", nil))
		require.NoError(t, err)
		return res
	}
	s.asking.Store(mostAtOnceAsked)
	for range 2 {
		res := ask()
		assert.Equal(t, http.StatusServiceUnavailable, res.StatusCode)
		assert.Equal(t, retryAfter, res.Header.Get("Retry-After"))
	}
	assert.Equal(t, int64(mostAtOnceAsked), s.asking.Load())
	s.asking.Store(mostAtOnceAsked - 1)
	assert.Equal(t, http.StatusOK, ask().StatusCode)
	assert.Equal(t, int64(mostAtOnceAsked-1), s.asking.Load())
}

// A page that was asked for before is answered from memory, in either form, until something of
// its study changes, and then tells of it.
func TestPagesAreRememberedUntilAChange(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	ward := c.question(st, "ward")
	small := func() string {
		res := c.send("GET", "/api/v1"+st+"/topline", "", "Accept-Encoding", "br")
		require.Equal(t, "br", res.Header.Get("Content-Encoding"))
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		text, err := fasthttp.AppendUnbrotliBytes(nil, raw)
		require.NoError(t, err)
		return string(text)
	}
	plain := func() string {
		raw, err := io.ReadAll(c.send("GET", "/api/v1"+st+"/topline", "").Body)
		require.NoError(t, err)
		return string(raw)
	}
	first := plain()
	assert.Equal(t, first, plain())
	assert.Equal(t, first, small())
	c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, ward["id"]), `{"wording":"Which ward?"}`, 200, "If-Match", `"1"`)
	assert.Contains(t, plain(), "Which ward?")
	assert.Equal(t, plain(), small())
	c.step(st, "undo", 200)
	assert.NotContains(t, small(), "Which ward?")
	assert.NotEqual(t, first, plain(), "what can be done again is told")
}

// What is answered is counted by the pattern of its address: no number of a study stands in it.
func TestAnswersAreCountedByRoute(t *testing.T) {
	t.Parallel()
	m := operations.New(nil)
	c := newClientWith(t, service.Options{}, func(c *Config) { c.Metrics = m })
	st := c.begin("ward,use\nHarbour,yes\nFenside,no\n")
	c.call("GET", st+"/topline", "", 200)
	c.call("GET", "/studies/99999/topline", "", 404)
	c.send("GET", "/api/v1/nowhere/1234567", "")
	w := httptest.NewRecorder()
	m.Handler(func(context.Context) error { return nil }).ServeHTTP(w, httptest.NewRequest("GET", "/metrics", nil))
	assert.Contains(t, w.Body.String(), `widetally_requests_total{method="GET",route="/api/v1/studies/:study/topline",status="200"} 1`)
	assert.Contains(t, w.Body.String(), `widetally_requests_total{method="GET",route="/api/v1/studies/:study/topline",status="404"} 1`)
	assert.NotContains(t, w.Body.String(), "/1234567")
	assert.NotContains(t, w.Body.String(), "/99999")
}
