package main

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Commands work on a study of a server as on a file, with a token that is sent to that server alone, never over a line that others read.
func TestAStudyOfAServer(t *testing.T) {
	elsewhere := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		t.Errorf("the token was sent on: %s", r.Header.Get("Authorization"))
	}))
	defer elsewhere.Close()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Header.Get("Authorization") != "Bearer widetally_secret" {
			w.WriteHeader(http.StatusUnauthorized)
			return
		}
		switch r.URL.RequestURI() {
		case "/api/v1/studies":
			fmt.Fprint(w, `{"studies":[{"id":3,"name":"Caddies","units":"households","rows":1250}]}`)
		case "/api/v1/studies/3/file":
			fmt.Fprint(w, answers)
		case "/api/v1/studies/3/report/file?form=html":
			fmt.Fprint(w, "<p>report")
		case "/api/v1/studies/5/file":
			http.Redirect(w, r, elsewhere.URL, http.StatusFound)
		default:
			w.WriteHeader(http.StatusForbidden)
			fmt.Fprint(w, `{"title":"You may not see or change this study."}`)
		}
	}))
	defer server.Close()
	report := filepath.Join(t.TempDir(), "report.html")
	for _, k := range []struct {
		token string
		args  []string
		want  string // of the output, or of the error
	}{
		{"widetally_secret", []string{"studies"}, "3  Caddies (1250 households)"},
		{"widetally_secret", []string{"tally", "3", "use"}, "734"},
		{"widetally_secret", []string{"cross", "3", "use", "ward"}, "506"},
		{"widetally_secret", []string{"export", "3", report}, ""},
		{"widetally_secret", []string{"export", "3", "report.exe"}, "a study is written as .zip"},
		{"widetally_secret", []string{"tally", "4", "use"}, "You may not see or change this study."},
		{"widetally_secret", []string{"tally", "5", "use"}, "302 Found"},
		{"widetally_secret", []string{"tally", "answers.csv", "use"}, "is no number of a study"},
		{"", []string{"tally", "3", "use"}, "without a token that holds"},
	} {
		t.Setenv(tokenVariable, k.token)
		out, err := command(t, "", append(k.args, "--server", server.URL)...)
		if err != nil {
			out = err.Error()
		}
		assert.Contains(t, out, k.want, "%v", k.args)
	}
	raw, err := os.ReadFile(report)
	require.NoError(t, err)
	assert.Equal(t, "<p>report", string(raw))
	for at, want := range map[string]string{"http://tally.example": "use https", "tally.example": "is no address", "https://tally.example/studies": "is no address"} {
		_, err := command(t, "", "studies", "--server", at)
		require.ErrorContains(t, err, want)
	}
}
