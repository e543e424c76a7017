package httpapi

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"

	"widetally/core/survey"
	"widetally/internal/service"
)

// However a text comes in, one that is too long is refused with its place and the limit,
// and one that just fits is kept whole.
func TestLengthsHoldOnEveryWayIn(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("a.csv", "ward\nHarbour\nFenside\nHarbour\n", nil, "[]")
	q := c.question(st, "ward")
	text := func(n int) string { return strings.Repeat("ü", n) }
	question := fmt.Sprintf("%s/questions/%v", st, q["id"])
	// Each way puts a text of n characters in as this part and returns the answer.
	send := func(method, path, body string) *http.Response {
		version := fmt.Sprintf(`"%v"`, c.question(st, "ward")["version"])
		return c.send(method, "/api/v1"+path, body, "If-Match", version)
	}
	book := func(name, file string) *http.Response {
		id, _ := c.arrivalOf(name, file)
		return send("POST", st+"/codebook/file", fmt.Sprintf(`{"arrivalId":%q,"dry":false}`, id))
	}
	for _, x := range []struct {
		part string
		most int
		way  func(text string) *http.Response
	}{
		{"wording", survey.MaxWording, func(s string) *http.Response {
			return send("PATCH", question, fmt.Sprintf(`{"wording":%q}`, s))
		}},
		{"section", survey.MaxSection, func(s string) *http.Response {
			return send("PATCH", question, fmt.Sprintf(`{"section":%q}`, s))
		}},
		{"note in CSV", survey.MaxWording, func(s string) *http.Response {
			return book("b.csv", "question,code,label,note\nward,Harbour,H,"+s+"\n")
		}},
		{"label in CSV", survey.MaxLabel, func(s string) *http.Response {
			return book("b.csv", "question,code,label\nward,Harbour,"+s+"\n")
		}},
		{"reason in CSV", survey.MaxMissing, func(s string) *http.Response {
			return book("b.csv", "question,code,label,missing\nward,Harbour,H,"+s+"\n")
		}},
		{"section in DDI", survey.MaxSection, func(s string) *http.Response {
			return book("b.xml", `<codeBook><dataDscr><varGrp var="V1"><labl>`+s+`</labl></varGrp><var ID="V1" name="ward"/></dataDscr></codeBook>`)
		}},
		{"reason in DDI", survey.MaxMissing, func(s string) *http.Response {
			return book("b.xml", `<codeBook><dataDscr><var ID="V1" name="ward"><catgry missing="Y" missType="`+s+`"><catValu>Fenside</catValu></catgry></var></dataDscr></codeBook>`)
		}},
		{"title in a package", survey.MaxWording, func(s string) *http.Response {
			return book("b.json", `{"resources":[{"name":"a","schema":{"fields":[{"name":"ward","title":"`+s+`"}]}}]}`)
		}},
		{"title of a study", survey.MaxWording, func(s string) *http.Response {
			id, settings := c.arrivalOf("datapackage.json", `{"resources":[{"name":"a","data":[["x"],["1"],["2"]],"schema":{"fields":[{"name":"x","title":"`+s+`"}]}}]}`)
			return send("POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"n"}`, id, settings))
		}},
	} {
		t.Run(x.part, func(t *testing.T) {
			res := x.way(text(x.most))
			body, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			assert.Less(t, res.StatusCode, 300, "as long as allowed: %s", body)
			for _, n := range []int{x.most + 1, 22_000} {
				res := x.way(text(n))
				body, err := io.ReadAll(res.Body)
				require.NoError(t, err)
				assert.Equal(t, http.StatusUnprocessableEntity, res.StatusCode, "%s", body)
				assert.Contains(t, string(body), fmt.Sprint(x.most), "the limit is said: %s", body)
			}
		})
	}
	assert.NotContains(t, c.log.String(), "request failed")
}

// arrivalOf sends a file and returns its id and settings, also where it cannot be read.
func (c *client) arrivalOf(name, file string) (id, settings string) {
	c.t.Helper()
	return c.arrival(name, file, nil)
}

// Answers as long as a cell may be are kept, whatever they are taken for.
func TestTheLongestAnswers(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	long := strings.Repeat("x", 64<<10)
	header := "In your own words, " + strings.Repeat("how do you feel about the collection and ", 10) + "why?"
	st, _ := c.bring("a.csv", header+"\n"+long+"\n"+long+"\n"+long[1:]+"\n"+long+"\n", nil, "[]")
	q := c.call("GET", st+"/topline", "", 200)["questions"].([]any)[0].(object)
	assert.Equal(t, 4.0, q["answered"])
	assert.Equal(t, header, q["wording"], "a heading too long for a name is the wording")
	assert.Len(t, q["name"], survey.MaxName)
}

// A codebook in Windows-1252 keeps its letters, and control characters stay outside.
func TestCodebooksOfEveryAlphabet(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("a.csv", "ward\nHarbour\nFenside\nHarbour\n", nil, "[]")
	ddi, err := charmap.Windows1252.NewEncoder().String(`<?xml version="1.0" encoding="windows-1252"?><codeBook><dataDscr><var name="ward"><qstn><qstnLit>Welcher Bezirk – größer?</qstnLit></qstn></var></dataDscr></codeBook>`)
	require.NoError(t, err)
	for _, x := range []struct{ name, file, want string }{
		{"b.xml", ddi, "Welcher Bezirk – größer?"},
		{"b.json", `{"resources":[{"name":"a","schema":{"fields":[{"name":"ward","title":"Which\u0001 \u001b[31mward\u0000?"}]}}]}`, "Which [31mward?"},
		{"b.csv", "question,code,wording\nward,Harbour,Which\x01 one\x7f?\n", "Which one?"},
	} {
		id, _ := c.arrivalOf(x.name, x.file)
		c.call("POST", st+"/codebook/file", fmt.Sprintf(`{"arrivalId":%q,"dry":false}`, id), 200)
		assert.Equal(t, x.want, c.question(st, "ward")["wording"])
	}
}

// What leaves in a package cannot be run by a spreadsheet, names of columns included,
// and comes back exactly as it was.
func TestAPackageComesBackWithItsFormulas(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	file := "=cmd(),ward\n-1+1,'=quoted\n-->,=HYPERLINK()\n-9,plain\n-1+1,'tis\n"
	st, _ := c.bring("a.csv", file, nil, "[]")
	raw, err := io.ReadAll(c.send("GET", "/api/v1"+st+"/codebook/file?format=package", "").Body)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	answers, err := z.Open("answers.csv")
	require.NoError(t, err)
	csv, err := io.ReadAll(answers)
	require.NoError(t, err)
	for _, line := range strings.Split(strings.TrimSpace(string(csv)), "\n") {
		for _, cell := range strings.Split(line, ",") {
			assert.False(t, strings.ContainsRune("=+@", rune(cell[0])) || cell[0] == '-' && cell != "-9", "%q would run", cell)
		}
	}
	again, _ := c.bring("b.zip", string(raw), nil, "[]")
	for _, name := range []string{"=cmd()", "ward"} {
		assert.ElementsMatch(t, c.tallyOf(st, name), c.tallyOf(again, name))
	}
	assert.Contains(t, c.tallyOf(again, "=cmd()"), "-1+1 2")
	assert.Contains(t, c.tallyOf(again, "ward"), "'=quoted 1")
}

// The file is given back as it arrived; damage is said where it is looked for.
func TestTheKeptFileAndItsDamage(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("wards.csv", wards, nil, "[]")
	check := c.call("GET", st+"/check", "", 200)
	file := check["files"].([]any)[0].(object)
	assert.Equal(t, false, file["damaged"])
	res := c.send("GET", fmt.Sprintf("/api/v1%s/files/%v", st, file["id"]), "")
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Equal(t, wards, string(raw))
	assert.Equal(t, `attachment; filename="wards.csv"`, res.Header.Get("Content-Disposition"))
	c.call("GET", st+"/files/99", "", 404)
	q := c.question(st, "ward")
	assert.Equal(t, true, c.call("POST", fmt.Sprintf("%s/questions/%v/repair", st, q["id"]), "", 200)["exact"], "nothing to repair")
}
