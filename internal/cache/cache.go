// Package cache keeps in memory what would have to be found anew, up to a number of bytes.
package cache

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// Sized is what tells the memory that it holds, always the same.
type Sized interface{ Bytes() int }

// Cache keeps what was loaded or counted up to a number of bytes, dropping what was used
// longest ago. What it holds is never changed. Safe for concurrent use.
type Cache[K comparable, V Sized] struct {
	mu    sync.Mutex
	lru   *simplelru.LRU[K, V]
	bytes int
	most  int
}

// New makes a cache of so many bytes.
func New[K comparable, V Sized](most int) *Cache[K, V] {
	c := &Cache[K, V]{most: most}
	c.lru, _ = simplelru.NewLRU(1<<20, func(_ K, gone V) { c.bytes -= gone.Bytes() }) // fails for sizes below 1 only
	return c
}

// Get finds what was put under a key.
func (c *Cache[K, V]) Get(key K) (V, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.lru.Get(key)
}

// Put keeps a value, unless one is kept under the key already or it is larger than the whole
// cache may be.
func (c *Cache[K, V]) Put(key K, value V) {
	size := value.Bytes()
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.lru.Contains(key) || size > c.most {
		return
	}
	c.lru.Add(key, value)
	c.bytes += size
	for c.bytes > c.most {
		c.lru.RemoveOldest()
	}
}
