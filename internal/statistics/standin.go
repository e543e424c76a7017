package statistics

import (
	"embed"
	"encoding/json"
	"net/http"
	"path"
	"strings"
	"time"
)

// tables are those of the invented borough's office.
//
//go:embed tables
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
	raw, media, ok := s.answer(r)
	if !ok {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", media)
	if s.Broken {
		raw = raw[:len(raw)/2]
	}
	_, _ = w.Write(raw) // whoever asked may have gone
}

// media are the forms of the tables, by the endings of their files.
var media = map[string]string{".json": "application/json", ".csv": sdmxCSV}

func (s StandIn) answer(r *http.Request) (raw []byte, kind string, ok bool) {
	if r.Method != http.MethodGet {
		return nil, "", false
	}
	if r.URL.Path == "/tables" {
		return s.list(), media[".json"], true
	}
	id, ok := strings.CutPrefix(r.URL.Path, "/tables/")
	if !ok || !tableID.MatchString(id) {
		return nil, "", false
	}
	for ending, kind := range media {
		if raw, err := tables.ReadFile("tables/" + id + ending); err == nil {
			return raw, kind, true
		}
	}
	return nil, "", false
}

func (StandIn) list() []byte {
	var out struct {
		Tables []Table `json:"tables"`
	}
	entries, _ := tables.ReadDir("tables") // what is built in can be read
	for _, e := range entries {
		raw, _ := tables.ReadFile("tables/" + e.Name())
		if c, err := Parse(raw); err == nil {
			out.Tables = append(out.Tables, Table{strings.TrimSuffix(e.Name(), path.Ext(e.Name())), c.Title, c.Updated})
		}
	}
	raw, _ := json.Marshal(out)
	return raw
}
