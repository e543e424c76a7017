package main

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb"
	"widetally/internal/testroom"
)

// stage is what a process tells of the work on an arrived file, wherever it is done.
func (c *caller) stage(t *testing.T, arrival any) string {
	t.Helper()
	res, err := http.Get(fmt.Sprintf("%s/api/v1/arrivals/%v/progress", c.base, arrival))
	require.NoError(t, err)
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	for lines.Scan() {
		if _, after, is := strings.Cut(lines.Text(), `"stage":"`); is {
			stage, _, _ := strings.Cut(after, `"`)
			return stage
		}
		if strings.Contains(lines.Text(), "gone") {
			return "gone"
		}
	}
	return ""
}

// Of two processes that serve one database one is killed in the middle of an import: the other completes it, and tells whoever
// asks once more. What was brought to one can be looked at, kept and dropped at the other.
func TestAnotherProcessGoesOn(t *testing.T) {
	t.Parallel()
	server, err := mariadb.Start(context.Background(), t.TempDir(), mariadb.Options{Throwaway: true})
	require.NoError(t, err)
	t.Cleanup(server.Stop)
	first, second := beside(t, server.DSN()), beside(t, server.DSN())
	one, other := newCaller(first.address(t)), newCaller(second.address(t))

	status, small := one.call("POST", "/arrivals?name=a.csv", "ward,n\nHarbour,1\nMill,2\nHarbour,3\n", nil)
	require.Equal(t, http.StatusCreated, status)
	status, looked := other.call("POST", fmt.Sprintf("/arrivals/%v/look", small["id"]), object{"settings": small["settings"], "columns": []any{}}, nil)
	require.Equal(t, http.StatusOK, status, "%v", looked)
	assert.InDelta(t, 3, looked["preview"].(object)["rows"], 0)
	status, kept := other.call("POST", "/studies", object{"arrivalId": small["id"], "settings": small["settings"], "name": "small"}, nil)
	require.Equal(t, http.StatusCreated, status, "%v", kept)
	one.whole(t, int(kept["id"].(float64)))
	status, dropped := one.call("POST", "/arrivals?name=a.csv", "ward\nHarbour\n", nil)
	require.Equal(t, http.StatusCreated, status)
	other.call("DELETE", fmt.Sprintf("/arrivals/%v", dropped["id"]), nil, nil)
	assert.Equal(t, "gone", one.stage(t, dropped["id"]))

	const rows = 400_000
	var file strings.Builder
	file.WriteString("q1" + strings.Repeat(",q", 29) + "\n")
	for i := range rows {
		fmt.Fprintf(&file, "%d%s\n", i%7, strings.Repeat(fmt.Sprintf(",%d", i%5), 29))
	}
	text := strings.Replace(file.String(), strings.Repeat(",q", 29), func() (names string) {
		for i := range 29 {
			names += fmt.Sprintf(",q%d", i+2)
		}
		return names
	}(), 1)
	status, large := one.call("POST", "/arrivals?name=b.csv", text, nil)
	require.Equal(t, http.StatusCreated, status)
	ask := object{"arrivalId": large["id"], "settings": large["settings"], "name": "large"}
	answered := make(chan int, 1)
	go func() {
		status, said := one.call("POST", "/studies", ask, nil)
		if status != 0 {
			t.Errorf("%d %v", status, said)
		}
		answered <- status
	}()
	testroom.Await(t, "the import to be under way", func() bool {
		stage := other.stage(t, large["id"])
		return stage == "keeping" || stage == "reading" || len(answered) > 0
	})
	require.NoError(t, first.cmd.Process.Signal(syscall.SIGKILL))
	<-first.done
	require.Zero(t, <-answered, "it was killed before it could answer")
	shelf := func() (names []string) {
		_, shelf := other.call("GET", "/studies", nil, nil)
		for _, st := range shelf["studies"].([]any) {
			names = append(names, st.(object)["name"].(string))
		}
		return names
	}
	assert.Equal(t, []string{"small"}, shelf(), "nothing half made is seen")
	testroom.Await(t, "the other to complete it", func() bool { return len(shelf()) > 1 })
	status, made := other.call("POST", "/studies", ask, nil)
	require.Equal(t, http.StatusCreated, status, "%v", made)
	assert.Equal(t, []string{"large", "small"}, shelf(), "made once")
	other.whole(t, int(made["id"].(float64)))
	counts := other.questions(int(made["id"].(float64)))[0]["rows"].([]any)
	assert.InDelta(t, 57143, counts[0].(object)["count"], 0) // ⌈400,000/7⌉
	status, _ = other.call("POST", "/studies", object{"arrivalId": large["id"], "settings": large["settings"], "name": "another"}, nil)
	assert.Equal(t, http.StatusNotFound, status, "it has become that study")
	assert.Zero(t, other.failed.Load(), "%v", other.text.Load())
	second.stop(t, syscall.SIGINT)
}
