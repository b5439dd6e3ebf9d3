package main

import (
	"context"
	"testing"

	"glossator/testutil/testrack"
)

// With a rack of effects behind it an instrument is searched by ear as without: the search goes through, the rack plays what the instrument lacks, and what comes out is a sheet by ear.
func TestARackIsListenedTo(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	further := 0.0
	for _, id := range []string{"gulls", "lamp-room"} {
		p := patches[id]
		alone, err := apart(context.Background(), p, rack[p.Panel], rack["kedge"], nil)
		if err != nil {
			t.Fatal(err)
		}
		with, err := apart(context.Background(), p, rack[p.Panel], rack["kedge"], rack["ballast"])
		if err != nil {
			t.Fatal(err)
		}
		if with.sheet.Rig == nil || alone.sheet.Rig != nil || with.apart <= 0 {
			t.Errorf("%s: %v alone, %v with a rack", id, alone.apart, with.apart)
		}
		further += with.apart - alone.apart
		t.Logf("%s: %.2f alone, %.2f with a rack", id, alone.apart, with.apart)
	}
	if further > 1.5 { // it plays what is lost alone, and is held against all of the patch; where one search of dear sounds ends is chance by a few just-noticeable differences
		t.Errorf("the two are %.2f further apart in all with what the instrument lacks behind it", further)
	}
}
