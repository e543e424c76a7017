package httpapi

import (
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// A description arrives alone and the file that it names is added; a file of another name
// changes nothing. The study has the description's words. Watching what was discarded ends
// at once.
func TestADescriptionAndThenItsFile(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	arrive := func() (path string, settings string) {
		id, settings := c.arrival("datapackage.json", `{"name":"wards","resources":[{"name":"wards","path":"wards.csv","schema":{"fields":[`+
			`{"name":"id","type":"string"},{"name":"ward","type":"string","title":"Which ward?"},`+
			`{"name":"caddy","type":"string","categories":[{"value":"yes","label":"Uses it"},{"value":"no","label":"Does not"}]}]}}]}`, nil)
		return "/arrivals/" + id, settings
	}
	path, settings := arrive()
	look := func() object {
		return c.call("POST", path+"/look", fmt.Sprintf(`{"settings":%s}`, settings), 200)
	}
	assert.Nil(t, look()["preview"], "nothing to see without the file")
	rows := strings.ReplaceAll(wards, ";", ",")
	c.call("POST", path+"/files?name=wards.csv", rows, 200, "Content-Type", "application/octet-stream")
	require.NotNil(t, look()["preview"])
	id := strings.TrimPrefix(path, "/arrivals/")
	st := c.call("POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"Wards","units":"households"}`, id, settings), 201)
	at := fmt.Sprintf("/studies/%v", st["id"])
	assert.Equal(t, "Which ward?", c.question(at, "ward")["wording"])
	assert.ElementsMatch(t, []string{"Uses it 13", "Does not 12"}, c.tallyOf(at, "caddy"))

	path, settings = arrive()
	c.call("POST", path+"/files?name=others.csv", rows, 200, "Content-Type", "application/octet-stream")
	assert.Nil(t, look()["preview"], "a file that the description does not name")
	c.call("DELETE", path, "", 204)
	c.call("POST", path+"/files?name=wards.csv", rows, 404, "Content-Type", "application/octet-stream")
	raw, err := io.ReadAll(c.send("GET", "/api/v1"+path+"/progress", "").Body)
	require.NoError(t, err)
	assert.Equal(t, "event: gone\ndata: {}\n\n", string(raw))
}

// Deleting a list that questions share leaves them their answers, in order and with
// labels, and undo brings the list back to them.
func TestADeletedListLeavesItsAnswers(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("scale.csv", "a,b\n1,2\n2,2\n3,1\n1,3\n2,1\n", nil, `[]`)
	chosen := func() string {
		var out []string
		for _, q := range c.call("GET", st+"/codebook", "", 200)["questions"].([]any) {
			out = append(out, fmt.Sprintf(`{"id":%v,"version":%v}`, q.(object)["id"], q.(object)["version"]))
		}
		return "[" + strings.Join(out, ",") + "]"
	}
	c.call("PATCH", st+"/codebook", `{"questions":`+chosen()+`,"kind":"ordered","labels":"1\tlow\n2\tmiddle\n3\thigh"}`, 200)
	list := c.call("PATCH", st+"/codebook", `{"questions":`+chosen()+`,"makeList":"Three"}`, 200)["lists"].([]any)[0].(object)
	where := fmt.Sprintf("%s/lists/%v", st, list["id"])
	shared := func() (n int) {
		for _, q := range c.call("GET", st+"/codebook", "", 200)["questions"].([]any) {
			if q.(object)["listId"] != nil {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 2, shared())
	c.call("DELETE", where, "", 200)
	assert.Equal(t, 0, shared())
	assert.Equal(t, []string{"low 2", "middle 2", "high 1"}, c.tallyOf(st, "a"))
	c.step(st, "undo", 200)
	assert.Equal(t, 2, shared())
}
