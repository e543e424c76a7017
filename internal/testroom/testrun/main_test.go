package main

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestARunIsTold(t *testing.T) {
	var told strings.Builder
	o := read(strings.NewReader(strings.Join([]string{
		`{"Action":"output","Package":"widetally/a","Test":"TestGood","Output":"what is good\n"}`,
		`{"Action":"pass","Package":"widetally/a","Test":"TestGood","Elapsed":1.5}`,
		`{"Action":"output","Package":"widetally/a","Test":"TestBad/part","Output":"    what is bad\n"}`,
		`{"Action":"fail","Package":"widetally/a","Test":"TestBad/part","Elapsed":2}`,
		`{"Action":"output","Package":"widetally/a","Test":"TestBad","Output":"--- FAIL: TestBad\n"}`,
		`{"Action":"fail","Package":"widetally/a","Test":"TestBad","Elapsed":2.25}`,
		`{"Action":"skip","Package":"widetally/a","Test":"TestNot","Elapsed":0}`,
		`{"Action":"output","Package":"widetally/a","Test":"TestHalf","Output":"panic: what it said\n"}`,
		`{"Action":"output","Package":"widetally/a","Output":"FAIL widetally/a 4s\n"}`,
		`{"Action":"fail","Package":"widetally/a","Elapsed":4}`,
		`{"ImportPath":"widetally/b","Action":"build-output","Output":"does not compile\n"}`,
		`{"ImportPath":"widetally/b","Action":"build-fail"}`,
		`panic: as it is`,
	}, "\n")), &told)
	assert.Equal(t, "    what is bad\n--- FAIL: TestBad\npanic: what it said\nFAIL widetally/a 4s\ndoes not compile\npanic: as it is", told.String())
	assert.Equal(t, `The slowest tests, those beside them included:
    2.2 s  a TestBad
    1.5 s  a TestGood
    0.0 s  a TestNot
1 test passed, 1 failed, 1 skipped in 2 min 5 s.
`, o.end(125*time.Second))
}
