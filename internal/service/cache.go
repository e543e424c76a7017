package service

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"

	"widetally/core/survey"
)

// columnKey names a state of a question's answers, which never changes.
type columnKey struct {
	question   uint64
	generation int
}

// columnCache keeps loaded columns up to a number of bytes, dropping those used
// longest ago. Safe for concurrent use.
type columnCache struct {
	mu    sync.Mutex
	lru   *simplelru.LRU[columnKey, survey.Column]
	bytes int
	most  int
}

func newColumnCache(most int) *columnCache {
	c := &columnCache{most: most}
	c.lru, _ = simplelru.NewLRU(1<<20, func(_ columnKey, gone survey.Column) { c.bytes -= gone.Bytes() })
	return c
}

func (c *columnCache) get(key columnKey) (survey.Column, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.lru.Get(key)
}

func (c *columnCache) put(key columnKey, column survey.Column) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.lru.Contains(key) || column.Bytes() > c.most {
		return
	}
	c.lru.Add(key, column)
	c.bytes += column.Bytes()
	for c.bytes > c.most {
		c.lru.RemoveOldest()
	}
}
