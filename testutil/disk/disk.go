// Package disk gives tests a disk that is small enough to be full.
package disk

import (
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"testing"
)

// Small mounts a disk in memory of so many kilobytes and gives its folder; it goes with the test. false where this machine does not let the tests mount one.
func Small(t testing.TB, kB int) (string, bool) {
	t.Helper()
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, fmt.Sprintf("size=%dk", kB)); err != nil {
		t.Logf("no small disk here: %v", err)
		return dir, false
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	return dir, true
}

// Fill writes to a folder until its disk is full. free makes room again.
func Fill(t testing.TB, dir string) (free func()) {
	t.Helper()
	name := filepath.Join(dir, "ballast")
	f, err := os.Create(name)
	if err != nil {
		t.Fatal(err)
	}
	for size := 1 << 16; size > 0; size /= 2 {
		for {
			if _, err := f.Write(make([]byte, size)); err != nil {
				break
			}
		}
	}
	if err := f.Close(); err != nil {
		t.Log(err)
	}
	return func() {
		if err := os.Remove(name); err != nil {
			t.Error(err)
		}
	}
}

// ReadOnly mounts a folder again so that nothing can be written in it. false where this machine does not let the tests do so.
func ReadOnly(t testing.TB, dir string) bool {
	t.Helper()
	if err := syscall.Mount("", dir, "", syscall.MS_REMOUNT|syscall.MS_RDONLY, ""); err != nil {
		t.Logf("no read-only disk here: %v", err)
		return false
	}
	return true
}
