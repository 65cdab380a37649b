// Package cache keeps what was made by a name, up to a number of bytes: what was
// asked for last stays. Those who ask for one thing at the same time wait for
// one making of it.
package cache

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/singleflight"
)

// Cache keeps values. The zero value keeps one.
type Cache[T any] struct {
	Most int64 // bytes

	flights singleflight.Group
	mu      sync.Mutex
	kept    *simplelru.LRU[string, entry[T]]
	bytes   int64
}

type entry[T any] struct {
	value T
	bytes int64
}

// Get is the value of a name, which is made where it is not kept; with it comes
// about how many bytes it takes. What failed is not kept.
func (c *Cache[T]) Get(name string, make func() (T, int64, error)) (T, error) {
	if v, ok := c.Find(name); ok {
		return v, nil
	}
	v, err, _ := c.flights.Do(name, func() (any, error) {
		if v, ok := c.Find(name); ok {
			return v, nil // made between the look and now
		}
		v, bytes, err := make()
		if err == nil {
			c.Keep(name, v, bytes)
		}
		return v, err
	})
	if err != nil {
		var none T
		return none, err
	}
	return v.(T), nil
}

// Find is the value of a name where it is kept.
func (c *Cache[T]) Find(name string) (v T, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.kept == nil {
		return v, false
	}
	e, ok := c.kept.Get(name)
	return e.value, ok
}

// Keep keeps the value of a name, which takes about so many bytes.
func (c *Cache[T]) Keep(name string, v T, bytes int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.kept == nil {
		const most = 1 << 20 // by number there is no bound: bytes are
		c.kept, _ = simplelru.NewLRU(most, func(_ string, e entry[T]) { c.bytes -= e.bytes })
	}
	c.kept.Add(name, entry[T]{v, bytes})
	for c.bytes += bytes; c.bytes > c.Most && c.kept.Len() > 1; {
		c.kept.RemoveOldest()
	}
}

// Bytes is about how much is kept.
func (c *Cache[T]) Bytes() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.bytes
}
