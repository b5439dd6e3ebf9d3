package quantity

import (
	"fmt"
	"strconv"
	"strings"
)

// ParseTable reads what the positions of a wave table hold, from its beginning to its end in equal steps:
// "triangle, saw, pulse", "sine, saw, pulse 25 %", "sine, drawn 0 100 40 -100". Between two of them the table mixes. A pulse without a duty
// has the oscillator's own width, here 0.
func ParseTable(text string) ([]Wave, error) {
	var out []Wave
	for i, part := range strings.Split(text, ",") {
		words := strings.Fields(strings.ReplaceAll(part, "%", " "))
		if len(words) > 0 && (words[0] == "drawn" || words[0] == "stepped") {
			name := strings.Join(words, " ")
			if _, ok, err := ParseDrawn(name); err != nil {
				return nil, fmt.Errorf("wave %d: %w", i+1, err)
			} else if !ok {
				return nil, fmt.Errorf("wave %d: expected two points or more after %s, got %q", i+1, words[0], strings.TrimSpace(part))
			}
			out = append(out, Wave{Name: name})
			continue
		}
		if len(words) == 0 || len(words) > 2 {
			return nil, fmt.Errorf("wave %d: expected saw, triangle, sine, pulse with its duty in per cent, or drawn with its points, got %q", i+1, strings.TrimSpace(part))
		}
		w := Wave{Name: words[0]}
		switch w.Name {
		case WaveSaw, WaveTriangle, WaveSine, WavePulse:
		default:
			return nil, fmt.Errorf("wave %d: expected saw, triangle, sine or pulse, got %q", i+1, w.Name)
		}
		if len(words) == 2 {
			d, err := strconv.ParseFloat(words[1], 64)
			if err != nil || w.Name != WavePulse || !(d >= 1 && d <= 99) {
				return nil, fmt.Errorf("wave %d: expected a duty of 1 to 99 %% after pulse, got %q", i+1, strings.TrimSpace(part))
			}
			w.Width = Ratio(d / 100)
		}
		out = append(out, w)
	}
	if len(out) < 2 || len(out) > 64 {
		return nil, fmt.Errorf("expected 2 to 64 waves, got %d", len(out))
	}
	return out, nil
}

// TableAmplitudes gives the first n harmonics of a table at a position of 0 to 1; width is the duty of the
// pulses that have none of their own.
func TableAmplitudes(table []Wave, position float64, width Ratio, n int) []float64 {
	x := min(max(position, 0), 1) * float64(len(table)-1)
	i := min(int(x), len(table)-2)
	f := x - float64(i)
	at := func(k int) []float64 {
		w := table[k]
		if w.Name == WavePulse && w.Width == 0 {
			w.Width = width
		}
		return w.Amplitudes(n)
	}
	out := at(i)
	if f > 0 {
		for k, b := range at(i + 1) {
			out[k] += f * (b - out[k])
		}
	}
	return out
}
