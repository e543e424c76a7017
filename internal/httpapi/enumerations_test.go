package httpapi

import (
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"testing/fstest"

	"github.com/go-sql-driver/mysql"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/methods"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/store"
)

// Where the description lists what may stand, nothing else is taken on any way in, and the study
// is as it was.
func TestNothingStandsThatNoListHas(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("h.csv", household, nil, "[]")
	q := c.question(st, "ward")
	path, id, version := fmt.Sprintf("%s/questions/%v", st, q["id"]), q["id"], fmt.Sprintf(`"%v"`, q["version"])
	arrival, settings := c.arrival("i.csv", household, nil)
	with := func(member string) string {
		var s object
		require.NoError(t, json.Unmarshal([]byte(settings), &s))
		s[member] = "zzz"
		raw, err := json.Marshal(s)
		require.NoError(t, err)
		return string(raw)
	}
	claim := statement(q, "0.05", figures(q, map[string]string{"Harbour": "60", "Fenside": "30", "Harbor": "10"}))
	set := `{"title":"t","kind":"register","scale":"percents","answers":[{"label":"a","figure":"60"},{"label":"b","figure":"40"}]}`
	before := c.shown(st + "/topline")
	for what, k := range map[string]struct{ method, path, body string }{
		"the kind of a question":         {"PATCH", path, `{"kind":"zzz"}`},
		"the kind of many":               {"PATCH", st + "/codebook", fmt.Sprintf(`{"questions":[{"id":%v,"version":%v}],"kind":"zzz"}`, id, q["version"])},
		"the kind of a column":           {"POST", "/arrivals/" + arrival + "/look", fmt.Sprintf(`{"settings":%s,"columns":[{"column":1,"kind":"zzz"}]}`, settings)},
		"the kind of a column, kept":     {"POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"a","units":"b","columns":[{"column":1,"kind":"zzz"}]}`, arrival, settings)},
		"the format of a file":           {"POST", "/arrivals/" + arrival + "/look", fmt.Sprintf(`{"settings":%s}`, with("format"))},
		"its encoding":                   {"POST", "/arrivals/" + arrival + "/look", fmt.Sprintf(`{"settings":%s}`, with("encoding"))},
		"its format, kept":               {"POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"a","units":"b"}`, arrival, with("format"))},
		"its shape, kept":                {"POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"a","units":"b"}`, arrival, with("shape"))},
		"its delimiter":                  {"POST", "/arrivals/" + arrival + "/look", fmt.Sprintf(`{"settings":%s}`, with("delimiter"))},
		"its shape":                      {"POST", "/arrivals/" + arrival + "/look", fmt.Sprintf(`{"settings":%s}`, with("shape"))},
		"the rule of a derived question": {"POST", st + "/questions", fmt.Sprintf(`{"wording":"x","derivation":{"rule":"zzz","sources":[%v]}}`, id)},
		"a cut":                          {"POST", st + "/questions", fmt.Sprintf(`{"wording":"x","derivation":{"rule":"bands","cut":"zzz","number":3,"sources":[%v]}}`, c.question(st, "size")["id"])},
		"a condition":                    {"POST", st + "/subgroups", fmt.Sprintf(`{"name":"g","condition":{"op":"zzz","question":%v,"answers":[1]}}`, id)},
		"a condition that is counted":    {"POST", st + "/subgroups/count", fmt.Sprintf(`{"condition":{"op":"zzz","question":%v,"answers":[1]}}`, id)},
		"a base":                         {"PATCH", path, fmt.Sprintf(`{"base":{"op":"zzz","question":%v,"answers":[1]}}`, id)},
		"a scale":                        {"POST", path + "/shares", `{"scale":"zzz","rescale":false}`},
		"the scale of a claim":           {"POST", st + "/analyses", strings.Replace(claim, `"percents"`, `"zzz"`, 1)},
		"a role":                         {"POST", st + "/analyses", strings.Replace(claim, `"role":"null"`, `"role":"zzz"`, 1)},
		"an adjustment":                  {"PUT", st + "/claims/adjustment", `{"adjustment":"zzz"}`},
		"the kind of a source":           {"POST", "/shares", strings.Replace(set, "register", "zzz", 1)},
		"the scale of a source":          {"POST", "/shares", strings.Replace(set, "percents", "zzz", 1)},
		"a form of the codebook":         {"GET", st + "/codebook/file?format=zzz", ""},
		"a form of the report":           {"GET", st + "/report/file?form=zzz", ""},
		"a base of a table":              {"GET", path + "/table?form=csv&base=zzz", ""},
		"a form of a table":              {"GET", path + "/table?form=zzz", ""},
		"labels or codes":                {"GET", st + "/responses?labels=zzz", ""},
		"the name of a distribution":     {"POST", "/compute/distribution", `{"name":"zzz","df":1,"x":1}`},
		"the scale of a computation":     {"POST", "/compute/goodness-of-fit", `{"observed":[1,2],"shares":[1,1],"scale":"zzz"}`},
	} {
		t.Run(what, func(t *testing.T) {
			require.NotEqual(t, "", k.path)
			require.True(t, k.body == "" || strings.Contains(k.body, "zzz") || strings.Contains(k.path, "zzz"), k.body)
			res := c.send(k.method, "/api/v1"+k.path, k.body, "If-Match", version)
			raw, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			if strings.HasSuffix(k.path, "/look") && res.StatusCode == 200 { // what cannot be read is no error there
				assert.Contains(t, string(raw), `"code":"bad_settings"`)
				return
			}
			assert.True(t, res.StatusCode >= 400 && res.StatusCode < 500, "%d %s", res.StatusCode, raw)
			if k.method == "GET" {
				return
			}
			var said struct{ Code string }
			require.NoError(t, json.Unmarshal(raw, &said))
			assert.NotContains(t, []string{"http.not_found", "http.method", "http.no_version", "http.stale"}, said.Code, "refused for what stands there")
		})
	}
	assert.Equal(t, before, c.shown(st+"/topline"))
}

// A database that is gone is told at once, with the time to come again, and the application goes
// on when it is back.
func TestTheDatabaseIsGone(t *testing.T) {
	t.Parallel()
	config, err := mysql.ParseDSN(mariadbtest.Database(t))
	require.NoError(t, err)
	between := &proxy{to: config.Addr}
	between.open(t)
	config.Addr = between.at
	s, err := store.Open(t.Context(), config.FormatDSN())
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	w, err := i18n.Load("en")
	require.NoError(t, err)
	cases, err := service.New(s, w, methods.All(), service.Options{ArrivalsDir: t.TempDir()})
	require.NoError(t, err)
	app := New(Config{Words: languages(t), Places: cases, Web: fstest.MapFS{"index.html": {}}, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	ask := func() *http.Response {
		r := httptest.NewRequest("GET", "/api/v1/studies", nil)
		r.Host = "localhost:8420"
		res, err := app.Test(r, fiber.TestConfig{})
		require.NoError(t, err)
		return res
	}
	require.Equal(t, 200, ask().StatusCode)
	between.close()
	for range 3 {
		res := ask()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		assert.Equal(t, 503, res.StatusCode, string(raw))
		assert.NotEmpty(t, res.Header.Get("Retry-After"))
		assert.Contains(t, string(raw), "http.database_gone")
	}
	between.open(t)
	assert.Equal(t, 200, ask().StatusCode)
}

// proxy passes connections on to a server, until it is closed.
type proxy struct {
	to, at   string
	listener net.Listener
	mu       sync.Mutex
	conns    []net.Conn
}

func (p *proxy) open(t *testing.T) {
	listener, err := net.Listen("tcp", cmp.Or(p.at, "127.0.0.1:0"))
	require.NoError(t, err)
	p.listener, p.at = listener, listener.Addr().String()
	t.Cleanup(p.close)
	go func() {
		for {
			in, err := listener.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("tcp", p.to)
			if err != nil {
				in.Close()
				continue
			}
			p.mu.Lock()
			p.conns = append(p.conns, in, out)
			p.mu.Unlock()
			go func() { _, _ = io.Copy(out, in); out.Close() }()
			go func() { _, _ = io.Copy(in, out); in.Close() }()
		}
	}()
}

func (p *proxy) close() {
	p.listener.Close()
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, c := range p.conns {
		c.Close()
	}
	p.conns = nil
}
