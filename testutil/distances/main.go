// Command distances prints how far translations of the demo's patches lie from their sources in sound, pair by pair: what the README's table and
// decisions are taken from. make distances runs it.
package main

import (
	"cmp"
	"flag"
	"fmt"
	"log"
	"maps"
	"os"
	"path/filepath"
	"runtime/pprof"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"glossator/core/audition"
	"glossator/core/build"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/testutil/instruments"
)

// pair is a patch and where it goes.
type pair struct {
	src, dst *panel.Compiled
	p        *patch.Patch
}

func must[T any](x T, err error) T {
	if err != nil {
		log.Fatal(err)
	}
	return x
}

// demoPairs are the demo's patches on all of its instruments.
func demoPairs(rack map[string]*panel.Compiled, ids []string) (out []pair) {
	for _, f := range demo.Patches() {
		p := must(formats.ReadPatch(f.Name, f.Data))
		for _, id := range ids {
			if src := rack[p.Panel]; src.Kind != "rack" && id != p.Panel {
				out = append(out, pair{src, rack[id], p})
			}
		}
	}
	return out
}

// inventedPairs are patches on invented instruments, each on one of the demo's and on another invented one.
func inventedPairs(rack map[string]*panel.Compiled, ids []string, n int) (out []pair) {
	for seed := range uint64(n) {
		src := must(instruments.Panel(seed))
		p := instruments.Patch(src, seed)
		out = append(out, pair{src, rack[ids[seed%uint64(len(ids))]], p}, pair{src, must(instruments.Panel(seed + 1000)), p})
	}
	return out
}

// begunPairs are patches on the instruments that the builder begins, as they stand: each on one of the demo's in turn, and on another of them.
func begunPairs(rack map[string]*panel.Compiled, ids []string, n int) (out []pair) {
	var begun []*panel.Compiled
	for _, s := range build.Starts {
		if s.ID != "rack" {
			begun = append(begun, must(panel.Compile(must(build.Begin(s.ID, "begun-"+s.ID, s.Label, "")))))
		}
	}
	for seed := range uint64(n) {
		for k, src := range begun {
			p := instruments.Patch(src, seed)
			p.ID = fmt.Sprintf("%s-%d", src.ID, seed)
			out = append(out, pair{src, rack[ids[(int(seed)+k)%len(ids)]], p}, pair{src, begun[(k+1+int(seed)%(len(begun)-1))%len(begun)], p})
		}
	}
	return out
}

// folderPairs are the patches of DIR/patches, which stand on the instruments of DIR/panels, on all of the demo's instruments and on the folder's
// others.
func folderPairs(rack map[string]*panel.Compiled, ids []string, dir string) (out []pair) {
	own := map[string]*panel.Compiled{}
	for _, name := range must(filepath.Glob(filepath.Join(dir, "panels", "*.json"))) {
		c := must(formats.ReadPanel(name, must(os.ReadFile(name))))
		own[c.ID] = c
	}
	for _, name := range must(filepath.Glob(filepath.Join(dir, "patches", "*.json"))) {
		p := must(formats.ReadPatch(name, must(os.ReadFile(name))))
		src := own[p.Panel]
		if src == nil {
			log.Fatalf("%s: no panel %q in %s", name, p.Panel, dir)
		}
		for _, id := range ids {
			out = append(out, pair{src, rack[id], p})
		}
		for _, id := range slices.Sorted(maps.Keys(own)) {
			if id != p.Panel {
				out = append(out, pair{src, own[id], p})
			}
		}
	}
	return out
}

type row struct {
	name  string
	d     [4]float64
	ms    [2]float64
	cpu   [2]float64 // of all cores
	steps [2]int
	one   [4]compare.Distance
}

func main() {
	search := flag.Bool("search", false, "bring controls nearer by the search")
	whole := flag.Bool("whole", false, "search over all controls from several plans with 5,000 renders, for what is far off")
	invented := flag.Int("invented", 0, "patches on so many invented instruments in place of the demo's")
	begun := flag.Int("begun", 0, "so many patches on each instrument that the builder begins in place of the demo's")
	folder := flag.String("folder", "", "the patches and panels of a folder (patches/, panels/) in place of the demo's")
	together := flag.Int("together", 2, "how many pairs at a time; 1 for times that mean something")
	only := flag.String("only", "", "only pairs whose name holds this")
	sets := flag.Uint64("floor", 0, "also the distance of each patch from itself with so many other sets of seeds")
	profile := flag.String("profile", "", "write what takes the time there, for go tool pprof")
	flag.Parse()
	if *profile != "" {
		f := must(os.Create(*profile))
		if err := pprof.StartCPUProfile(f); err != nil {
			log.Fatal(err)
		}
		defer pprof.StopCPUProfile()
	}
	rack := map[string]*panel.Compiled{}
	var ids []string
	for _, f := range demo.Panels() {
		if c := must(formats.ReadPanel(f.Name, f.Data)); c.Kind != "rack" {
			ids = append(ids, c.ID)
			rack[c.ID] = c
		} else {
			rack[c.ID] = c
		}
	}
	slices.Sort(ids)
	pairs := demoPairs(rack, ids)
	if *invented > 0 {
		pairs = inventedPairs(rack, ids, *invented)
	}
	if *begun > 0 {
		pairs = begunPairs(rack, ids, *begun)
	}
	if *folder != "" {
		pairs = folderPairs(rack, ids, *folder)
	}
	pairs = slices.DeleteFunc(pairs, func(x pair) bool { return !strings.Contains(x.p.ID+" > "+x.dst.ID, *only) })
	aims := map[string]*compare.Sketch{}
	for _, x := range pairs {
		if aims[x.p.ID] == nil {
			aims[x.p.ID] = sketch(x.src, x.p, nil, 0)
			for s := uint64(1); s <= *sets; s++ {
				fmt.Printf("floor %s set %d: %+v\n", x.p.ID, s, compare.Apart(aims[x.p.ID], sketch(x.src, x.p, nil, s), false))
			}
		}
	}
	var rows []row
	var mu sync.Mutex
	var wg sync.WaitGroup
	slots := make(chan struct{}, *together)
	for _, x := range pairs {
		slots <- struct{}{}
		wg.Go(func() {
			defer func() { <-slots }()
			r := x.measure(aims[x.p.ID], *search || *whole, *whole)
			mu.Lock()
			rows = append(rows, r)
			mu.Unlock()
		})
	}
	wg.Wait()
	slices.SortFunc(rows, func(a, b row) int { return cmp.Compare(b.d[2], a.d[2]) })
	fmt.Println("pair, by numbers, by ear analytically, by ear, after a long search; the latter two by the clock, by the work of both cores (with -together 1) and by how many controls are moved; the respects by ear")
	for _, r := range rows {
		d := r.one[2]
		fmt.Printf("%-28s %5.1f %5.1f %5.1f %5.1f  %6.0f %6.0f ms, work %6.0f %6.0f ms, moved %2d %2d  lev %.1f col %.1f shp %.1f bri %.1f mot %.1f pit %.1f\n", r.name, r.d[0], r.d[1], r.d[2], r.d[3], r.ms[0], r.ms[1], r.cpu[0], r.cpu[1], r.steps[0], r.steps[1], d.Level, d.Colour, d.Shape, d.Brightness, d.Motion, d.Pitch)
	}
	for i, name := range []string{"numbers", "ear (analytic)", "ear", "long search"} {
		var list []float64
		over, near := 0, 0
		for _, r := range rows {
			list = append(list, r.d[i])
			if r.d[i] > 15 {
				over++
			}
			if r.d[i] < 4 {
				near++
			}
		}
		slices.Sort(list)
		sum := 0.0
		for _, x := range list {
			sum += x
		}
		fmt.Fprintf(os.Stdout, "%-14s mean %.1f median %.1f over 15: %d, below 4: %d of %d\n", name, sum/float64(len(list)), list[len(list)/2], over, near, len(list))
	}
}

// measure gives the distances of a pair.
func (x *pair) measure(aim *compare.Sketch, search, whole bool) row {
	r := row{name: x.p.ID + " > " + x.dst.ID}
	notes, _, err := audition.Notes(x.p, "", 0)
	if err != nil {
		log.Fatal(err)
	}
	for i, school := range []plan.School{plan.Numbers, plan.Ear} {
		s := must(translate.Translate(x.src, x.p, x.dst, translate.Options{School: school}))
		y := must(audition.Target(x.dst, x.p, s))
		r.one[i] = compare.Apart(aim, sketch(x.dst, x.p, &y, 0), false)
		r.d[i] = r.one[i].Total
	}
	long := nearest.Long
	if whole {
		long = nearest.Whole
	}
	var quick *gloss.Sheet
	for i, effort := range []nearest.Effort{nearest.Quick, long} {
		if i > 0 && !search {
			break
		}
		at, used := time.Now(), worked()
		task := nearest.Task{Source: x.src, Target: x.dst, Patch: x.p, Notes: notes, Effort: effort}
		tuned := must(nearest.Find(task))
		s := must(nearest.Sheet(task, tuned))
		r.ms[i], r.cpu[i] = float64(time.Since(at).Milliseconds()), (worked()-used).Seconds()*1000
		if i > 0 { // it is offered where it is nearer
			before, after, err := nearest.Apart(task, quick, s)
			if err != nil {
				log.Fatal(err)
			}
			if after.Total > before.Total-nearest.Offered {
				s, tuned = quick, &plan.Tuned{}
			}
		}
		quick = s
		y := must(audition.Target(x.dst, x.p, s))
		r.one[2+i] = compare.Apart(aim, sketch(x.dst, x.p, &y, 0), false)
		r.d[2+i] = r.one[2+i].Total
		r.steps[i] = len(tuned.Readings)
	}
	return r
}

// worked is how long the program has worked so far, over all cores.
func worked() time.Duration {
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		log.Fatal(err)
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// sketch plays a patch, or what stands in its place, by its own line.
func sketch(c *panel.Compiled, p *patch.Patch, y *synth.Layer, seed uint64) *compare.Sketch {
	var layers []synth.Layer
	if y != nil {
		layers = []synth.Layer{*y}
	} else {
		var err error
		if layers, err = audition.Layers(c, p, ""); err != nil {
			log.Fatal(err)
		}
		layers = layers[:1]
	}
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		log.Fatal(err)
	}
	var waves []hear.Wave
	for k := range uint64(synth.Takes) {
		s, err := synth.Render(layers, refine.Excerpt(notes), synth.Options{Seed: synth.Takes*seed + k, Wheel: p.Wheel, Tail: 0.6})
		if err != nil {
			log.Fatal(err)
		}
		waves = append(waves, hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right})
	}
	return compare.Sketched(waves...)
}
