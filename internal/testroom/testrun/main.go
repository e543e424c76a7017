// Command testrun runs `go test` with its arguments, all packages on one throwaway database
// server, and ends with a line of its time and the slowest tests.
package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	"time"

	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/testroom"
)

func main() { os.Exit(testroom.In(run)) }

func run(room testroom.Room) int {
	began := time.Now()
	dsn, err := mariadbtest.Serve(room)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	cmd := exec.CommandContext(ctx, "go", append([]string{"test", "-json"}, os.Args[1:]...)...)
	// Its own process group, so that an interrupt reaches the tests, too, and reaches them once.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGINT) }
	cmd.Env = append(os.Environ(), mariadbtest.Env+"="+dsn)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	said := read(out, os.Stdout)
	err = cmd.Wait()
	fmt.Print(said.end(time.Since(began)))
	if err != nil || said.failed > 0 {
		return 1
	}
	return 0
}

// event is a line of `go test -json`.
type event struct {
	Action, Package, Test, Output string
	Elapsed                       float64
}

// outcome is what a run came to.
type outcome struct {
	passed, failed, skipped int
	tests                   []event // that are no part of another, as they ended
}

// read follows a run: packages are told as they end, and of what failed all that it said.
func read(from io.Reader, to io.Writer) (o outcome) {
	texts := map[string]*strings.Builder{}
	lines := bufio.NewReader(from)
	for {
		line, err := lines.ReadBytes('\n')
		var e event
		if json.Unmarshal(line, &e) == nil && e.Action != "" {
			o.take(e, texts, to)
		} else {
			_, _ = to.Write(line)
		}
		if err != nil {
			return o
		}
	}
}

func (o *outcome) take(e event, texts map[string]*strings.Builder, to io.Writer) {
	key := e.Package + " " + e.Test
	switch e.Action {
	case "build-output":
		fmt.Fprint(to, e.Output)
		return
	case "output":
		if e.Test == "" && e.Output == "PASS\n" {
			return
		}
		if texts[key] == nil {
			texts[key] = &strings.Builder{}
		}
		texts[key].WriteString(e.Output)
		return
	case "pass", "fail", "skip":
	default:
		return
	}
	said := texts[key]
	delete(texts, key)
	if e.Test == "" && e.Action == "fail" { // what the tests said that had not ended
		for other, text := range texts {
			if strings.HasPrefix(other, key) {
				fmt.Fprint(to, text)
				delete(texts, other)
			}
		}
	}
	if said != nil && (e.Action == "fail" || e.Test == "") {
		fmt.Fprint(to, said)
	}
	if e.Test == "" || strings.Contains(e.Test, "/") {
		return
	}
	o.tests = append(o.tests, e)
	switch e.Action {
	case "pass":
		o.passed++
	case "fail":
		o.failed++
	case "skip":
		o.skipped++
	}
}

// end tells the slowest tests and the time of all.
func (o outcome) end(took time.Duration) string {
	var b strings.Builder
	slices.SortStableFunc(o.tests, func(x, y event) int { return cmp.Compare(y.Elapsed, x.Elapsed) })
	fmt.Fprintln(&b, "The slowest tests, those beside them included:")
	for _, e := range o.tests[:min(10, len(o.tests))] {
		fmt.Fprintf(&b, "%7.1f s  %s %s\n", e.Elapsed, strings.TrimPrefix(e.Package, "widetally/"), e.Test)
	}
	tests := "tests"
	if o.passed == 1 {
		tests = "test"
	}
	fmt.Fprintf(&b, "%d %s passed, %d failed, %d skipped in %d min %d s.\n", o.passed, tests,
		o.failed, o.skipped, int(took.Minutes()), int(took.Seconds())%60)
	return b.String()
}
