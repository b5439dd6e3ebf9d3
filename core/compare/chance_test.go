package compare_test

import (
	"math"
	"testing"

	"glossator/core/compare"
)

// The binomial, one-sided: 12 of 16 is 0.0384, 9 of 10 is 0.0107 (any table of the binomial distribution), and
// the sum over Pascal's triangle.
func TestChance(t *testing.T) {
	if p := compare.Chance(12, 16); math.Abs(p-0.0384) > 5e-5 {
		t.Errorf("12 of 16: %.4f", p)
	}
	if p := compare.Chance(9, 10); math.Abs(p-0.0107) > 5e-5 {
		t.Errorf("9 of 10: %.4f", p)
	}
	for of := 1; of <= 24; of++ {
		row := []float64{1}
		for range of {
			next := append([]float64{1}, row...)
			for i := 1; i < len(row); i++ {
				next[i] = row[i-1] + row[i]
			}
			row = append(next[:len(row)], 1)
		}
		for right := 0; right <= of; right++ {
			sum := 0.0
			for k := right; k <= of; k++ {
				sum += row[k]
			}
			if want := sum / math.Exp2(float64(of)); math.Abs(compare.Chance(right, of)-want) > 1e-12 {
				t.Errorf("%d of %d: %v, want %v", right, of, compare.Chance(right, of), want)
			}
		}
	}
}

// What a blind test shows, by the same tables: 12 of 16 is below 5 %, 11 of 16 (0.105) is not.
func TestTrialSays(t *testing.T) {
	for _, x := range []struct {
		right, of int
		says      string
	}{
		{12, 16, "12 of 16 right. Guessing does as well 3.8 times in 100: you hear a difference."},
		{11, 16, "11 of 16 right. Guessing does as well 11 times in 100: that does not show that you hear a difference."},
		{16, 16, "16 of 16 right. Guessing does as well 0.0 times in 100: you hear a difference."},
		{4, 10, "4 of 10 right. Guessing does as well 83 times in 100: that does not show that you hear a difference."},
	} {
		if got := compare.TrialSays(x.right, x.of); got != x.says {
			t.Errorf("%q, want %q", got, x.says)
		}
	}
}
