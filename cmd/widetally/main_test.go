package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb"
	"widetally/internal/testroom"
)

// asProgram has the test binary be the program, so that none has to be built.
const asProgram = "WIDETALLY_PROGRAM"

func TestMain(m *testing.M) {
	if os.Getenv(asProgram) != "" {
		main()
	}
	testroom.Run(m)
}

// program is a call of the program, which ends with the tests.
func program(args ...string) *exec.Cmd {
	cmd := exec.Command(os.Args[0], args...)
	cmd.Env = append(os.Environ(), asProgram+"=1")
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	return cmd
}

// tables is the folder of a database that nobody has used, made once.
var tables = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "tables")
	if err != nil {
		return "", err
	}
	server, err := mariadb.Start(context.Background(), dir, mariadb.Options{})
	if err != nil {
		return "", err
	}
	server.Stop()
	return dir, nil
})

// dataFolder is a data folder for the program, with the database's tables in it.
func dataFolder(t *testing.T) string {
	t.Helper()
	if os.Getenv("WIDETALLY_DSN") != "" {
		t.Skip("an outside database is named; this is about the private one")
	}
	made, err := tables()
	require.NoError(t, err)
	data := filepath.Join(t.TempDir(), "a folder with blanks", "data")
	require.NoError(t, os.MkdirAll(data, 0o700))
	out, err := exec.Command("cp", "-r", "--sparse=always", made, filepath.Join(data, "db")).CombinedOutput()
	require.NoError(t, err, string(out))
	return data
}

// process is a started program and what it has printed.
type process struct {
	cmd  *exec.Cmd
	mu   sync.Mutex
	text strings.Builder
	done chan struct{}
}

func (p *process) printed() string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.text.String()
}

func start(t *testing.T, args ...string) *process {
	t.Helper()
	p := prepared(args...)
	p.run(t)
	return p
}

func prepared(args ...string) *process {
	return &process{cmd: program(args...), done: make(chan struct{})}
}

func (p *process) run(t *testing.T) {
	t.Helper()
	out, err := p.cmd.StdoutPipe()
	require.NoError(t, err)
	p.cmd.Stderr = p.cmd.Stdout
	require.NoError(t, p.cmd.Start())
	go func() {
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			p.mu.Lock()
			p.text.WriteString(lines.Text() + "\n")
			p.mu.Unlock()
		}
		_ = p.cmd.Wait()
		close(p.done)
	}()
	t.Cleanup(func() { _ = p.cmd.Process.Kill() })
}

// address waits until the program has said where it is.
func (p *process) address(t *testing.T) string {
	t.Helper()
	var address string
	testroom.Await(t, "an address", func() bool {
		_, after, is := strings.Cut(p.printed(), "Wide Tally is at ")
		if is {
			address = strings.Fields(after)[0]
		}
		select {
		case <-p.done:
			return true
		default:
			return is
		}
	})
	require.NotEmpty(t, address, "it printed: %s", p.printed())
	return address
}

func (p *process) stop(t *testing.T, s syscall.Signal) {
	t.Helper()
	require.NoError(t, p.cmd.Process.Signal(s))
	<-p.done
}

func get(t *testing.T, url string) string {
	t.Helper()
	res, err := http.Get(url)
	require.NoError(t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return string(body)
}

// running reports whether a process of this data folder's database still lives.
func running(t *testing.T, data string) bool {
	t.Helper()
	files, err := filepath.Glob("/proc/[0-9]*/cmdline")
	require.NoError(t, err)
	for _, f := range files {
		if line, err := os.ReadFile(f); err == nil && strings.Contains(string(line), "--datadir="+data) {
			return true
		}
	}
	return false
}

// The program is taken through its days: started on a taken port, started twice,
// killed, started again, and stopped as Ctrl-C does.
func TestTheProgramStartsStopsAndSurvivesKills(t *testing.T) {
	t.Parallel()
	if os.Getenv("WIDETALLY_DSN") != "" {
		t.Skip("an outside database is named; this is about the private one")
	}
	dir := filepath.Join(t.TempDir(), "a folder with blanks")
	data := filepath.Join(dir, "data") // which the program makes itself
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	addr := taken.Addr().String()

	first := start(t, "demo", "--addr", addr, "--data", data)
	base := first.address(t)
	assert.NotEqual(t, "http://"+addr, base)
	assert.Contains(t, first.printed(), "is taken, trying the next one")
	studies := get(t, base+"/api/v1/studies")
	assert.Contains(t, studies, "Fernmouth kerbside survey")
	assert.Contains(t, get(t, base+"/"), "<title>Wide Tally</title>", "the page is part of the program")

	second := start(t, "demo", "--data", data)
	<-second.done
	assert.Contains(t, second.printed(), "already runs on this data folder")
	assert.Contains(t, second.printed(), base)

	first.stop(t, syscall.SIGKILL)
	third := start(t, "demo", "--addr", addr, "--data", data)
	base = third.address(t)
	assert.Equal(t, studies, get(t, base+"/api/v1/studies"), "nothing lost, nothing loaded twice")
	third.stop(t, syscall.SIGINT)
	assert.Zero(t, third.cmd.ProcessState.ExitCode())
	assert.False(t, running(t, data), "the database ended with it")

	// A backup of it is restored elsewhere, and leaves as a recipe.
	backup, other, recipe := filepath.Join(dir, "all.zip"), filepath.Join(dir, "other"), filepath.Join(dir, "recipe.yaml")
	for _, args := range [][]string{{"backup", backup, "--data", data}, {"restore", backup, "--data", other}, {"export", "1", recipe, "--data", other}} {
		out, err := program(args...).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	text, err := os.ReadFile(recipe)
	require.NoError(t, err)
	assert.Contains(t, string(text), "name: Fernmouth kerbside survey")
	assert.False(t, running(t, other))
}

// Application and database are killed at different points of an import; after a start
// the study is whole, with every row, or absent.
func TestAKilledImportIsWholeOrAbsent(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	const rows = 200_000
	var file strings.Builder
	file.WriteString("a,b,c,d,e\n")
	for i := range rows {
		fmt.Fprintf(&file, "%d,%d,%d,%d,word %d\n", i%5, i%7, i%3, i, i%11)
	}
	ended := map[bool]int{}
	for _, after := range []time.Duration{5 * time.Millisecond, 60 * time.Millisecond, 200 * time.Millisecond, 500 * time.Millisecond} {
		p := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data)
		base := p.address(t)
		var arrival struct {
			ID       string          `json:"id"`
			Settings json.RawMessage `json:"settings"`
		}
		res, err := http.Post(base+"/api/v1/arrivals?name=a.csv", "application/octet-stream", strings.NewReader(file.String()))
		require.NoError(t, err)
		require.NoError(t, json.NewDecoder(res.Body).Decode(&arrival))
		res.Body.Close()
		body := fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"after %v"}`, arrival.ID, arrival.Settings, after)
		go func() { _, _ = http.Post(base+"/api/v1/studies", "application/json", strings.NewReader(body)) }()
		time.Sleep(after)
		pid, err := os.ReadFile(filepath.Join(data, "db", "server.pid"))
		require.NoError(t, err)
		server, err := strconv.Atoi(strings.TrimSpace(string(pid)))
		require.NoError(t, err)
		require.NoError(t, syscall.Kill(server, syscall.SIGKILL))
		p.stop(t, syscall.SIGKILL)

		again := start(t, "serve", "--addr", "127.0.0.1:0", "--data", data)
		base = again.address(t)
		var shelf struct {
			Studies []struct {
				ID, Rows, Questions int
				Name                string
			} `json:"studies"`
		}
		require.NoError(t, json.Unmarshal([]byte(get(t, base+"/api/v1/studies")), &shelf))
		whole := false
		for _, st := range shelf.Studies {
			assert.Equal(t, []int{rows, 5}, []int{st.Rows, st.Questions})
			page := get(t, fmt.Sprintf("%s/api/v1/studies/%d/topline", base, st.ID))
			assert.Contains(t, page, fmt.Sprintf(`"everyone":%d`, rows), "every column can be read")
			whole = whole || st.Name == fmt.Sprintf("after %v", after)
		}
		ended[whole]++
		again.stop(t, syscall.SIGINT)
	}
	t.Logf("%d times absent, %d times whole", ended[false], ended[true])
}

func TestAddressesAreExplained(t *testing.T) {
	_, err := listen("nonsense")
	assert.ErrorContains(t, err, "write it like 127.0.0.1:8420")
	_, err = listen("127.0.0.1:port")
	assert.ErrorContains(t, err, "is no number")
}
