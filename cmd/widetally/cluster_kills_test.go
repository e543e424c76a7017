package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/testroom"
)

// known is what the test was told about a study: what was acknowledged, and what may have been kept.
type known struct {
	mu      sync.Mutex
	claims  map[int][]int
	edits   map[string]float64
	unsure  map[string]float64
	shaking []int // studies of which whatever is done, undo too, is only looked at whole
}

// work does something through one process, and notes what it was told.
func (k *known) work(c *caller, rng *rand.Rand) {
	k.mu.Lock()
	var studies []int
	for id := range k.claims {
		studies = append(studies, id)
	}
	shaking := k.shaking
	k.mu.Unlock()
	switch n := rng.IntN(10); {
	case len(studies) < 2 || n == 0 && len(studies) < 12:
		if id := c.bring("counted", soakFile(rng)); id != 0 {
			k.mu.Lock()
			k.claims[id] = nil
			k.mu.Unlock()
		}
	case len(shaking) < 2:
		if id := c.bring("shaken", soakFile(rng)); id != 0 {
			k.mu.Lock()
			k.shaking = append(k.shaking, id)
			k.mu.Unlock()
		}
	case n < 4:
		c.oneThing(rng, shaking[rng.IntN(len(shaking))])
	default:
		study := studies[rng.IntN(len(studies))]
		list := c.questions(study)
		if len(list) == 0 {
			return
		}
		if n < 7 {
			if id := c.claim(study, list[0]["id"]); id != 0 {
				k.mu.Lock()
				k.claims[study] = append(k.claims[study], id)
				k.mu.Unlock()
			}
			return
		}
		q := list[1+rng.IntN(2)]
		path := fmt.Sprintf("/studies/%d/questions/%v", study, q["id"])
		status, said := c.call("PATCH", path, object{"wording": fmt.Sprint(rng.Uint64())}, q["version"])
		k.mu.Lock()
		defer k.mu.Unlock()
		switch {
		case status == http.StatusOK, said["code"] == "http.kept":
			k.edits[path]++
		case status == 0 || status == http.StatusServiceUnavailable && said["code"] == "http.unsure":
			k.unsure[path]++
		}
	}
}

// check compares what is there with what the test was told: each study with the figures of its file, each claim, each edit once.
func (k *known) check(t *testing.T, c *caller) {
	t.Helper()
	for _, study := range k.shaking {
		c.whole(t, study)
	}
	for study, claims := range k.claims {
		c.whole(t, study)
		for i, q := range c.questions(study) {
			path := fmt.Sprintf("/studies/%d/questions/%v", study, q["id"])
			version := q["version"].(float64)
			assert.GreaterOrEqual(t, version, 1+k.edits[path], path)
			assert.LessOrEqual(t, version, 1+k.edits[path]+k.unsure[path], path)
			if i == 1 { // which is drawn
				continue
			}
			var counts []float64
			for _, r := range q["rows"].([]any) {
				counts = append(counts, r.(object)["count"].(float64))
			}
			assert.Equal(t, map[int][]float64{0: {120, 120, 120, 120, 120}, 2: {200, 200, 200}}[i], counts, path)
			if i == 0 {
				there := c.claims(study, q["id"])
				for _, id := range claims {
					assert.True(t, there[id], "claim %d of study %d was acknowledged", id, study)
				}
			}
		}
	}
}

// logFaults tells what a process has logged of errors that it had no words for.
func logFaults(t *testing.T, p *process) {
	t.Helper()
	for line := range strings.Lines(p.printed()) {
		if strings.Contains(line, "level=ERROR") && !strings.Contains(line, "study: ") {
			t.Log(line)
		}
	}
}

// Nodes and processes end at random, are cut off or stop without a word, during imports, edits, undo and files that leave: nothing
// that was acknowledged is lost, and every figure is that of the file.
func TestSoakClusterKills(t *testing.T) {
	if !soaking {
		t.Skip("a quarter of an hour; run by make soak-cluster")
	}
	ctx, db := context.Background(), cluster(t)
	seed := uint64(time.Now().UnixNano())
	rng := rand.New(rand.NewPCG(seed, 1))
	t.Logf("seed %d", seed)
	through := []string{db.DSN(0, 1, 2), db.DSN(1, 2, 0)}
	apps, at := make([]*process, 2), make([]*caller, 2)
	begin := func(i int) {
		apps[i] = beside(t, through[i])
		at[i] = newCaller(apps[i].address(t))
	}
	for i := range apps {
		begin(i)
	}
	k := &known{claims: map[int][]int{}, edits: map[string]float64{}, unsure: map[string]float64{}}
	done, faults, refused := map[string]int{}, 0, 0
	for round := range clusterRounds {
		ended := make(chan struct{})
		var wait sync.WaitGroup
		for worker := range 6 {
			mine, c := rand.New(rand.NewPCG(rng.Uint64(), 2)), at[worker%2]
			wait.Go(func() {
				for {
					select {
					case <-ended:
						return
					default:
						k.work(c, mine)
					}
				}
			})
		}
		time.Sleep(time.Duration(300+rng.IntN(1500)) * time.Millisecond)
		node, app := rng.IntN(3), rng.IntN(2)
		what := []string{"node killed", "process killed", "node cut off", "node frozen", "both killed"}[rng.IntN(5)]
		done[what]++
		if what == "process killed" || what == "both killed" {
			_ = apps[app].cmd.Process.Kill()
		}
		switch what {
		case "node killed", "both killed":
			db.Kill(node)
		case "node cut off":
			require.NoError(t, db.Isolate(ctx, node, true))
		case "node frozen":
			db.Freeze(node)
		}
		time.Sleep(time.Duration(500+rng.IntN(4500)) * time.Millisecond)
		close(ended)
		switch what {
		case "node killed", "both killed":
			require.NoError(t, db.Start(ctx, node))
		case "node cut off":
			require.NoError(t, db.Isolate(ctx, node, false))
		case "node frozen":
			db.Thaw(node)
		}
		wait.Wait()
		if what == "process killed" || what == "both killed" {
			<-apps[app].done
			logFaults(t, apps[app])
			faults, refused = faults+at[app].faults(), refused+int(at[app].failed.Load())
			begin(app)
		}
		for _, c := range at {
			testroom.Await(t, "the cluster to answer again after "+what, func() bool {
				status, _ := c.call("GET", "/studies", nil, nil)
				return status == http.StatusOK
			})
			k.check(t, c)
		}
		if t.Failed() {
			t.Fatalf("after: %s", what)
		}
		t.Logf("round %d: %s", round+1, what)
	}
	claims, edits := 0, 0
	for _, list := range k.claims {
		claims += len(list)
	}
	for _, n := range k.edits {
		edits += int(n)
	}
	for i, c := range at {
		logFaults(t, apps[i])
		faults, refused = faults+c.faults(), refused+int(c.failed.Load())
	}
	assert.Zero(t, faults, "answered by 500: %v %v", at[0].fault.Load(), at[1].fault.Load())
	t.Logf("%v; %d studies, %d claims and %d edits acknowledged, all there; %d requests refused meanwhile, %d of them by 500", done, len(k.claims)+len(k.shaking), claims, edits, refused, faults)
	for _, p := range apps {
		p.stop(t, syscall.SIGINT)
	}
	out, err := trailsOf(through[0])
	require.NoError(t, err, out)
}

// A node that is cut off from the others says so and takes nothing; what is asked of the majority meanwhile is kept, and there for
// all once the network is back.
func TestTheMinorityTakesNothing(t *testing.T) {
	ctx, db := context.Background(), cluster(t)
	many, few := beside(t, db.DSN(0, 1)), beside(t, db.DSN(2))
	majority, minority := newCaller(many.address(t)), newCaller(few.address(t))
	study := majority.bring("cut", soakFile(rand.New(rand.NewPCG(1, 1))))
	require.NotZero(t, study)
	q := minority.questions(study)[0]
	path := fmt.Sprintf("/studies/%d/questions/%v", study, q["id"])
	require.NoError(t, db.Isolate(ctx, 2, true))
	testroom.Await(t, "the minority to say so", func() bool {
		status, said := minority.call("GET", path, nil, nil)
		return status == http.StatusServiceUnavailable && said["code"] == "http.database_gone"
	})
	status, said := minority.call("PATCH", path, object{"wording": "of the minority"}, q["version"])
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Equal(t, "http.database_gone", said["code"])
	testroom.Await(t, "the majority to go on", func() bool {
		status, _ := majority.call("PATCH", path, object{"wording": "of the majority"}, q["version"])
		return status == http.StatusOK
	})
	require.NoError(t, db.Isolate(ctx, 2, false))
	testroom.Await(t, "the network to be back", func() bool {
		status, one := minority.call("GET", path, nil, nil)
		return status == http.StatusOK && one["wording"] == "of the majority"
	})
	assert.InDelta(t, q["version"].(float64)+1, minority.questions(study)[0]["version"], 0, "kept once")
}
