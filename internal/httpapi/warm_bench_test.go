package httpapi

import (
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
	"widetally/internal/service"
)

// listening is an application that is asked over HTTP.
type listening struct {
	*client
	address string
}

func listen(b *testing.B) *listening {
	c := newClient(b, service.Options{})
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	go func() { _ = c.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	b.Cleanup(func() { _ = c.app.Shutdown() })
	return &listening{c, "http://" + listener.Addr().String()}
}

// ask returns the seconds that an answer takes.
func (l *listening) ask(path string) float64 {
	req, err := http.NewRequest(http.MethodGet, l.address+path, nil)
	require.NoError(l.t, err)
	req.Header.Set("Accept-Encoding", "br") // as browsers do
	start := time.Now()
	res, err := http.DefaultClient.Do(req)
	require.NoError(l.t, err)
	_, err = io.Copy(io.Discard, res.Body)
	require.NoError(l.t, err)
	res.Body.Close()
	require.Equal(l.t, http.StatusOK, res.StatusCode)
	return time.Since(start).Seconds()
}

// The calls against which others are held: one that computes nothing, and one query.
const empty = "/icon.svg"

func v1(path string) string { return "/api/v1" + path }

// digits writes a file of short codes and returns its columns as they are counted, too.
func digits(rows, questions int) (file string, columns [][]uint8) {
	var b strings.Builder
	for q := range questions {
		fmt.Fprintf(&b, "q%d,", q)
		columns = append(columns, make([]uint8, rows))
	}
	b.WriteString("last\n")
	line := make([]byte, 0, 2*questions+2)
	for row := range rows {
		line = line[:0]
		for q := range questions {
			x := byte((row*(q%7+1) + row/3 + q) % (4 + q%5))
			columns[q][row] = x + 1
			line = append(line, '1'+x, ',')
		}
		b.Write(append(line, byte('1'+row%2), '\n'))
	}
	return b.String(), columns
}

// BenchmarkTopline asks for a whole topline: again and again, after an edit of a label so that
// only the counts are remembered, and in a subgroup that nobody has looked at. Printed are
// ratios to an answer of one query and, for the subgroup, to counting the columns.
func BenchmarkTopline(b *testing.B) {
	for _, k := range []struct{ rows, questions int }{{1_000_000, 19}, {10_000, 199}} {
		b.Run(fmt.Sprintf("%d×%d", k.rows, k.questions+1), func(b *testing.B) {
			l := listen(b)
			file, columns := digits(k.rows, k.questions)
			st := l.begin(file)
			first := l.question(st, "q0")
			version, slot := first["version"].(float64), first["answers"].([]any)[1].(object)["slot"]
			l.ask(v1(st + "/topline"))
			nothing, one, warm, edited, among, count, n := 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
			for b.Loop() {
				b.StopTimer()
				n++
				nothing += l.ask(empty)
				one += l.ask(v1(st))
				version = l.call("PATCH", fmt.Sprintf("%s/questions/%v", st, first["id"]), fmt.Sprintf(`{"note":"%v"}`, version), 200, "If-Match", fmt.Sprintf(`"%v"`, version))["version"].(float64)
				edited += l.ask(v1(st + "/topline"))
				b.StartTimer()
				warm += l.ask(v1(st + "/topline"))
				b.StopTimer()
				// Each new subgroup is another one: those who gave an answer, over and over.
				of := fmt.Sprintf(`{"op":"any_of","question":%v,"answers":[%v]}`, first["id"], slot)
				who := `{"name":"g%[2]v","condition":{"op":"and","of":[%[1]s` + strings.Repeat(`,%[1]s`, int(n)%40) + `]}}`
				groups := l.call("POST", st+"/subgroups", fmt.Sprintf(who, of, n), 200)["subgroups"].([]any)
				among += l.ask(fmt.Sprintf("%s?of=%v", v1(st+"/topline"), groups[len(groups)-1].(object)["id"]))
				start := time.Now()
				for _, column := range columns {
					_, err := survey.Distribute(survey.Column{U8: column}, 10, survey.Sample{})
					require.NoError(b, err)
				}
				count += time.Since(start).Seconds()
				b.StartTimer()
			}
			b.ReportMetric(warm/nothing, "×nothing")
			b.ReportMetric(warm/one, "×one-query")
			b.ReportMetric(edited/one, "edited×one-query")
			b.ReportMetric(1000*edited/n, "edited-ms")
			b.ReportMetric(among/count, "subgroup×count")
		})
	}
}

// resident is the memory of this process in MB.
func resident(b *testing.B) float64 {
	raw, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		b.Skip("memory is read from /proc")
	}
	var size, pages float64
	_, err = fmt.Sscan(string(raw), &size, &pages)
	require.NoError(b, err)
	return pages * float64(os.Getpagesize()) / (1 << 20)
}

// BenchmarkTwentyClients has twenty clients ask for a topline of 1,000,000 respondents while
// another one asks for what one query answers, and somebody edits a label now and then.
func BenchmarkTwentyClients(b *testing.B) {
	l := listen(b)
	file, _ := digits(1_000_000, 19)
	st := l.begin(file)
	first := l.question(st, "q0")
	version := first["version"].(float64)
	l.ask(v1(st + "/topline"))
	alone := 0.0
	for range 200 {
		alone += l.ask(v1(st)) / 200
	}
	runtime.GC()
	before := resident(b)
	for b.Loop() {
		start, until := time.Now(), time.Now().Add(5*time.Second)
		var answers atomic.Int64
		var crowd sync.WaitGroup
		for range 20 {
			crowd.Go(func() {
				for time.Now().Before(until) {
					l.ask(v1(st + "/topline"))
					answers.Add(1)
				}
			})
		}
		crowded, small := 0.0, 0.0
		for ; time.Now().Before(until); small++ {
			crowded += l.ask(v1(st))
			if int(small)%500 == 499 {
				version = l.call("PATCH", fmt.Sprintf("%s/questions/%v", st, first["id"]), fmt.Sprintf(`{"note":"%v"}`, version), 200, "If-Match", fmt.Sprintf(`"%v"`, version))["version"].(float64)
			}
		}
		crowd.Wait()
		b.ReportMetric(float64(answers.Load())/time.Since(start).Seconds(), "answers/s")
		b.ReportMetric(crowded/small/alone, "small-call×alone")
	}
	b.ReportMetric(before, "MB-before")
	b.ReportMetric(resident(b), "MB-after")
}

// BenchmarkWarmCrossing asks over HTTP for a question of 1,000,000 respondents with a tested
// crossing below it, and in the same run for what one query answers; the ratio is printed.
func BenchmarkWarmCrossing(b *testing.B) {
	l := listen(b)
	file, _ := digits(1_000_000, 2)
	st := l.begin(file)
	tenure, caddy := l.question(st, "q0"), l.question(st, "q1")
	l.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":"crosstab","version":1,"questions":["%v","%v"],"settings":{"test":{"role":"null","level":0.05}}}}`, caddy["id"], tenure["id"]), 201)
	crossing := v1(fmt.Sprintf("%s/questions/%v", st, caddy["id"]))
	l.ask(crossing)
	own, one := 0.0, 0.0
	for b.Loop() {
		one += l.ask(v1(st))
		own += l.ask(crossing)
	}
	b.ReportMetric(own/one, "×one-query")
}

// BenchmarkLongQuestionnaire asks for what a page of 2,000 questions and 100,000 respondents
// needs first, and for what comes near the screen then, after an edit of another question each
// time, so that nothing but the counts is remembered; and again without an edit.
func BenchmarkLongQuestionnaire(b *testing.B) {
	const questions, rows = 2000, 100_000
	c := newClient(b, service.Options{})
	file, _ := digits(rows, questions)
	st := c.begin(file)
	first := c.question(st, "q0")
	version := first["version"].(float64)
	for b.Loop() {
		b.StopTimer()
		version = c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, first["id"]), fmt.Sprintf(`{"note":"%v"}`, version), 200, "If-Match", fmt.Sprintf(`"%v"`, version))["version"].(float64)
		b.StartTimer()
		start := time.Now()
		page := c.call("GET", st+"/topline?many=60", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-after-edit")
		require.Len(b, page["outline"], questions+1)
		start = time.Now()
		c.call("GET", st+"/topline?many=60", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-first")
		start = time.Now()
		c.call("GET", st+"/questions?from=1001&many=40", "", 200)
		b.ReportMetric(1000*time.Since(start).Seconds(), "ms-next")
	}
}

// BenchmarkWeightedTopline asks for the topline of 1,000,000 respondents × 20 in a subgroup that nobody has
// looked at, so that all is counted anew, in a study that counts respondents and in one that estimates the
// population by weights; and in the latter again, and of everyone for the first time, whose respondents
// were counted as the file came in. Printed are ratios.
func BenchmarkWeightedTopline(b *testing.B) {
	l := listen(b)
	file, _ := digits(1_000_000, 19)
	times := map[string]float64{}
	for b.Loop() {
		b.StopTimer()
		plain, designed := l.begin(file), l.begin(file)
		groups := map[string]string{}
		for _, st := range []string{plain, designed} {
			first, last := l.question(st, "q0"), l.question(st, "last")
			l.call("PATCH", fmt.Sprintf("%s/questions/%v", st, last["id"]), `{"kind":"weight"}`, 200, "If-Match", fmt.Sprintf(`"%v"`, last["version"]))
			who := fmt.Sprintf(`{"name":"g","condition":{"op":"any_of","question":%v,"answers":[%v,%v]}}`, first["id"], first["answers"].([]any)[1].(object)["slot"], first["answers"].([]any)[2].(object)["slot"])
			made := l.call("POST", st+"/subgroups", who, 200)["subgroups"].([]any)
			groups[st] = fmt.Sprintf("%s/topline?of=%v", st, made[0].(object)["id"])
		}
		l.call("PUT", designed+"/design", fmt.Sprintf(`{"weight":%v,"strata":[],"cluster":null,"fraction":"","singlePsu":"refuse","population":null,"replicates":[],"method":"","fay":"","factors":"","df":0,"off":false}`, l.question(designed, "last")["id"]), 200)
		runtime.GC() // what the imports left
		b.StartTimer()
		times["everyone"] += l.ask(v1(designed + "/topline"))
		times["again"] += l.ask(v1(designed + "/topline"))
		times["weighted"] += l.ask(v1(groups[designed]))
		times["counted"] += l.ask(v1(groups[plain]))
		times["one"] += l.ask(v1(designed))
	}
	b.ReportMetric(times["weighted"]/times["counted"], "weighted×counted")
	b.ReportMetric(1000*times["everyone"]/float64(b.N), "everyone-ms")
	b.ReportMetric(1000*times["weighted"]/float64(b.N), "weighted-ms")
	b.ReportMetric(times["again"]/times["one"], "again×one-query")
}
