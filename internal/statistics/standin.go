package statistics

import (
	"embed"
	"encoding/json"
	"net/http"
	"strings"
	"time"
)

// tables are those of the invented borough's office.
//
//go:embed tables/*.json
var tables embed.FS

// StandIn is a small simulated statistics office with a few invented tables.
type StandIn struct {
	// Slow is how long each answer takes; Fail answers with an error, Broken with half a
	// document.
	Slow         time.Duration
	Fail, Broken bool
}

// ServeHTTP answers as the office does.
func (s StandIn) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	select {
	case <-time.After(s.Slow):
	case <-r.Context().Done():
		return
	}
	if s.Fail {
		http.Error(w, "the office is closed for stocktaking", http.StatusInternalServerError)
		return
	}
	raw, ok := s.answer(r)
	if !ok {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	if s.Broken {
		raw = raw[:len(raw)/2]
	}
	_, _ = w.Write(raw) // whoever asked may have gone
}

func (s StandIn) answer(r *http.Request) ([]byte, bool) {
	if r.Method != http.MethodGet {
		return nil, false
	}
	if r.URL.Path == "/tables" {
		return s.list(), true
	}
	id, ok := strings.CutPrefix(r.URL.Path, "/tables/")
	if !ok || !tableID.MatchString(id) {
		return nil, false
	}
	raw, err := tables.ReadFile("tables/" + id + ".json")
	return raw, err == nil
}

func (StandIn) list() []byte {
	var out struct {
		Tables []Table `json:"tables"`
	}
	entries, _ := tables.ReadDir("tables") // what is built in can be read
	for _, e := range entries {
		raw, _ := tables.ReadFile("tables/" + e.Name())
		var d dataset
		if json.Unmarshal(raw, &d) == nil {
			out.Tables = append(out.Tables, Table{strings.TrimSuffix(e.Name(), ".json"), d.Label, d.Updated})
		}
	}
	raw, _ := json.Marshal(out)
	return raw
}
