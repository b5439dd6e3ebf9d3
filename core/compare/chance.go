package compare

import (
	"fmt"

	"gonum.org/v1/gonum/stat/distuv"
)

// Chance gives the probability of at least that many right answers of a number by guessing between two
// (binomial, one-sided).
func Chance(right, of int) float64 {
	if right <= 0 || of <= 0 {
		return 1
	}
	return distuv.Binomial{N: float64(of), P: 0.5}.Survival(float64(right - 1))
}

// significant is the chance below which a result shows that a difference is heard: 5 % (common practice, no source).
const significant = 0.05

// TrialSays says what a blind test of so many right answers shows.
func TrialSays(right, of int) string {
	p := Chance(right, of)
	digits := 0
	if p < 0.1 {
		digits = 1
	}
	shows := "that does not show that you hear a difference"
	if p < significant {
		shows = "you hear a difference"
	}
	return fmt.Sprintf("%d of %d right. Guessing does as well %.*f times in 100: %s.", right, of, digits, 100*p, shows)
}
