package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// How long the program is shaken: for a few rounds, or with WIDETALLY_SOAK (make soak) for
// minutes.
var (
	soaking    = os.Getenv("WIDETALLY_SOAK") != ""
	killRounds = map[bool]int{false: 5, true: 110}[soaking]
	pairRounds = map[bool]int{false: 4, true: 60}[soaking]

	clusterRounds = 100 // of kills in a cluster
)

// shaken tells whether somebody goes on who has done this many things: up to a number in a test
// run, for a time when soaking.
func shaken(number int, soak time.Duration) func(done int) bool {
	until := time.Now().Add(soak)
	return func(done int) bool { return !soaking && done < number || soaking && time.Now().Before(until) }
}

const workers = 17

// killDatabase ends the private server of a data folder as a power cut would.
func killDatabase(data string) {
	pid, err := os.ReadFile(filepath.Join(data, "db", "server.pid"))
	if err != nil {
		return
	}
	if server, err := strconv.Atoi(strings.TrimSpace(string(pid))); err == nil {
		_ = syscall.Kill(server, syscall.SIGKILL)
	}
}

// Application, database or both are killed at random, while they start, import, edit,
// undo and export; after each kill everything that was acknowledged is there and whole.
func TestSoakKills(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	seed := uint64(time.Now().UnixNano())
	rng := rand.New(rand.NewPCG(seed, 1))
	t.Logf("seed %d", seed)
	acknowledged := map[int]bool{}
	atStart, atWork := 0, 0
	for round := range killRounds {
		p := start(t, "demo", "--addr", "127.0.0.1:0", "--data", data)
		if round%3 == 0 { // killed while it starts
			time.Sleep(time.Duration(rng.IntN(2500)) * time.Millisecond)
			atStart++
		} else {
			c := newCaller(p.address(t))
			for id := range acknowledged {
				c.whole(t, id)
			}
			var wait sync.WaitGroup
			var mu sync.Mutex
			stop := make(chan struct{})
			for range 4 {
				mine := rand.New(rand.NewPCG(rng.Uint64(), 2))
				wait.Go(func() {
					for {
						select {
						case <-stop:
							return
						default:
						}
						mu.Lock()
						known := make([]int, 0, len(acknowledged))
						for id := range acknowledged {
							known = append(known, id)
						}
						mu.Unlock()
						if len(known) == 0 || len(known) < 6 && mine.IntN(8) == 0 {
							if id := c.bring("soak", soakFile(mine)); id != 0 {
								mu.Lock()
								acknowledged[id] = true
								mu.Unlock()
							}
							continue
						}
						c.oneThing(mine, known[mine.IntN(len(known))])
					}
				})
			}
			time.Sleep(time.Duration(50+rng.IntN(900)) * time.Millisecond)
			which := rng.IntN(3)
			if which != 0 {
				killDatabase(data)
			}
			if which != 1 {
				_ = p.cmd.Process.Kill()
			}
			close(stop)
			wait.Wait()
			atWork++
		}
		_ = p.cmd.Process.Kill()
		<-p.done
		if rng.IntN(2) == 0 {
			killDatabase(data)
		}
	}
	p := start(t, "demo", "--addr", "127.0.0.1:0", "--data", data)
	c := newCaller(p.address(t))
	_, shelf := c.call("GET", "/studies", nil, nil)
	demos := 0
	for _, st := range shelf["studies"].([]any) {
		if st.(object)["name"] == "Fernmouth kerbside survey" {
			demos++
		}
		c.whole(t, int(st.(object)["id"].(float64)))
	}
	assert.Equal(t, 1, demos, "the demo study was made once")
	for id := range acknowledged {
		c.whole(t, id)
	}
	t.Logf("%d kills at a start, %d at work, %d studies whole", atStart, atWork, len(acknowledged))
	p.stop(t, syscall.SIGINT)
}

// Seventeen people work on a few studies at once, and nobody is answered with a fault.
func TestSoakWorkers(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	p := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data)
	c := newCaller(p.address(t))
	var studies []int
	rng := rand.New(rand.NewPCG(1, 3))
	for range 3 {
		studies = append(studies, c.bring("soak", soakFile(rng)))
	}
	more := shaken(20, 3*time.Minute)
	var wait sync.WaitGroup
	for i := range workers {
		mine := rand.New(rand.NewPCG(uint64(i), 4))
		wait.Go(func() {
			for n := 0; more(n); n++ {
				c.oneThing(mine, studies[mine.IntN(len(studies))])
			}
		})
	}
	wait.Wait()
	assert.Zero(t, c.failed.Load(), "%v", c.text.Load())
	for _, id := range studies {
		c.whole(t, id)
	}
	t.Logf("%d requests, %d answered with 500 or more", c.done.Load(), c.failed.Load())
	p.stop(t, syscall.SIGINT)
}

// Two editors against each other: a file that adds respondents beside a question that is
// derived, again and again, with the counts checked.
func TestSoakTwoEditors(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	p := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data)
	c := newCaller(p.address(t))
	file := "ward\n" + strings.Repeat("a\nb\nc\n", 10_000)
	for round := range pairRounds {
		study := c.bring("pair", file)
		require.NotZero(t, study)
		ward := c.questions(study)[0]
		_, a := c.call("POST", "/arrivals?name=a.csv", file, nil)
		var wait sync.WaitGroup
		wait.Go(func() {
			status, said := c.call("POST", fmt.Sprintf("/studies/%d/refresh", study), object{"arrivalId": a["id"], "settings": a["settings"], "add": true, "waveQuestion": "", "wave": "", "dry": false}, nil)
			assert.Equal(t, http.StatusOK, status, "%v", said)
		})
		wait.Go(func() {
			status, said := c.call("POST", fmt.Sprintf("/studies/%d/questions", study), object{"wording": "merged", "derivation": object{"rule": "merge", "sources": []any{ward["id"]}, "groups": []object{{"label": "a or b", "answers": []int{1, 2}}}}}, nil)
			assert.Equal(t, http.StatusCreated, status, "%v", said)
		})
		wait.Wait()
		c.whole(t, study)
		for i, want := range [][]float64{{20_000, 20_000, 20_000}, {40_000, 20_000}} {
			var got []float64
			for _, r := range c.questions(study)[i]["rows"].([]any) {
				got = append(got, r.(object)["count"].(float64))
			}
			assert.Equal(t, want, got, "round %d", round)
		}
	}
	t.Logf("%d pairs, every count right", pairRounds)
	p.stop(t, syscall.SIGINT)
}

// A study of many respondents, a million in the long form, with 50 answers each leaves as one file within bounded memory;
// who goes away stops it.
func TestSoakStudyFile(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	p := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data)
	base := p.address(t)
	c := newCaller(base)
	var file strings.Builder
	for i := range 50 {
		fmt.Fprintf(&file, "q%d,", i)
	}
	file.WriteString("id\n")
	rng := rand.New(rand.NewPCG(5, 5))
	for i := range map[bool]int{false: 20_000, true: 1_000_000}[soaking] {
		for range 50 {
			file.WriteByte(byte('1' + rng.IntN(5)))
			file.WriteByte(',')
		}
		fmt.Fprintf(&file, "%d\n", i)
	}
	id := c.bring("large", file.String())
	require.NotZero(t, id)
	before := peak(t, p, true)
	begun := time.Now()
	res, err := http.Get(fmt.Sprintf("%s/api/v1/studies/%d/file", base, id))
	require.NoError(t, err)
	n, err := io.Copy(io.Discard, res.Body)
	require.NoError(t, errors.Join(err, res.Body.Close()))
	after := peak(t, p, false)
	t.Logf("%d MB written in %s with a peak of %d MB, %d MB before", n>>20, time.Since(begun).Round(time.Second), after>>10, before>>10)
	assert.Less(t, after, 600<<10, "in kB")

	if !soaking { // it is written before anybody could go
		p.stop(t, syscall.SIGINT)
		return
	}
	ctx, gone := context.WithTimeout(t.Context(), time.Second)
	defer gone()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, fmt.Sprintf("%s/api/v1/studies/%d/file", base, id), nil)
	require.NoError(t, err)
	if res, err := http.DefaultClient.Do(req); err == nil {
		_, err = io.Copy(io.Discard, res.Body)
		assert.Error(t, errors.Join(err, res.Body.Close()))
	}
	time.Sleep(2 * time.Second)
	p.stop(t, syscall.SIGINT)
	assert.Contains(t, p.printed(), "/file status=503", "it ended with who wanted it")
}

// Two hundred people at once: they read the topline of a large study, of its subgroups, single
// questions and the shelf, while somebody edits. Each gets an answer, or is asked politely to
// come again, and the memory stays within what was allowed.
func TestSoakTwoHundredClients(t *testing.T) {
	const allowed = 512 // MB
	t.Parallel()
	data := dataFolder(t)
	p := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data, "--memory", strconv.Itoa(allowed))
	base := p.address(t)
	c := newCaller(base)
	var file strings.Builder
	file.WriteString("ward,size,view,minutes\n")
	rng := rand.New(rand.NewPCG(2, 2))
	for range map[bool]int{false: 50_000, true: 1_000_000}[soaking] {
		fmt.Fprintf(&file, "w%d,%d,v%d,%.2f\n", rng.IntN(5), rng.IntN(9), rng.IntN(3), 90*rng.Float64())
	}
	id := c.bring("large", file.String())
	require.NotZero(t, id)
	study := fmt.Sprintf("/studies/%d", id)
	list := c.questions(id)
	for i := range 8 {
		c.call("POST", study+"/subgroups", object{"name": fmt.Sprint("g", i), "condition": object{"op": "any_of", "question": list[i%3]["id"], "answers": []int{1 + i/3}}}, nil)
	}
	paths := []string{"/studies", study, study + "/topline", study + "/codebook", study + "/claims"}
	for _, q := range list {
		paths = append(paths, fmt.Sprintf("%s/questions/%v", study, q["id"]))
	}
	for i := range 8 {
		paths = append(paths, fmt.Sprintf("%s/topline?of=%d", study, i+1))
	}
	peak(t, p, true)
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 200}}
	more := shaken(15, time.Minute)
	var answered, again, wrong atomic.Int64
	var said atomic.Value
	var crowd sync.WaitGroup
	for i := range 200 {
		mine := rand.New(rand.NewPCG(uint64(i), 9))
		crowd.Go(func() {
			for n := 0; more(n); n++ {
				path := paths[mine.IntN(len(paths))]
				res, err := client.Get(base + "/api/v1" + path)
				if err != nil {
					wrong.Add(1)
					said.Store(err.Error())
					continue
				}
				_, err = io.Copy(io.Discard, res.Body)
				res.Body.Close()
				switch {
				case err == nil && res.StatusCode == http.StatusOK:
					answered.Add(1)
				case err == nil && res.StatusCode == http.StatusServiceUnavailable && res.Header.Get("Retry-After") != "":
					again.Add(1)
				default:
					wrong.Add(1)
					said.Store(fmt.Sprint(path, " ", res.StatusCode, " ", err))
				}
			}
		})
	}
	edits := 0
	for n := 0; more(n); n++ {
		if soaking {
			time.Sleep(200 * time.Millisecond) // as somebody edits, not as fast as can be
		}
		q := c.questions(id)[edits%len(list)]
		if status, _ := c.call("PATCH", fmt.Sprintf("%s/questions/%v", study, q["id"]), object{"note": fmt.Sprint("n", edits)}, q["version"]); status == http.StatusOK {
			edits++
		}
	}
	crowd.Wait()
	most := peak(t, p, false)
	t.Logf("%d answered, %d asked to come again, %d edits, peak %d MB of %d allowed", answered.Load(), again.Load(), edits, most>>10, allowed)
	assert.Zero(t, wrong.Load(), "%v", said.Load())
	assert.NotZero(t, edits)
	assert.Less(t, most, allowed<<10, "in kB")
	p.stop(t, syscall.SIGINT)
}

// peak is the most memory that a process has had, in kB, since it was last asked to begin anew.
func peak(t *testing.T, p *process, anew bool) int {
	t.Helper()
	dir := fmt.Sprintf("/proc/%d/", p.cmd.Process.Pid)
	status, err := os.ReadFile(dir + "status")
	require.NoError(t, err)
	_, rest, ok := strings.Cut(string(status), "VmHWM:")
	require.True(t, ok)
	kb, err := strconv.Atoi(strings.Fields(rest)[0])
	require.NoError(t, err)
	if anew {
		require.NoError(t, os.WriteFile(dir+"clear_refs", []byte("5"), 0o600))
	}
	return kb
}
