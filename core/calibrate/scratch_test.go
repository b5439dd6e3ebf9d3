package calibrate_test

import (
	"fmt"
	"math"
	"os"
	"strconv"
	"testing"
	"time"

	"glossator/core/calibrate"
	"glossator/core/scale"
	"glossator/standin"
	"glossator/testutil/testrack"
)

func TestScratch(t *testing.T) {
	rack := testrack.Panels(t)
	only := os.Getenv("P")
	unit, _ := strconv.Atoi(os.Getenv("U"))
	if unit == 0 {
		unit = 7
	}
	in, all, wide := 0, 0, 0.0
	for _, id := range testrack.IDs(rack) {
		if only != "" && only != id {
			continue
		}
		c := rack[id]
		for k := range c.Controls {
			x := &c.Controls[k]
			cont := -1
			for i, m := range x.Means {
				if m.Law.Kind != scale.Listed && cont < 0 {
					cont = i
				}
			}
			if cont < 0 || (x.Means[cont].Law.Source == scale.Stated && os.Getenv("ALL") == "") || os.Getenv("C") != "" && os.Getenv("C") != x.ID {
				continue
			}
			t0 := time.Now()
			b, err := calibrate.Begin(c, x.ID, "")
			if err != nil {
				fmt.Printf("%-9s %-22s NO  %.90s (%.1fs)\n", id, x.ID, err, time.Since(t0).Seconds())
				continue
			}
			begun := time.Since(t0).Seconds()
			u, err := standin.New(c, unit)
			if err != nil {
				t.Fatal(err)
			}
			truth := u.Truth().Controls[x.ID]
			r, err := u.Sit(b, 0)
			if err != nil {
				t.Fatal(err)
			}
			n, ok, bias, worst := 0, 0, 0.0, 0.0
			var ratioW float64
			for i, y := range r.Band() {
				if y.Value == nil || truth[i].Value == nil {
					continue
				}
				n++
				v := *truth[i].Value
				if v >= min(*y.Low, *y.High)-1e-9 && v <= max(*y.Low, *y.High)+1e-9 {
					ok++
				}
				var e, w float64
				if b.Law().Dim().Geometric() {
					e, w = math.Log2(*y.Value/v)/b.JND(), math.Log2(*y.High / *y.Low)/b.JND()/2
				} else {
					e, w = (*y.Value-v)/b.JND(), (*y.High-*y.Low)/b.JND()/2
				}
				bias += e
				worst = max(worst, math.Abs(e))
				ratioW += math.Abs(w)
			}
			in, all, wide = in+ok, all+n, wide+ratioW
			if n == 0 {
				n = 1
			}
			bad := ""
			for _, tk := range r.Takes {
				if tk.Why != "" {
					bad += fmt.Sprintf(" [%s %.24s]", tk.Reading, tk.Why)
				}
			}
			fmt.Printf("%-9s %-20s %-14s %-14.14s n=%2d cover %3d/%3d bias %5.2f worst %5.2f band±%.2f chi %.1f %s (%.1f+%.1fs)%.90s\n", id, x.ID, b.Recipe.Name, b.Figure, len(r.Takes), ok, n, bias/float64(n), worst, ratioW/float64(n), r.All[0].Chi, r.All[0].Kind, begun, time.Since(t0).Seconds()-begun, bad)
			if os.Getenv("V") != "" {
				for _, tk := range r.Takes {
					fmt.Println("   ", tk)
				}
				for i, y := range r.Band() {
					if y.Value != nil && truth[i].Value != nil && i%8 == 0 {
						fmt.Printf("    %s %.4g [%.4g %.4g] truth %.4g\n", y.Reading, *y.Value, *y.Low, *y.High, *truth[i].Value)
					}
				}
				for _, f := range r.All {
					fmt.Printf("   %s aicc %.1f w %.3f chi %.2f %v\n", f.Label, f.AICc, f.Weight, f.Chi, f.Law.Exponent)
				}
			}
		}
	}
	fmt.Printf("COVER %d/%d = %.1f%% mean k2 band %.2f JND\n", in, all, 100*float64(in)/float64(max(1, all)), wide/float64(max(1, all)))
}
