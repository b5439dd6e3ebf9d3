package compare

import "gonum.org/v1/gonum/stat/distuv"

// Chance gives the probability of at least that many right answers of a number by guessing between two
// (binomial, one-sided).
func Chance(right, of int) float64 {
	if right <= 0 || of <= 0 {
		return 1
	}
	return distuv.Binomial{N: float64(of), P: 0.5}.Survival(float64(right - 1))
}
