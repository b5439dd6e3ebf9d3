package synth

import (
	"math"

	q "glossator/core/quantity"
)

// value gives what a source is in this block: a number, or a list that changes within it.
func (v *voice) value(s source) (float64, []float64) {
	switch s.kind {
	case velocity:
		return v.velocity, nil
	case noteKey:
		return (v.keyPitch - float64(q.MiddleC)) / 12, nil
	case perNote:
		return 2*unit(v.seed+99, v.number) - 1, nil
	case gate:
		if v.gateOn {
			return 1, nil
		}
		return 0, nil
	case fromEnv:
		return 0, v.envBuf[s.i]
	case fromLFO:
		return 0, v.lfoBuf[s.i]
	case fromOsc:
		return 0, v.oscs[s.i].raw
	case fromOperator:
		return 0, v.opBuf[s.i]
	case fromPlayer:
		return v.gesture(s.i)
	}
	return s.value, nil
}

// gesture gives where a gesture stands in this block.
func (v *voice) gesture(i int) (float64, []float64) {
	g := &v.gestures[i]
	a, b := g.Value(float64(v.at)/Rate), g.Value(float64(v.at+v.n)/Rate)
	if a == b {
		return a, nil
	}
	for len(v.gestureBuf) < len(v.gestures) {
		v.gestureBuf = append(v.gestureBuf, floats(block))
	}
	buf := v.gestureBuf[i][:v.n]
	d := (b - a) / float64(v.n)
	for k := range buf {
		buf[k] = a + d*float64(k+1)
	}
	return 0, buf
}

// sum adds up what moves a parameter. Where nothing of it changes within the block, list is nil;
// otherwise it is in buf and holds the constant part too.
func (v *voice) sum(mods []mod, buf []float64) (c float64, list []float64) {
	for i := range mods {
		m := &mods[i]
		x, moving := v.value(m.source)
		depth, viaList := m.depth, []float64(nil)
		if m.via != nil {
			f, l := v.value(*m.via)
			if l == nil {
				depth *= f
			} else {
				viaList = l
			}
		}
		if depth == 0 {
			continue
		}
		shift := m.unipolar && m.bipolar()
		if moving == nil && viaList == nil {
			if shift && m.kind != noteKey {
				x = (x + 1) / 2
			}
			c += depth * curved(x, m.curve)
			continue
		}
		if list == nil {
			list = buf[:v.n]
			for k := range list {
				list[k] = 0
			}
		}
		for k := range list {
			y := x
			if moving != nil {
				y = moving[k]
			}
			if shift {
				y = (y + 1) / 2
			}
			if m.curve != "" && m.curve != "linear" {
				y = curved(y, m.curve)
			}
			if viaList != nil {
				f := viaList[k]
				if m.via.bipolar() {
					f = (f + 1) / 2
				}
				y *= f
			}
			list[k] += depth * y
		}
	}
	if list != nil && c != 0 {
		for k := range list {
			list[k] += c
		}
	}
	return c, list
}

// curved bends a source's swing: "exponential" and "convex" rise late, "logarithmic" and "concave" early.
func curved(x float64, curve string) float64 {
	switch curve {
	case "exponential", "convex", "square":
		return x * math.Abs(x)
	case "logarithmic", "concave", "root":
		return math.Copysign(math.Sqrt(math.Abs(x)), x)
	}
	return x
}

// latest gives the last value of a sum, for what is worked out once a block.
func (v *voice) latest(mods []mod, buf []float64) float64 {
	if len(mods) == 0 {
		return 0
	}
	c, l := v.sum(mods, buf)
	if l != nil {
		return l[len(l)-1]
	}
	return c
}

// levelOf gives a source's level: what moves it adds to it, up to full level.
func (v *voice) levelOf(base float64, mods []mod) []float64 {
	buf := v.scratch[3]
	c, list := v.sum(mods, buf)
	top := max(1, base)
	if list == nil {
		buf[0] = clamp(base+c, 0, top)
		return buf[:1]
	}
	for k := range list {
		list[k] = clamp(base+list[k], 0, top)
	}
	return list
}

// gainOf gives the amplifier's gain: envelopes, velocity and gate multiply.
func (v *voice) gainOf() []float64 {
	buf := v.scratch[4][:v.n]
	v.multiply(buf, v.engine.amp.levelMods)
	if !v.gated {
		return buf
	}
	// the gate's own edges, so that it does not click: 2 ms up, 4 ms down
	g := v.gateLevel
	up, down := 1/(0.002*Rate), 1/(0.004*Rate)
	for k := range buf {
		if v.gateOn {
			g = min(1, g+up)
		} else {
			g = max(0, g-down)
		}
		buf[k] *= g
	}
	v.gateLevel = g
	return buf
}

// multiply sets buf to the product of what moves a level.
func (v *voice) multiply(buf []float64, mods []mod) {
	if len(mods) > 0 && mods[0].kind == fromEnv && mods[0].depth == 1 && mods[0].via == nil && mods[0].curve == "" {
		copy(buf, v.envBuf[mods[0].i]) // as it mostly is
		mods = mods[1:]
	} else {
		for k := range buf {
			buf[k] = 1
		}
	}
	for i := range mods {
		m := &mods[i]
		if m.kind == gate {
			continue
		}
		d := m.depth
		c, list := v.sum(mods[i:i+1], v.scratch[5])
		base := 1.0
		if !m.bipolar() && m.via == nil && d > 0 && (m.kind == fromEnv || m.kind == velocity) {
			base = 1 - min(1, d) // full level is at the source's full swing
		}
		if list == nil {
			f := max(0, base+c)
			for k := range buf {
				buf[k] *= f
			}
			continue
		}
		for k := range buf {
			buf[k] *= max(0, base+list[k])
		}
	}
}
