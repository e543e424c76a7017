package main

import (
	"context"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb"
)

// cluster starts a database cluster of three nodes; the test is skipped where Galera is not to be had.
func cluster(t *testing.T) *mariadb.Cluster {
	t.Helper()
	programs, err := mariadb.FindPrograms("../..")
	if err != nil {
		t.Skip(err)
	}
	c, err := mariadb.StartCluster(context.Background(), filepath.Join(t.TempDir(), "cluster"), 3, programs, mariadb.Options{Throwaway: true}, true)
	require.NoError(t, err)
	t.Cleanup(c.Stop)
	return c
}

// beside starts a process of several that serve one database, with a data folder of its own.
func beside(t *testing.T, dsn string) *process {
	t.Helper()
	p := prepared("serve", "--addr", "127.0.0.1:0", "--data", filepath.Join(t.TempDir(), "data"))
	p.cmd.Env = append(p.cmd.Env, "WIDETALLY_DSN="+dsn)
	p.run(t)
	return p
}

// claim states a claim of a question and returns its id, 0 when it was not acknowledged.
func (c *caller) claim(study int, question any) int {
	spec := object{"method": "one-proportion", "version": 1, "questions": []string{fmt.Sprint(question)}, "settings": object{"success": []string{"w1"}, "claimed": "20 %", "direction": "less", "role": "null", "level": 0.05, "source": object{"title": "the council"}}}
	status, said := c.call("POST", fmt.Sprintf("/studies/%d/analyses", study), object{"run": true, "spec": spec}, nil)
	if status != http.StatusCreated {
		return 0
	}
	return int(said["analysisId"].(float64))
}

// claims are the ids of those of a question.
func (c *caller) claims(study int, question any) map[int]bool {
	_, one := c.call("GET", fmt.Sprintf("/studies/%d/questions/%v", study, question), nil, nil)
	list, _ := one["analyses"].([]any)
	out := map[int]bool{}
	for _, a := range list {
		out[int(a.(object)["id"].(float64))] = true
	}
	return out
}

// Two processes that start at once through two nodes of a cluster, and write through them: whatever was acknowledged is
// there, and seen by the other process at once.
func TestSoakCluster(t *testing.T) {
	db := cluster(t)
	through := []string{db.DSN(0, 1, 2), db.DSN(1, 2, 0)}
	var processes []*process
	for _, dsn := range through {
		processes = append(processes, beside(t, dsn))
	}
	var at []*caller
	for _, p := range processes {
		at = append(at, newCaller(p.address(t)))
	}
	rng := rand.New(rand.NewPCG(1, 7))
	var studies []int
	for i := range 4 {
		id := at[i%2].bring("soak", soakFile(rng))
		require.NotZero(t, id, at[i%2].text.Load())
		require.NotEmpty(t, at[1-i%2].questions(id), "a new study is there for the other process, too")
		studies = append(studies, id)
	}
	var mu sync.Mutex
	claims, edits := map[int][]int{}, map[string]float64{}
	more := shaken(1_000_000, 10*time.Minute)
	until := time.Now().Add(30 * time.Second)
	var wait sync.WaitGroup
	var unseen int
	for worker := range 8 {
		mine := rand.New(rand.NewPCG(uint64(worker), 5))
		here, there := at[worker%2], at[1-worker%2]
		wait.Go(func() {
			for n := 0; more(n) && (soaking || time.Now().Before(until)); n++ {
				study := studies[mine.IntN(len(studies))]
				list := here.questions(study)
				if len(list) == 0 {
					continue
				}
				if n%2 == 0 {
					id := here.claim(study, list[0]["id"])
					if id == 0 {
						continue
					}
					seen := there.claims(study, list[0]["id"])[id]
					mu.Lock()
					if claims[study] = append(claims[study], id); !seen {
						unseen++
					}
					mu.Unlock()
					continue
				}
				q := list[1+mine.IntN(2)]
				path := fmt.Sprintf("/studies/%d/questions/%v", study, q["id"])
				if status, _ := here.call("PATCH", path, object{"wording": fmt.Sprint("wording ", mine.Uint64())}, q["version"]); status < 300 && status > 0 {
					mu.Lock()
					edits[path]++
					mu.Unlock()
				}
			}
		})
	}
	wait.Wait()
	for _, c := range at {
		assert.Zero(t, c.failed.Load(), "%v", c.text.Load())
	}
	assert.Zero(t, unseen, "what was acknowledged here is there")
	stated, edited := 0, 0
	for _, study := range studies {
		for _, c := range at {
			c.whole(t, study)
			there := map[int]bool{}
			for _, q := range c.questions(study) {
				path := fmt.Sprintf("/studies/%d/questions/%v", study, q["id"])
				assert.InDelta(t, 1+edits[path], q["version"], 0, "each edit that was acknowledged, once")
				maps.Copy(there, c.claims(study, q["id"]))
			}
			for _, id := range claims[study] {
				assert.True(t, there[id], "claim %d of study %d was acknowledged", id, study)
			}
		}
		stated += len(claims[study])
	}
	for _, n := range edits {
		edited += int(n)
	}
	require.NotZero(t, stated)
	require.NotZero(t, edited)
	t.Logf("%d claims and %d edits acknowledged, all there; %d and %d requests", stated, edited, at[0].done.Load(), at[1].done.Load())
	for _, p := range processes {
		p.stop(t, syscall.SIGINT)
	}
	out, err := trailsOf(through[0])
	require.NoError(t, err, out)
}

// trailsOf looks through the trails of a database.
func trailsOf(dsn string) (string, error) {
	verify := program("audit", "verify", "--data", filepath.Join(os.TempDir(), "unused"))
	verify.Env = append(verify.Env, "WIDETALLY_DSN="+dsn)
	out, err := verify.CombinedOutput()
	return string(out), err
}
