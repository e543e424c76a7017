package httpapi

import (
	"context"
	"fmt"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/service"
)

// There is one place that lets people in to a study: where it refuses, no address tells anything
// of the study, what was remembered included, and none changes it.
func TestNobodyPassesWhoIsNotLetIn(t *testing.T) {
	t.Parallel()
	var closed atomic.Value
	closed.Store(study.Access(""))
	var asked atomic.Int64
	c := newClient(t, service.Options{Admit: func(_ context.Context, who study.Actor, _ uint64, to study.Access) error {
		asked.Add(1)
		if who.ID == study.ThisComputer && who.Via == study.ViaPage && (closed.Load() == study.ToSee || closed.Load() == study.ToChange && to != study.ToSee) {
			return study.ErrNotAllowed
		}
		return nil
	}})
	st := c.begin("ward,use\nHarbour,yes\nFenside,no\n")
	before := c.call("GET", st+"/topline", "", 200)
	require.Positive(t, asked.Load())
	number := strings.TrimPrefix(st, "/studies/")

	tried := map[string]int{}
	for _, access := range []study.Access{study.ToSee, study.ToChange} {
		closed.Store(access)
		for _, r := range c.app.GetRoutes(true) {
			path, of := strings.CutPrefix(r.Path, "/api/v1/studies/:study")
			// Shares that go from a question on the shelf, and who looks at it, change nothing of the study.
			if !of || r.Method == "HEAD" || r.Method == "OPTIONS" || access == study.ToChange && (r.Method == "GET" || strings.HasSuffix(path, "/shelf") || strings.HasPrefix(path, "/here")) {
				continue
			}
			parts := strings.Split(path, "/")
			for i, part := range parts {
				if strings.HasPrefix(part, ":") {
					parts[i] = "1"
				}
			}
			body := ""
			if r.Method != "GET" && r.Method != "DELETE" {
				body = "{}"
			}
			res := c.send(r.Method, "/api/v1/studies/"+number+strings.Join(parts, "/"), body, "If-Match", `"1"`)
			tried[r.Method]++
			if r.Method == "GET" {
				assert.Equal(t, 403, res.StatusCode, r.Path)
			} else {
				assert.GreaterOrEqual(t, res.StatusCode, 400, "%s %s", r.Method, r.Path)
			}
		}
	}
	assert.Greater(t, tried["GET"], 10)
	assert.Greater(t, tried["PATCH"]+tried["POST"]+tried["PUT"]+tried["DELETE"], 30)
	closed.Store(study.ToSee)
	assert.Empty(t, c.call("GET", "/studies", "", 200)["studies"])
	closed.Store(study.ToChange)
	question := at(t, before, "questions.0").(object)
	edit := fmt.Sprintf("%s/questions/%v", st, question["id"])
	version := fmt.Sprintf(`"%v"`, question["version"])
	assert.Equal(t, "http.not_allowed", c.call("PATCH", edit, `{"wording":"x"}`, 403, "If-Match", version)["code"])
	assert.Equal(t, "http.not_allowed", c.call("DELETE", st, "", 403)["code"])
	closed.Store(study.Access(""))
	assert.Equal(t, before, c.call("GET", st+"/topline", "", 200), "nothing was changed")

	// What was done bears who did it.
	c.call("PATCH", edit, `{"wording":"Which ward?"}`, 200, "If-Match", version)
	assert.Equal(t, "this computer", at(t, c.call("GET", st+"/history", "", 200), "edits.0.author"))
}
