// Load has many people work at once, and prints how long they waited (make load): each has a page open that hears of changes, and
// every ten seconds reads (70 %), asks (20 %) or edits (10 %) in the study of their team. What came of it belongs in docs/quality.md.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

func main() {
	l := &load{waits: map[string][]time.Duration{}, faults: map[string]int{}}
	at := flag.String("at", "", "addresses of what is to be tried, with commas between; without any it starts one on an empty folder")
	program := flag.String("program", "build/widetally", "the application")
	flag.IntVar(&l.people, "people", 500, "how many people")
	flag.IntVar(&l.team, "team", 10, "how many of them work in one study")
	flag.IntVar(&l.rows, "rows", 2000, "respondents of a study")
	flag.DurationVar(&l.pause, "pause", 10*time.Second, "how long somebody looks at what they have on average, before they go on")
	lasts := flag.Duration("for", 5*time.Minute, "for how long")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := l.run(ctx, *at, *program, *lasts); err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

type load struct {
	people, team, rows int
	pause              time.Duration
	bases              []string
	client             *http.Client
	mu                 sync.Mutex
	waits              map[string][]time.Duration
	faults             map[string]int
	told               int // events that open pages heard
}

type object = map[string]any

func (l *load) run(ctx context.Context, at, program string, lasts time.Duration) error {
	l.client = &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 2 * l.people, IdleConnTimeout: 15 * time.Second}}
	if at == "" {
		own, end, err := serve(ctx, program)
		if err != nil {
			return err
		}
		defer end()
		at = own
	}
	l.bases = strings.Split(at, ",")
	var studies []int
	for range (l.people + l.team - 1) / l.team {
		id, err := l.bring(ctx)
		if err != nil {
			return err
		}
		studies = append(studies, id)
	}
	fmt.Printf("%d people in %d studies for %s\n", l.people, len(studies), lasts)
	ctx, stop := context.WithTimeout(ctx, lasts)
	defer stop()
	var all sync.WaitGroup
	for i := range l.people {
		p := &person{load: l, base: l.bases[i%len(l.bases)], study: studies[i/l.team], rng: rand.New(rand.NewPCG(uint64(i), 9))}
		all.Go(func() { p.listen(ctx) })
		all.Go(func() { p.work(ctx) })
	}
	all.Wait()
	l.print(lasts)
	if len(l.faults) > 0 {
		return fmt.Errorf("refused: %v", l.faults)
	}
	return nil
}

// serve starts the application on an empty folder.
func serve(ctx context.Context, program string) (address string, end func(), err error) {
	dir, err := os.MkdirTemp("", "load")
	if err != nil {
		return "", nil, err
	}
	c := exec.CommandContext(ctx, program, "serve", "--addr", "127.0.0.1:0", "--data", dir)
	c.Cancel = func() error { return c.Process.Signal(syscall.SIGTERM) }
	if err := c.Start(); err != nil {
		return "", nil, err
	}
	end = func() {
		_ = c.Process.Signal(syscall.SIGTERM)
		_ = c.Wait()
		os.RemoveAll(dir)
	}
	for began := time.Now(); time.Since(began) < time.Minute; time.Sleep(50 * time.Millisecond) {
		if raw, err := os.ReadFile(filepath.Join(dir, "address")); err == nil {
			return strings.TrimSpace(string(raw)), end, nil
		}
	}
	end()
	return "", nil, errors.New("the application does not start")
}

// call asks for something and notes how long it took; wait is under which name, "" for none.
func (l *load) call(ctx context.Context, wait, method, address string, body any, version any) (int, object) {
	var in io.Reader
	kind := "application/json"
	switch b := body.(type) {
	case nil:
	case string:
		in, kind = strings.NewReader(b), "application/octet-stream"
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			panic(err)
		}
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequestWithContext(ctx, method, address, in)
	if err != nil {
		panic(err)
	}
	req.Header.Set("Content-Type", kind)
	if version != nil {
		req.Header.Set("If-Match", fmt.Sprintf(`"%v"`, version))
	}
	began := time.Now()
	res, err := l.client.Do(req)
	var raw []byte
	if err == nil {
		raw, err = io.ReadAll(res.Body)
		res.Body.Close()
	}
	took := time.Since(began)
	if ctx.Err() != nil {
		return 0, nil
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if err != nil {
		l.faults[wait+": "+err.Error()]++
		return 0, nil
	}
	var out object
	_ = json.Unmarshal(raw, &out)
	// That a colleague came before is an answer.
	if res.StatusCode >= 400 && res.StatusCode != http.StatusPreconditionFailed {
		l.faults[fmt.Sprintf("%s: %d %v", wait, res.StatusCode, out["title"])]++
	}
	if wait != "" {
		l.waits[wait] = append(l.waits[wait], took)
	}
	return res.StatusCode, out
}

func (l *load) bring(ctx context.Context) (int, error) {
	var b strings.Builder
	b.WriteString("id")
	const questions = 20
	for q := range questions {
		fmt.Fprintf(&b, ",q%d", q+1)
	}
	rng := rand.New(rand.NewPCG(1, 2))
	for i := range l.rows {
		fmt.Fprintf(&b, "\n%d", i+1)
		for q := range questions {
			fmt.Fprintf(&b, ",a%d", rng.IntN(2+q%6))
		}
	}
	base := l.bases[0] + "/api/v1"
	_, a := l.call(ctx, "", "POST", base+"/arrivals?name=a.csv", b.String()+"\n", nil)
	_, st := l.call(ctx, "", "POST", base+"/studies", object{"arrivalId": a["id"], "settings": a["settings"], "name": "load"}, nil)
	id, ok := st["id"].(float64)
	if !ok {
		return 0, fmt.Errorf("no study could be made: %v", l.faults)
	}
	return int(id), nil
}

// person is somebody at work.
type person struct {
	*load
	base  string
	study int
	rng   *rand.Rand
	page  []any // the questions of the topline as they read it last
	asked []int // analyses that they have asked for
}

// listen is a page that is open and hears of changes.
func (p *person) listen(ctx context.Context) {
	for ctx.Err() == nil {
		req, err := http.NewRequestWithContext(ctx, "GET", p.base+"/api/v1/live", nil)
		if err != nil {
			panic(err)
		}
		res, err := p.client.Do(req)
		if err != nil {
			continue
		}
		buf := make([]byte, 4096)
		for {
			n, err := res.Body.Read(buf)
			p.mu.Lock()
			p.told += bytes.Count(buf[:n], []byte("data:"))
			p.mu.Unlock()
			if err != nil {
				break
			}
		}
		res.Body.Close()
	}
}

// work does one thing after another, as somebody does who has the page open: they read it, a question of it or another place, ask,
// and edit what they have read; who was too slow reads again.
func (p *person) work(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Duration(p.rng.ExpFloat64() * float64(p.pause))):
		}
		base := fmt.Sprintf("%s/api/v1/studies/%d", p.base, p.study)
		if len(p.page) == 0 {
			p.read(ctx, base)
			continue
		}
		question := func() object { return p.page[1+p.rng.IntN(len(p.page)-1)].(object) }
		q := question()
		switch n := p.rng.IntN(20); {
		case n < 5:
			p.read(ctx, base)
		case n < 9:
			p.call(ctx, "read: question", "GET", fmt.Sprintf("%s/questions/%v", base, q["id"]), nil, nil)
		case n < 12:
			p.call(ctx, "read: codebook", "GET", base+"/codebook", nil, nil)
		case n < 14:
			p.call(ctx, "read: register", "GET", base+"/claims", nil, nil)
		case n < 18:
			p.ask(ctx, base, q["id"], question()["id"])
		default:
			status, now := p.call(ctx, "edit: question", "PATCH", fmt.Sprintf("%s/questions/%v", base, q["id"]), object{"note": fmt.Sprint("looked at ", p.rng.IntN(1000))}, q["version"])
			if status == http.StatusPreconditionFailed {
				p.read(ctx, base)
			} else if v, ok := now["version"]; ok {
				q["version"] = v
			}
		}
	}
}

func (p *person) read(ctx context.Context, base string) {
	_, page := p.call(ctx, "read: topline", "GET", base+"/topline", nil, nil)
	p.page, _ = page["questions"].([]any)
}

// ask crosses two questions, and takes back what was asked before the last two.
func (p *person) ask(ctx context.Context, base string, one, other any) {
	if one == other {
		return
	}
	spec := object{"method": "crosstab", "version": 1, "questions": []string{fmt.Sprint(one), fmt.Sprint(other)}, "settings": object{"reading": "row"}}
	_, made := p.call(ctx, "ask: crossing", "POST", base+"/analyses", object{"run": false, "spec": spec}, nil)
	if id, ok := made["analysisId"].(float64); ok {
		p.asked = append(p.asked, int(id))
	}
	if len(p.asked) > 2 {
		p.call(ctx, "edit: taken away", "DELETE", fmt.Sprintf("%s/analyses/%d", base, p.asked[0]), nil, nil)
		p.asked = p.asked[1:]
	}
}

func (l *load) print(lasts time.Duration) {
	fmt.Println("\n| what | times | median | 95 % | 99 % | longest |\n|---|---|---|---|---|---|")
	total := 0
	var names []string
	for name := range l.waits {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		w := l.waits[name]
		slices.Sort(w)
		total += len(w)
		at := func(share float64) string {
			return fmt.Sprintf("%.1f ms", float64(w[int(share*float64(len(w)-1))].Microseconds())/1000)
		}
		fmt.Printf("| %s | %d | %s | %s | %s | %s |\n", name, len(w), at(0.5), at(0.95), at(0.99), at(1))
	}
	refused := 0
	for _, n := range l.faults {
		refused += n
	}
	fmt.Printf("\n%d requests, %.0f a second; refused: %d; open pages heard %d events\n", total, float64(total)/lasts.Seconds(), refused, l.told)
}
