package server

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/synth"
	"glossator/store"
)

// SoundsLimit is how many bytes of rendered sound are kept on disk: about a thousand seconds in stereo and
// 32 bit float. The ones not asked for the longest go first.
const SoundsLimit = 512 << 20

// sounds keeps what has been rendered or recorded, by the hash of what it was made from.
type sounds struct {
	dir   string
	limit int64
	mu    sync.Mutex
	// inMemory has the last few sounds where the folder cannot be written to, and trouble why it cannot: listening goes on without it
	inMemory *lru.Cache[string, *kept]
	trouble  string
	// busy has a lock for each key that is being rendered, so that nothing is rendered twice at once
	busy sync.Map
}

// kept is a sound as it is kept.
type kept struct {
	Rate     int
	Loop     int // samples; 0 for a recording
	Label    string
	Stages   []synth.Stage
	Limited  float64
	Assumed  []string
	Loudness float64
	Peak     float64
	// Times are those of the notes; all 0 where they are not known.
	Times       compare.Times
	Recording   bool
	Left, Right []float64 `json:"-"`
}

func (k *kept) wave() hear.Wave {
	return hear.Wave{Rate: float64(k.Rate), Left: k.Left, Right: k.Right}
}

var soundKey = regexp.MustCompile(`^[0-9a-f]{32}$`)

// inMemorySounds is how many sounds are held where none can be kept: both sides of a sheet, and a few notes.
const inMemorySounds = 8

func newSounds(dir string) *sounds {
	held, err := lru.New[string, *kept](inMemorySounds)
	if err != nil {
		panic(err) // only of a size below 1
	}
	return &sounds{dir: dir, limit: SoundsLimit, inMemory: held}
}

// ready makes the folder where it is missing, also where it has been taken away since.
func (s *sounds) ready() (err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.dir == "" {
		s.dir, err = os.MkdirTemp("", "glossator-sounds-")
		return err
	}
	return os.MkdirAll(s.dir, 0o700)
}

// unkept says why sounds are not kept, "" where they are.
func (s *sounds) unkept() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.trouble
}

// whyUnkept puts what is in the way of the folder of sounds in words.
func whyUnkept(dir string, err error) string {
	why := err.Error()
	switch {
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		why = "its disk is full"
	case errors.Is(err, syscall.EROFS):
		why = "its disk is read-only"
	case errors.Is(err, fs.ErrPermission):
		why = "it may not be written to"
	case errors.Is(err, syscall.ENOTDIR), errors.Is(err, fs.ErrExist):
		why = "there is a file in its place"
	}
	return fmt.Sprintf("Sounds are not kept in %s: %s. The last %d are held in memory.", dir, why, inMemorySounds)
}

func (s *sounds) file(key string) string { return filepath.Join(s.dir, key+".sound") }

// get reads a sound; store.ErrNotFound where there is none of the key.
func (s *sounds) get(key string) (*kept, error) {
	if !soundKey.MatchString(key) {
		return nil, store.ErrNotFound
	}
	if k, ok := s.inMemory.Get(key); ok {
		one := *k
		return &one, nil
	}
	if s.ready() != nil {
		return nil, store.ErrNotFound
	}
	data, err := os.ReadFile(s.file(key))
	if err != nil {
		return nil, store.ErrNotFound
	}
	head, body, ok := bytes.Cut(data, []byte("\n"))
	var k kept
	if !ok || len(body)%8 != 0 || json.Unmarshal(head, &k) != nil {
		_ = os.Remove(s.file(key)) // cut off by a stop: it is made again
		return nil, store.ErrNotFound
	}
	n := len(body) / 8
	k.Left, k.Right = make([]float64, n), make([]float64, n)
	for i := range n {
		k.Left[i] = float64(math.Float32frombits(binary.LittleEndian.Uint32(body[8*i:])))
		k.Right[i] = float64(math.Float32frombits(binary.LittleEndian.Uint32(body[8*i+4:])))
	}
	now := time.Now()
	_ = os.Chtimes(s.file(key), now, now)
	return &k, nil
}

// put keeps a sound and lets old ones go. Where the folder is in the way the sound is held in memory.
func (s *sounds) put(key string, k *kept) error {
	err := s.ready()
	if err == nil {
		err = s.write(key, k)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.trouble = ""; err == nil {
		return nil
	}
	s.trouble = whyUnkept(s.dir, err)
	held := *k
	if held.Right == nil {
		held.Right = held.Left
	}
	s.inMemory.Add(key, &held)
	return nil
}

// write writes a sound to the folder.
func (s *sounds) write(key string, k *kept) error {
	head, err := json.Marshal(k)
	if err != nil {
		return err
	}
	right := k.Right
	if right == nil {
		right = k.Left
	}
	body := make([]byte, 0, len(head)+1+8*len(k.Left))
	body = append(append(body, head...), '\n')
	for i := range k.Left {
		body = binary.LittleEndian.AppendUint32(body, math.Float32bits(float32(k.Left[i])))
		body = binary.LittleEndian.AppendUint32(body, math.Float32bits(float32(right[i])))
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	tmp := s.file(key) + ".new"
	if err := os.WriteFile(tmp, body, 0o600); err != nil {
		_ = os.Remove(tmp) // half of it would take the place that is missing
		return err
	}
	if err := os.Rename(tmp, s.file(key)); err != nil {
		return err
	}
	return s.prune()
}

// prune deletes the oldest sounds over the limit.
func (s *sounds) prune() error {
	list, err := os.ReadDir(s.dir)
	if err != nil {
		return err
	}
	type entry struct {
		name string
		size int64
		at   time.Time
	}
	var all []entry
	total := int64(0)
	for _, d := range list {
		info, err := d.Info()
		if err != nil || !strings.HasSuffix(d.Name(), ".sound") {
			continue
		}
		all = append(all, entry{d.Name(), info.Size(), info.ModTime()})
		total += info.Size()
	}
	slices.SortFunc(all, func(a, b entry) int { return a.at.Compare(b.at) })
	for _, e := range all {
		if total <= s.limit {
			break
		}
		if os.Remove(filepath.Join(s.dir, e.name)) == nil {
			total -= e.size
		}
	}
	return nil
}

// render gives the sound of a key, made where it is not kept.
func (s *sounds) render(key string, make func() (*kept, error)) (*kept, error) {
	if k, err := s.get(key); err == nil {
		return k, nil
	}
	lock, _ := s.busy.LoadOrStore(key, &sync.Mutex{})
	lock.(*sync.Mutex).Lock()
	defer func() {
		lock.(*sync.Mutex).Unlock()
		s.busy.Delete(key)
	}()
	if k, err := s.get(key); err == nil {
		return k, nil
	}
	k, err := make()
	if err != nil {
		return nil, err
	}
	if err := s.put(key, k); err != nil {
		return nil, err
	}
	return s.get(key) // as it will be read again: rounded to what is kept
}
