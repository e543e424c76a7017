package study

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"

	"widetally/core/survey"
)

// columnCache keeps loaded columns up to a number of bytes, dropping those used
// longest ago. Columns are never changed once stored, so a question's id is key
// enough. Safe for concurrent use.
type columnCache struct {
	mu    sync.Mutex
	lru   *simplelru.LRU[uint64, survey.Column]
	bytes int
	most  int
}

func newColumnCache(most int) *columnCache {
	c := &columnCache{most: most}
	c.lru, _ = simplelru.NewLRU(1<<20, func(_ uint64, gone survey.Column) { c.bytes -= gone.Bytes() })
	return c
}

func (c *columnCache) get(question uint64) (survey.Column, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.lru.Get(question)
}

func (c *columnCache) put(question uint64, column survey.Column) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.lru.Contains(question) || column.Bytes() > c.most {
		return
	}
	c.lru.Add(question, column)
	c.bytes += column.Bytes()
	for c.bytes > c.most {
		c.lru.RemoveOldest()
	}
}
