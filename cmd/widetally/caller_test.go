package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// caller sends requests and notes what it was told.
type caller struct {
	base   string
	failed *atomic.Int64 // answers of 500 and above
	done   *atomic.Int64
	text   *atomic.Value // one of them
	five   *atomic.Int64 // answers of 500 itself
	fault  *atomic.Value // one of them
}

// faults is how often it was answered by 500.
func (c *caller) faults() int { return int(c.five.Load()) }

func newCaller(base string) *caller {
	return &caller{base, &atomic.Int64{}, &atomic.Int64{}, &atomic.Value{}, &atomic.Int64{}, &atomic.Value{}}
}

type object = map[string]any

// call returns the status, 0 when there was no answer, and the answer.
func (c *caller) call(method, path string, body any, version any) (int, object) {
	var in io.Reader
	kind := "application/json"
	switch b := body.(type) {
	case nil:
	case string:
		in, kind = strings.NewReader(b), "application/octet-stream"
	default:
		raw, _ := json.Marshal(b)
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, c.base+"/api/v1"+path, in)
	if err != nil {
		panic(err)
	}
	req.Header.Set("Content-Type", kind)
	if version != nil {
		req.Header.Set("If-Match", fmt.Sprintf(`"%v"`, version))
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, nil
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, nil
	}
	c.done.Add(1)
	if res.StatusCode == http.StatusInternalServerError {
		c.five.Add(1)
		c.fault.Store(fmt.Sprintf("%s %s: %s", method, path, raw))
	}
	if res.StatusCode >= 500 {
		c.failed.Add(1)
		c.text.Store(fmt.Sprintf("%s %s: %d %s", method, path, res.StatusCode, raw))
	}
	var out object
	_ = json.Unmarshal(raw, &out)
	return res.StatusCode, out
}

// bring imports a file; 0 when it was not acknowledged.
func (c *caller) bring(name, file string) (id int) {
	status, a := c.call("POST", "/arrivals?name=a.csv", file, nil)
	if status != http.StatusCreated {
		return 0
	}
	status, st := c.call("POST", "/studies", object{"arrivalId": a["id"], "settings": a["settings"], "name": name}, nil)
	if status != http.StatusCreated {
		return 0
	}
	return int(st["id"].(float64))
}

func (c *caller) questions(study int) []object {
	_, page := c.call("GET", fmt.Sprintf("/studies/%d/topline", study), nil, nil)
	list, _ := page["questions"].([]any)
	out := make([]object, len(list))
	for i, q := range list {
		out[i] = q.(object)
	}
	return out
}

const soakRows = 600

func soakFile(rng *rand.Rand) string {
	var b strings.Builder
	b.WriteString("ward,size,view\n")
	for i := range soakRows {
		fmt.Fprintf(&b, "w%d,%d,v%d\n", i%5, rng.IntN(90), i%3)
	}
	return b.String()
}

// oneThing does something that a person might do to a study.
func (c *caller) oneThing(rng *rand.Rand, study int) {
	path := fmt.Sprintf("/studies/%d", study)
	list := c.questions(study)
	if len(list) == 0 {
		return
	}
	q := list[rng.IntN(len(list))]
	id, version := q["id"], q["version"]
	switch rng.IntN(9) {
	case 0:
		c.call("PATCH", fmt.Sprintf("%s/questions/%v", path, id), object{"wording": fmt.Sprint("w", rng.Int())}, version)
	case 1:
		c.call("PATCH", path+"/codebook", object{"questions": []object{{"id": id, "version": version}}, "missing": object{"v1": []string{"refused", ""}[rng.IntN(2)]}}, nil)
	case 2:
		c.call("POST", path+"/questions", object{"wording": "merged", "derivation": object{"rule": "merge", "sources": []any{id}, "groups": []object{{"label": fmt.Sprint("g", rng.Int()), "answers": []int{1, 2}}}}}, nil)
	case 3, 4:
		_, book := c.call("GET", path+"/codebook", nil, nil)
		way := []string{"undo", "redo"}[rng.IntN(2)]
		if e, ok := book[way].(object); ok {
			c.call("POST", path+"/"+way, object{"editId": e["id"]}, nil)
		}
	case 5:
		c.claim(study, list[0]["id"])
	case 6:
		c.call("PATCH", fmt.Sprintf("%s/questions/%v/responses/%d", path, id, 1+rng.IntN(soakRows)), object{"text": "3", "isNew": true}, version)
	case 7:
		c.call("GET", path+"/codebook/file?format=package", nil, nil)
	case 8:
		if status, a := c.call("POST", "/arrivals?name=a.csv", soakFile(rng), nil); status == http.StatusCreated {
			c.call("POST", path+"/refresh", object{"arrivalId": a["id"], "settings": a["settings"], "add": false, "waveQuestion": "", "wave": "", "dry": false}, nil)
		}
	}
}

// whole fails the test unless every question of a study can be read and has every row.
func (c *caller) whole(t *testing.T, study int) {
	t.Helper()
	status, page := c.call("GET", fmt.Sprintf("/studies/%d/topline", study), nil, nil)
	require.Equal(t, http.StatusOK, status, "%v", page)
	rows := page["study"].(object)["rows"]
	for _, q := range page["questions"].([]any) {
		assert.Nil(t, q.(object)["damage"])
		assert.Equal(t, rows, q.(object)["everyone"])
	}
}
