package e2e

import (
	"context"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"widetally/core/methods"
	"widetally/e2e/browser"
	"widetally/internal/httpapi"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/store"
	"widetally/web"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

// A wait is for something on the screen, however long that takes: what bounds it is the time for
// the whole test.
var bound = flag.Duration("bound", 5*time.Minute, "how long a test may take in a browser")

// chromium is the one browser of all tests, each of which has a profile of its own in it. It
// ends with the room of the tests.
var chromium = sync.OnceValues(func() (context.Context, error) {
	ctx, _ := browser.New(context.Background())
	return ctx, chromedp.Do(ctx, chromedp.Navigate("about:blank"))
})

// serve starts the built application on a database and returns its address, the
// use cases behind it and what stops it, at the end of the test at the latest. The page that
// the test has open leaves before, so that it does not ask a server that has gone.
func serve(t testing.TB, dsn string) (address string, cases *service.Places, stop func()) {
	t.Helper()
	return serveWith(t, dsn, service.Options{}, web.Files())
}

// serveWith does so with a statistics office, and with a front end that may be another.
func serveWith(t testing.TB, dsn string, opt service.Options, front fs.FS) (address string, cases *service.Places, stop func()) {
	t.Helper()
	return serveTo(t, dsn, opt, front, func(string, *httpapi.Config) {})
}

// serveTo does so where people sign in; how they do follows from the address.
func serveTo(t testing.TB, dsn string, opt service.Options, front fs.FS, reach func(address string, c *httpapi.Config)) (address string, cases *service.Places, stop func()) {
	t.Helper()
	s, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	languages, err := i18n.LoadAll("")
	require.NoError(t, err)
	opt.ArrivalsDir = t.TempDir()
	cases, err = service.New(s, languages.First(), methods.All(), opt)
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	config := httpapi.Config{Places: cases, Words: languages, Web: front, Charts: web.Charts(), Log: slog.New(slog.NewTextHandler(io.Discard, nil))}
	reach(listener.Addr().String(), &config)
	app := httpapi.New(config)
	go func() { _ = app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	stop = sync.OnceFunc(func() {
		if p, there := opened.Load(t.Name()); there && !t.Failed() {
			p.(*page).leave()
		}
		_ = app.ShutdownWithTimeout(3 * time.Second)
		s.Close()
	})
	t.Cleanup(stop)
	return "http://" + listener.Addr().String(), cases, stop
}

// opened holds the page that a test has open, under the test's name.
var opened sync.Map

// page is a browser tab, used as a person would: by what is on the screen.
type page struct {
	t       *testing.T
	ctx     context.Context // within the bound
	tab     context.Context
	mu      sync.Mutex
	console []string
}

// open opens a tab; the test fails at its end if the page wrote an error to
// the console, which is where a broken content-security policy shows.
func open(t *testing.T) *page {
	t.Helper()
	started, err := chromium()
	require.NoError(t, err)
	tab, stop := browser.Tab(started)
	require.NoError(t, chromedp.Do(tab, chromedp.EmulateViewport(1280, 800)))
	ctx, cancel := context.WithTimeout(tab, *bound)
	p := &page{t: t, ctx: ctx, tab: tab}
	// Nothing moves that need not, and each tab is as if it were the one in front.
	_, err = chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}})
	require.NoError(t, err)
	_, err = chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	go func() {
		for m, err := range chromedp.Console(ctx) {
			if err != nil {
				return
			}
			if text := fmt.Sprint(m); strings.HasPrefix(text, "error") {
				p.mu.Lock()
				p.console = append(p.console, text)
				p.mu.Unlock()
			}
		}
	}()
	opened.Store(t.Name(), p)
	t.Cleanup(func() {
		opened.Delete(t.Name())
		p.mu.Lock()
		errors := p.console
		p.mu.Unlock()
		if t.Failed() {
			p.keepPicture()
		}
		cancel()
		stop()
		require.Empty(t, errors, "errors in the console")
	})
	return p
}

// forgive passes over what the browser itself writes about a refusal that is expected, which may come a moment
// after the refusal itself was seen.
func (p *page) forgive(status int) {
	text := fmt.Sprintf("status of %d", status)
	for range 40 {
		p.mu.Lock()
		there := slices.ContainsFunc(p.console, func(said string) bool { return strings.Contains(said, text) })
		p.mu.Unlock()
		if there {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	p.forgiveTexts(text)
}

func (p *page) forgiveTexts(texts ...string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.console = slices.DeleteFunc(p.console, func(said string) bool {
		return slices.ContainsFunc(texts, func(text string) bool { return strings.Contains(said, text) })
	})
}

// keepPicture leaves what a failed test last saw in the folder for what is built.
func (p *page) keepPicture() {
	if picture, err := chromedp.Run(p.late(), chromedp.CaptureScreenshot()); err == nil {
		file := filepath.Join("..", "build", "failed", strings.ReplaceAll(p.t.Name(), "/", " ")+".png")
		_ = os.MkdirAll(filepath.Dir(file), 0o755)
		_ = os.WriteFile(file, picture, 0o600)
		p.t.Logf("the page as it was: %s", file)
	}
}

func (p *page) do(what string, a chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Do(p.ctx, a), what)
}

// leave closes what the page shows.
func (p *page) leave() { p.do("leave", chromedp.Navigate("about:blank")) }

func (p *page) visit(url string) {
	p.t.Helper()
	p.do(url, chromedp.Navigate(url))
	p.await(url, `document.getElementById('page') !== null`)
}
