package ear_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"glossator/core/ear"
)

// listener hears a difference of so many just-noticeable ones with the chance of a Weibull function, guesses otherwise, and now and then presses the wrong key.
type listener struct{ at, slope, lapse float64 }

func (l listener) right(size float64, r *rand.Rand) bool {
	p := 0.5 + (0.5-l.lapse)*(1-math.Exp(-math.Pow(size/l.at, l.slope)))
	return r.Float64() < p
}

// threshold is where it is right at 70.7 %, in closed form.
func (l listener) threshold() float64 {
	return l.at * math.Pow(-math.Log(1-(ear.Aim-0.5)/(0.5-l.lapse)), 1/l.slope)
}

func sit(l listener, r *rand.Rand) *ear.Stair {
	s := ear.NewStair(ear.Largest)
	for !s.Done() {
		s.Answer(l.right(s.Size(), r))
	}
	return s
}

// Against listeners whose threshold is known (Levitt, JASA 49(2), 1971: two down, one up tends to 70.7 %): the mean of many sittings lies within 5 % of it, and the bounds of one sitting hold it in nine of ten.
func TestStaircasesAgainstKnownListeners(t *testing.T) {
	if math.Abs(ear.Aim-0.7071) > 1e-4 {
		t.Errorf("two right in a row as often as not is %v each", ear.Aim)
	}
	r := rand.New(rand.NewPCG(3, 4))
	for _, l := range []listener{{1, 2, 0}, {1, 3, 0}, {0.5, 2.5, 0}, {2, 3, 0}, {3, 2, 0}, {1, 2.5, 0.01}, {0.3, 3, 0.01}} {
		const sittings = 1500
		sum, squares, inside, answers := 0.0, 0.0, 0, 0
		for range sittings {
			s := sit(l, r)
			x, ok := s.Threshold()
			if !ok || !x.Heard {
				t.Fatalf("%+v: nothing after %d answers", l, s.Answers())
			}
			sum += math.Log(x.Size)
			squares += math.Pow(math.Log(x.Size/l.threshold()), 2)
			answers += s.Answers()
			if x.Low <= l.threshold() && l.threshold() <= x.High {
				inside++
			}
		}
		mean := math.Exp(sum / sittings)
		if bias := mean/l.threshold() - 1; math.Abs(bias) > 0.05 {
			t.Errorf("%+v: %.3f, truly %.3f: %.1f %%", l, mean, l.threshold(), 100*bias)
		}
		if share := float64(inside) / sittings; share < 0.9 {
			t.Errorf("%+v: the bounds hold it in %.2f", l, share)
		}
		t.Logf("%+v: %.3f, truly %.3f; spread %.2f; held in %.2f; %d answers each", l, mean, l.threshold(), math.Sqrt(squares/sittings), float64(inside)/sittings, answers/sittings)
	}
}

// Whoever hears nothing is told so, soon, and never gets more than the largest; whoever hears all ends at the least; a size never leaves its bounds.
func TestStaircasesEnd(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	deaf := 0
	for range 200 {
		s := sit(listener{1e9, 3, 0}, r)
		if x, ok := s.Threshold(); ok && !x.Heard {
			deaf++
		}
		if s.Answers() > 130 {
			t.Errorf("%d answers", s.Answers())
		}
	}
	if deaf < 180 {
		t.Errorf("%d of 200 are told that they hear nothing", deaf)
	}
	s := ear.NewStair(ear.Largest)
	if _, ok := s.Threshold(); ok {
		t.Error("a threshold before the first answer")
	}
	for n := 0; !s.Done(); n++ {
		if s.Size() < ear.Least || s.Size() > ear.Largest {
			t.Fatalf("a size of %v", s.Size())
		}
		s.Answer(n%7 < 5)
	}
	s = ear.NewStair(ear.Largest)
	for range 60 {
		s.Answer(true)
	}
	if s.Size() != ear.Least {
		t.Errorf("all right ends at %v", s.Size())
	}
}

// Which sound is the other one is even over many trials, and the same for the same seed.
func TestTosses(t *testing.T) {
	second, up := 0, 0
	for n := range 4000 {
		a, b := ear.Toss(7, n)
		if c, d := ear.Toss(7, n); a != c || b != d {
			t.Fatal("two tosses of one trial differ")
		}
		if a {
			second++
		}
		if b {
			up++
		}
	}
	for _, n := range []int{second, up} { // five standard deviations of a fair coin
		if math.Abs(float64(n)-2000) > 5*math.Sqrt(1000) {
			t.Errorf("%d of 4000", n)
		}
	}
}
