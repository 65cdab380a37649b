package main

import "sync"

// once makes a value for each key when it is first asked for; others who ask wait for it.
type once[K comparable, V any] struct {
	mu   sync.Mutex
	made map[K]func() (V, error)
}

func (o *once[K, V]) get(key K, maker func() (V, error)) (V, error) {
	o.mu.Lock()
	if o.made == nil {
		o.made = map[K]func() (V, error){}
	}
	f, ok := o.made[key]
	if !ok {
		f = sync.OnceValues(maker)
		o.made[key] = f
	}
	o.mu.Unlock()
	return f()
}
