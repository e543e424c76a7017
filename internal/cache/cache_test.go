package cache

import (
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
)

type sized int

func (s sized) Bytes() int { return int(s) }

// model is what the cache should hold, written as plainly as can be: the keys, the one used
// longest ago first, with their sizes.
type model struct {
	keys  []int
	sizes map[int]int
	most  int
}

func (m *model) get(key int) (int, bool) {
	size, is := m.sizes[key]
	if is {
		m.keys = append(slices.DeleteFunc(m.keys, func(k int) bool { return k == key }), key)
	}
	return size, is
}

func (m *model) put(key, size int) {
	if _, is := m.sizes[key]; is || size > m.most {
		return
	}
	m.keys, m.sizes[key] = append(m.keys, key), size
	for m.bytes() > m.most {
		delete(m.sizes, m.keys[0])
		m.keys = m.keys[1:]
	}
}

func (m *model) bytes() (n int) {
	for _, size := range m.sizes {
		n += size
	}
	return n
}

// Whatever is put and looked for, the cache holds what the plain model holds, and never more
// bytes than it may.
func TestTheCacheHoldsWhatWasUsedLast(t *testing.T) {
	for _, most := range []int{0, 1, 10, 100, 1000} {
		rng := rand.New(rand.NewPCG(uint64(most), 3))
		c, m := New[int, sized](most), &model{sizes: map[int]int{}, most: most}
		for range 5000 {
			key, size := rng.IntN(40), rng.IntN(most/5+2)
			if rng.IntN(50) == 0 {
				size = most + 1 + rng.IntN(10) // larger than all that it may hold
			}
			if rng.IntN(2) == 0 {
				got, found := c.Get(key)
				want, is := m.get(key)
				if !assert.Equal(t, is, found) || is && !assert.Equal(t, want, int(got)) {
					return
				}
				continue
			}
			c.Put(key, sized(size))
			m.put(key, size)
			if !assert.LessOrEqual(t, c.bytes, most) || !assert.Equal(t, m.bytes(), c.bytes) {
				return
			}
		}
	}
}

// Many at once find only what somebody put, and the bytes still add up.
func TestManyUseACacheAtOnce(t *testing.T) {
	c := New[int, sized](500)
	var wait sync.WaitGroup
	for worker := range 8 {
		wait.Go(func() {
			rng := rand.New(rand.NewPCG(uint64(worker), 9))
			for range 4000 {
				key := rng.IntN(60)
				if got, found := c.Get(key); found {
					assert.Equal(t, sized(key+1), got)
				} else {
					c.Put(key, sized(key+1))
				}
			}
		})
	}
	wait.Wait()
	held := 0
	for _, v := range c.lru.Values() {
		held += v.Bytes()
	}
	assert.Equal(t, held, c.bytes)
	assert.LessOrEqual(t, held, 500)
}
