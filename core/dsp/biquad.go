package dsp

import "math"

// Biquad is a section of two poles and two zeros; a0 is 1.
type Biquad struct{ B0, B1, B2, A1, A2 float64 }

// EQ gives the section for a band of an equaliser at a rate: peak, low shelf, high shelf, low-pass, high-pass; gain in decibels.
// Source: W3C, Audio EQ Cookbook (Bristow-Johnson).
func EQ(kind string, hz, gain, quality, rate float64) Biquad {
	w := 2 * math.Pi * min(max(hz, 5), 0.49*rate) / rate
	quality = min(max(quality, 0.05), 50)
	cos, alpha := math.Cos(w), math.Sin(w)/(2*quality)
	a := math.Pow(10, gain/40)
	var b0, b1, b2, a0, a1, a2 float64
	switch kind {
	case "low shelf", "high shelf":
		s := 2 * math.Sqrt(a) * math.Sin(w) / 2 * math.Sqrt2 // a slope of 1
		sign := 1.0
		if kind == "high shelf" {
			sign = -1
		}
		b0 = a * (a + 1 - sign*(a-1)*cos + s)
		b1 = sign * 2 * a * (a - 1 - sign*(a+1)*cos)
		b2 = a * (a + 1 - sign*(a-1)*cos - s)
		a0 = a + 1 + sign*(a-1)*cos + s
		a1 = -sign * 2 * (a - 1 + sign*(a+1)*cos)
		a2 = a + 1 + sign*(a-1)*cos - s
	case "low-pass":
		b0, b1, b2 = (1-cos)/2, 1-cos, (1-cos)/2
		a0, a1, a2 = 1+alpha, -2*cos, 1-alpha
	case "high-pass":
		b0, b1, b2 = (1+cos)/2, -(1 + cos), (1+cos)/2
		a0, a1, a2 = 1+alpha, -2*cos, 1-alpha
	default:
		b0, b1, b2 = 1+alpha*a, -2*cos, 1-alpha*a
		a0, a1, a2 = 1+alpha/a, -2*cos, 1-alpha/a
	}
	return Biquad{b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0}
}

// Run filters in place.
func (b Biquad) Run(x []float64) {
	var z [2]float64
	b.From(x, &z)
}

// From filters in place, on from a state.
func (b Biquad) From(x []float64, z *[2]float64) {
	z1, z2 := z[0], z[1]
	for k, in := range x {
		y := b.B0*in + z1
		z1 = b.B1*in - b.A1*y + z2
		z2 = b.B2*in - b.A2*y
		if math.Abs(z1) < 1e-18 {
			z1 = 0
		}
		if math.Abs(z2) < 1e-18 {
			z2 = 0
		}
		x[k] = y
	}
	z[0], z[1] = z1, z2
}

// Gain gives the section's gain at a frequency in hertz.
func (b Biquad) Gain(hz, rate float64) float64 {
	w := 2 * math.Pi * hz / rate
	c1, s1, c2, s2 := math.Cos(w), math.Sin(w), math.Cos(2*w), math.Sin(2*w)
	return math.Hypot(b.B0+b.B1*c1+b.B2*c2, b.B1*s1+b.B2*s2) / math.Hypot(1+b.A1*c1+b.A2*c2, b.A1*s1+b.A2*s2)
}

// KWeighting gives the K weighting of ITU-R BS.1770 at a rate: a high shelf of 4 dB and a high-pass, by their analogue prototypes so that
// any rate will do (constants from memory; they give the standard's own coefficients at 48 kHz).
func KWeighting(rate float64) [2]Biquad {
	k := math.Tan(math.Pi * 1681.974450955533 / rate)
	const quality, gain = 0.7071752369554196, 3.999843853973347
	vh := math.Pow(10, gain/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/quality + k*k
	shelf := Biquad{(vh + vb*k/quality + k*k) / a0, 2 * (k*k - vh) / a0, (vh - vb*k/quality + k*k) / a0, 2 * (k*k - 1) / a0, (1 - k/quality + k*k) / a0}
	k = math.Tan(math.Pi * 38.13547087602444 / rate)
	const low = 0.5003270373238773
	a0 = 1 + k/low + k*k
	return [2]Biquad{shelf, {1, -2, 1, 2 * (k*k - 1) / a0, (1 - k/low + k*k) / a0}}
}
