package translate_test

import "glossator/testutil/whole"

// seeds is how many generated patches a test goes over: all that are named in make whole, half of them in CI.
func seeds(n uint64) uint64 {
	if whole.Asked() {
		return n
	}
	return n / 2
}
