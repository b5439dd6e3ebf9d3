// Package memory tells how much memory something takes at its peak, as the kernel counts it.
package memory

import (
	"fmt"
	"os"
	"runtime/debug"
	"strings"
	"testing"
)

// Peak runs something and gives by how many megabytes the memory of the process was above what it was before, at the most. Linux counts it (proc(5): clear_refs and
// VmHWM), so that nothing between two looks is missed.
func Peak(t testing.TB, run func()) int {
	t.Helper()
	defer debug.SetGCPercent(debug.SetGCPercent(20))
	debug.FreeOSMemory()
	if err := os.WriteFile("/proc/self/clear_refs", []byte("5"), 0o600); err != nil {
		t.Fatal(err)
	}
	before := highest(t)
	run()
	return (highest(t) - before) >> 10
}

// highest gives the peak of the resident memory in kilobytes.
func highest(t testing.TB) (kB int) {
	t.Helper()
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		t.Fatal(err)
	}
	_, rest, ok := strings.Cut(string(status), "VmHWM:")
	if _, err := fmt.Sscan(rest, &kB); err != nil || !ok {
		t.Fatalf("the kernel tells no peak: %v", err)
	}
	return kB
}
