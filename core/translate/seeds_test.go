package translate_test

import "glossator/testutil/whole"

// seeds is how many generated patches a test goes over: all that are named in make whole, a third of them in CI.
func seeds(n uint64) uint64 {
	if whole.Asked() {
		return n
	}
	return max(1, n/3)
}
