package server

import (
	"encoding/json"
	"hash/maphash"
	"strconv"

	lru "github.com/hashicorp/golang-lru/v2"
)

// cacheSize is how many things are kept: panels ready for use, rows of patches, weights of parts. Each is small beside what it is made from.
const cacheSize = 4096

// cache keeps what has been worked out, by the hash of what it was made from; what has not been asked for the longest goes first.
type cache struct{ kept *lru.Cache[string, any] }

func newCache() cache {
	c, err := lru.New[string, any](cacheSize)
	if err != nil {
		panic(err) // only of a size below 1
	}
	return cache{c}
}

// cached gives what is kept under a kind and a key, made where it is not there. What fails is not kept. Two who ask at once may both make it.
func cached[T any](c cache, kind, key string, make func() (T, error)) (T, error) {
	key = kind + ":" + key
	if v, ok := c.kept.Get(key); ok {
		return v.(T), nil
	}
	v, err := make()
	if err == nil {
		c.kept.Add(key, v)
	}
	return v, err
}

// seeds are this process's own: two make keys of 128 bits, which do not meet by chance.
var seeds = [2]maphash.Seed{maphash.MakeSeed(), maphash.MakeSeed()}

// keyOf gives the key of what something is made from, good while the program runs.
func keyOf(parts ...any) string {
	var h [2]maphash.Hash
	for i := range h {
		h[i].SetSeed(seeds[i])
	}
	write := func(b []byte) {
		for i := range h {
			_, _ = h[i].Write(b) // never fails
			_ = h[i].WriteByte(0)
		}
	}
	for _, p := range parts {
		switch x := p.(type) {
		case []byte:
			write(x)
		case string:
			write([]byte(x))
		case int:
			write(strconv.AppendInt(nil, int64(x), 10))
		default:
			b, _ := json.Marshal(x) // all of it is plain data
			write(b)
		}
	}
	return strconv.FormatUint(h[0].Sum64(), 36) + "." + strconv.FormatUint(h[1].Sum64(), 36)
}
