package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing/fstest"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/methods"
	"widetally/internal/httpapi"
	"widetally/internal/i18n"
	"widetally/internal/service"
	"widetally/internal/store"
)

// api is the application's address.
type api struct{ base string }

// serve starts the application, without its pages.
func serve(ctx context.Context, dsn, dir string) (a api, end func(), err error) {
	kept, err := store.Open(ctx, dsn)
	if err != nil {
		return a, nil, err
	}
	languages, err := i18n.LoadAll("")
	if err != nil {
		return a, nil, err
	}
	cases, err := service.New(kept, languages.First(), methods.All(), service.Options{ArrivalsDir: filepath.Join(dir, "arrivals")})
	if err != nil {
		return a, nil, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return a, nil, err
	}
	app := httpapi.New(httpapi.Config{Places: cases, Words: languages, Web: fstest.MapFS{"index.html": {}}, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	go func() { _ = app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	return api{"http://" + listener.Addr().String() + "/api/v1"}, func() { _ = app.ShutdownWithTimeout(time.Second); cases.Close(); kept.Close() }, nil
}

// call sends a request and reads its answer into `into`, which may be nil.
func (a api) call(method, path, kind string, body []byte, into any) error {
	req, err := http.NewRequest(method, a.base+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", kind)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	switch {
	case err != nil:
		return err
	case res.StatusCode >= 300:
		return fmt.Errorf("%s %s: %d %s", method, path, res.StatusCode, raw)
	}
	if text, is := into.(*string); is {
		*text = string(raw)
		return nil
	}
	if into == nil {
		return nil
	}
	return json.Unmarshal(raw, into)
}

func (a api) send(path string, body, into any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return a.call("POST", path, "application/json", raw, into)
}

type object = map[string]any

type problem struct {
	Code     string
	Text     string
	Remedies []string
}

type arrival struct {
	ID       string
	Settings object
	Preview  *struct {
		Names    []string
		Rows     int
		Problems []problem
	}
	Problem *problem
}

// remedies are what a person would press, the first one that the page offers.
var remedies = map[string]object{
	"padShort": {"padShort": true}, "fixNames": {"fixNames": true}, "windows1252": {"encoding": "windows-1252"}, "firstIsName": {"headerSaid": true},
	"lineIsNames": {"headerSaid": true}, "lastIsTotal": {"lastRow": "total"}, "blankIsZero": {"blankIsZero": true},
}

// mostPresses bounds how often something is put right before a file is given up.
const mostPresses = 6

// arrive brings a file in and puts right what the page would ask for; pressed are the remedies.
func (a api) arrive(file string, raw []byte) (in arrival, pressed []string, err error) {
	if err = a.call("POST", "/arrivals?name="+url.QueryEscape(filepath.Base(file)), "application/octet-stream", raw, &in); err != nil {
		return in, nil, err
	}
	for range mostPresses {
		if err = a.send("/arrivals/"+in.ID+"/look", object{"settings": in.Settings}, &in); err != nil {
			return in, pressed, err
		}
		var all []problem
		if in.Problem != nil {
			all = append(all, *in.Problem)
		} else if in.Preview != nil {
			all = in.Preview.Problems
		}
		at := slices.IndexFunc(all, func(p problem) bool { return len(p.Remedies) > 0 })
		switch {
		case len(all) == 0:
			return in, pressed, nil
		case at < 0 || remedies[all[at].Remedies[0]] == nil:
			return in, pressed, fmt.Errorf("it cannot be brought in: %s", all[0].Text)
		}
		pressed = append(pressed, all[at].Remedies[0])
		for member, value := range remedies[all[at].Remedies[0]] {
			in.Settings[member] = value
		}
	}
	return in, pressed, fmt.Errorf("it is still not right after %s", strings.Join(pressed, ", "))
}

// told is what came of a file.
type told struct {
	file        string
	respondents int
	tables      int
	pressed     []string
	differences []string
}

func (t told) String() string {
	out := fmt.Sprintf("%-40s %6d respondents %4d tables", filepath.Base(t.file), t.respondents, t.tables)
	if len(t.pressed) > 0 {
		out += "  pressed: " + strings.Join(t.pressed, ", ")
	}
	for _, d := range t.differences {
		out += "\n    differs: " + d
	}
	return out
}

func (t *told) differs(format string, values ...any) {
	t.differences = append(t.differences, fmt.Sprintf(format, values...))
}

type row struct {
	Code  string
	Count int
}

type question struct {
	ID                int
	Name              string
	Kind              string
	Tabulated         bool
	Answered, Missing int
	Rows, MissingRows []row
}

// lacks says that a cell is no answer.
func (q question) lacks(cell string) bool {
	return cell == "" || slices.ContainsFunc(q.MissingRows, func(r row) bool { return plain(r.Code) == cell })
}

// mostCrossed is how many questions of a file are crossed with each other, and mostAnswers how many
// answers they have at most.
const (
	mostCrossed = 5
	mostAnswers = 12
)

// try brings a file in and compares every tally, and the crossings of its first small questions.
func (a api) try(file string) (t told, err error) {
	t.file = file
	raw, err := os.ReadFile(file)
	if err != nil {
		return t, err
	}
	in, pressed, err := a.arrive(file, raw)
	if err != nil {
		return t, err
	}
	t.pressed = pressed
	var how settings
	text, err := json.Marshal(in.Settings)
	if err == nil {
		err = json.Unmarshal(text, &how)
	}
	if err != nil {
		return t, err
	}
	names, rows, err := plainly(raw, how)
	if err != nil {
		return t, err
	}
	var st struct{ ID int }
	if err = a.send("/studies", object{"arrivalId": in.ID, "settings": in.Settings, "name": filepath.Base(file), "units": "respondents"}, &st); err != nil {
		return t, err
	}
	var page struct{ Questions []question }
	at := "/studies/" + strconv.Itoa(st.ID)
	if err = a.call("GET", at+"/topline", "", nil, &page); err != nil {
		return t, err
	}
	t.respondents = len(rows)
	if in.Preview.Rows != len(rows) {
		t.differs("%d respondents, counted %d", in.Preview.Rows, len(rows))
	}
	if len(page.Questions) != len(names) {
		t.differs("%d questions, counted %d columns", len(page.Questions), len(names))
		return t, nil
	}
	var small []int
	for i, q := range page.Questions {
		if name := cell(names, i); name != "" && name != q.Name && !slices.Contains(pressed, "fixNames") {
			t.differs("column %d is called %q, not %q", i+1, q.Name, name)
		}
		t.compare(q, tally(rows, i))
		if q.Tabulated && len(q.Rows) > 1 && len(q.Rows) <= mostAnswers && len(q.MissingRows) <= 1 && len(small) < mostCrossed && (q.Kind == "single" || q.Kind == "ordered") {
			small = append(small, i)
		}
	}
	for n, i := range small {
		for _, j := range small[:n] {
			got, err := a.crossed(at, page.Questions[i], page.Questions[j])
			if err != nil {
				return t, err
			}
			t.tables++
			for pair, count := range cross(rows, i, j) {
				if !page.Questions[i].lacks(pair[0]) && !page.Questions[j].lacks(pair[1]) && got[pair] != count {
					t.differs("%q by %q: %d with %q and %q, counted %d", page.Questions[i].Name, page.Questions[j].Name, got[pair], pair[0], pair[1], count)
				}
			}
		}
	}
	return t, nil
}

// compare holds a tally against what was counted. Of numbers and texts, which have no table, it is
// how many gave one.
func (t *told) compare(q question, counted map[string]int) {
	t.tables++
	if len(q.Rows) == 0 {
		answered := 0
		for text, n := range counted {
			if text != "" && !slices.ContainsFunc(q.MissingRows, func(r row) bool { return r.Code == text }) {
				answered += n
			}
		}
		if answered != q.Answered {
			t.differs("%q: %d answered, counted %d", q.Name, q.Answered, answered)
		}
		return
	}
	shown := map[string]int{}
	for _, r := range slices.Concat(q.Rows, q.MissingRows) {
		shown[plain(r.Code)] += r.Count
	}
	for text, n := range counted {
		if shown[text] != n {
			t.differs("%q: %d gave %q, counted %d", q.Name, shown[text], text, n)
		}
		delete(shown, text)
	}
	for text, n := range shown {
		if n != 0 {
			t.differs("%q: %d gave %q, counted none", q.Name, n, text)
		}
	}
}

// crossed takes the crossing of two questions as counts.
func (a api) crossed(study string, q, by question) (map[[2]string]int, error) {
	spec := object{"method": "crosstab", "version": 1, "questions": []string{strconv.Itoa(q.ID), strconv.Itoa(by.ID)}, "settings": object{"reading": "count"}}
	var made struct{ AnalysisID int }
	if err := a.send(study+"/analyses", object{"spec": spec, "run": true}, &made); err != nil {
		return nil, err
	}
	var text string
	if err := a.call("GET", fmt.Sprintf("%s/analyses/%d/tables/1?form=csv", study, made.AnalysisID), "", nil, &text); err != nil {
		return nil, err
	}
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	lines, err := r.ReadAll()
	if err != nil || len(lines) < 2 {
		return nil, fmt.Errorf("no table of %q by %q: %w", q.Name, by.Name, err)
	}
	head := lines[1]
	// Cells that a spreadsheet would run leave with an apostrophe.
	for _, line := range lines {
		for k := range line {
			line[k] = strings.TrimPrefix(line[k], "'")
		}
	}
	out := map[[2]string]int{}
	for _, line := range lines[2:] {
		for k := 1; k < len(line) && k < len(head); k++ {
			if n, err := strconv.Atoi(line[k]); err == nil {
				out[[2]string{plain(strings.TrimSuffix(head[k], ", count")), plain(line[0])}] = n
			}
		}
	}
	return out, nil
}
