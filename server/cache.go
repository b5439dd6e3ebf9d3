package server

import (
	"crypto/sha256"
	"encoding/hex"
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

// viewsKept is how many sheets are kept worked out: each takes some hundred kB.
const viewsKept = 64

func newViews() *lru.Cache[string, *sheetPart] {
	c, err := lru.New[string, *sheetPart](viewsKept)
	if err != nil {
		panic(err) // only of a size below 1
	}
	return c
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

// keyOf gives the key under which something made from a document is kept while the program runs.
func keyOf(document []byte, revision int) string {
	var out []byte
	for _, seed := range seeds {
		var h maphash.Hash
		h.SetSeed(seed)
		_, _ = h.Write(document) // never fails
		out = strconv.AppendUint(append(out, '.'), h.Sum64(), 36)
	}
	return string(strconv.AppendInt(append(out, '.'), int64(revision), 10))
}

// hashOf gives the name of what something is made from, the same in every run: sounds are kept on disk by it.
func hashOf(parts ...any) string {
	h := sha256.New()
	e := json.NewEncoder(h)
	for _, p := range parts {
		if raw, ok := p.([]byte); ok {
			h.Write(raw)
			h.Write([]byte{0})
			continue
		}
		_ = e.Encode(p) // all of it is plain data
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
