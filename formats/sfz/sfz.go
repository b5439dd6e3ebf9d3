// Package sfz writes instruments of samples as SFZ (version 1 of the open format: a text of regions with opcodes, and WAVE files beside it).
package sfz

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
	"time"

	"glossator/core/sampled"
	"glossator/core/synth"
	"glossator/formats/wav"
)

// File is one file of an instrument.
type File struct {
	Name string // with / between folders
	Data []byte
}

// Files gives the text of an instrument as name.sfz, and its samples in a folder "name samples" (24 bits, two channels).
func Files(name string, s *sampled.Set) ([]File, error) {
	folder := name + " samples"
	var b strings.Builder
	fmt.Fprintf(&b, "// %s\n// Rendered by Glossator. What does not carry over:\n", oneLine(s.Name))
	for _, l := range s.Left {
		fmt.Fprintf(&b, "// - %s\n", oneLine(l))
	}
	b.WriteString("// Start with the volume down.\n\n<group>\namp_veltrack=0\n")
	if s.Mono {
		b.WriteString("group=1\noff_by=1\noff_mode=normal\n")
	}
	if s.Bend > 0 {
		fmt.Fprintf(&b, "bend_up=%.0f\nbend_down=-%.0f\n", s.Bend, s.Bend)
	}
	var out []File
	for i := range s.Regions {
		r := &s.Regions[i]
		file := path.Join(folder, fmt.Sprintf("key%03d-velocity%03d.wav", r.Key, r.Velocity))
		fmt.Fprintf(&b, "\n<region>\nsample=%s\nlokey=%d\nhikey=%d\npitch_keycenter=%d\nlovel=%d\nhivel=%d\nampeg_release=%.3f\n", file, r.Low, r.High, r.Key, r.Softest, r.Hardest, r.Release)
		if r.LoopTo > 0 {
			fmt.Fprintf(&b, "loop_mode=loop_sustain\nloop_start=%d\nloop_end=%d\n", r.LoopFrom, r.LoopTo)
		} else {
			b.WriteString("loop_mode=no_loop\n")
		}
		var w bytes.Buffer
		if err := wav.Write(&w, &wav.Sound{Rate: synth.Rate, Bits: 24, Left: r.Left, Right: r.Right}); err != nil {
			return nil, err
		}
		out = append(out, File{file, w.Bytes()})
	}
	return append([]File{{name + ".sfz", []byte(b.String())}}, out...), nil
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// Zip writes the files into one.
func Zip(w io.Writer, files []File, at time.Time) error {
	z := zip.NewWriter(w)
	for _, f := range files {
		x, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: at})
		if err != nil {
			return err
		}
		if _, err := x.Write(f.Data); err != nil {
			return err
		}
	}
	return z.Close()
}
