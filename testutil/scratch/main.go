package main

import (
	"fmt"
	"log"
	"os"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/demo"
	"glossator/formats"
)

func must[T any](x T, err error) T {
	if err != nil {
		log.Fatal(err)
	}
	return x
}

func main() {
	rack := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c := must(formats.ReadPanel(f.Name, f.Data))
		rack[c.ID] = c
	}
	for _, f := range demo.Patches() {
		p := must(formats.ReadPatch(f.Name, f.Data))
		if p.ID != os.Args[1] {
			continue
		}
		src, dst := rack[p.Panel], rack[os.Args[2]]
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			log.Fatal(err)
		}
		task := nearest.Task{Source: src, Target: dst, Patch: p, Notes: notes, Effort: nearest.Quick}
		tuned := must(nearest.Find(task))
		s := must(nearest.Sheet(task, tuned))
		y := must(audition.Target(dst, p, s))
		x := must(audition.Layers(src, p, ""))
		pl := refine.Hear(p.Wheel)
		a := must(pl.Take(x[:1], refine.Excerpt(notes), 0, 2))
		b := must(pl.Take([]synth.Layer{y}, refine.Excerpt(notes), 0, 2))
		d := compare.Apart(a, b, false)
		fmt.Printf("%+v\n", d)
		for i := range a.Mean {
			fmt.Printf("%2d src %6.1f dst %6.1f diff %6.1f\n", i, a.Mean[i], b.Mean[i]+d.Gain, b.Mean[i]+d.Gain-a.Mean[i])
		}
		for i := 0; i < len(a.Contour); i += 4 {
			if i < len(b.Contour) {
				fmt.Printf("t %.2f src %6.1f dst %6.1f   centre %5.1f %5.1f\n", float64(i)*a.Hop, a.Contour[i], b.Contour[i]+d.Gain, a.Centre[i], b.Centre[i])
			}
		}
	}
}
