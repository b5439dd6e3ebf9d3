package synth

import (
	"math"

	q "glossator/core/quantity"

	"glossator/core/dsp"
	"glossator/core/meaning"
)

// line is a delay line that is read between its samples.
type line struct {
	buf []float64
	at  int
}

func newLine(seconds float64) *line {
	return &line{buf: make([]float64, dsp.PowerFrom(int(seconds*Rate)+4))}
}

func (l *line) write(x float64) {
	if math.Abs(x) < 1e-18 {
		x = 0
	}
	l.at = (l.at + 1) & (len(l.buf) - 1)
	l.buf[l.at] = x
}

// read gives the sample of a number of samples ago, 0 being the last written.
func (l *line) read(ago float64) float64 {
	i := int(ago)
	f := ago - float64(i)
	m := len(l.buf) - 1
	a := l.buf[(l.at-i)&m]
	return a + f*(l.buf[(l.at-i-1)&m]-a)
}

// modulated is chorus and flanger: short delays that move, each voice at its own phase.
func (e *engine) modulated(d *meaning.Module, left, right []float64) step {
	chorus := d.Kind == meaning.Chorus
	base := num(d, meaning.PDelay)
	voices := 1
	stereo := 1.0
	if v, ok := d.Params[meaning.PStereo]; ok && !v.Off {
		stereo = v.Value
	}
	if chorus {
		voices = max(1, min(6, int(num(d, meaning.PVoices))))
		if base == 0 {
			base = 0.008 // common practice, no source
		}
	} else if base == 0 {
		base = 0.001
	}
	delay, depth := e.setting(d, meaning.PDelay, base, 0, 0.2), e.setting(d, meaning.PDepth, num(d, meaning.PDepth), 0, 0.1)
	// voices that move together add up by their number, and come back as loud: less than 1 in all, or it howls
	most := 0.95 / math.Sqrt(float64(voices))
	feedback, mix := e.setting(d, meaning.PFeedback, num(d, meaning.PFeedback), -most, most), e.mixSetting(d)
	rate := e.setting(d, meaning.PRate, num(d, meaning.PRate), 0, 200)
	longest := max(delay.top(), depth.top()+0.0002) + 2*depth.top() + 0.01
	tone := [2]onePole{lowAt(hertz(d, meaning.PTone, 20000)), lowAt(hertz(d, meaning.PTone, 20000))}
	lines := [2]*line{newLine(longest), newLine(longest)}
	smear := [2]*smearing{newSmearing(num(d, meaning.PDiffusion)), newSmearing(num(d, meaning.PDiffusion))}
	phase := 0.0
	const hold = 16
	var held [2][6][2]float64
	g := 1 / math.Sqrt(float64(voices))
	return func(from, to int) {
		taps := held
		defer func() { held = taps }()
		for k := from; k < to; k++ {
			if k%hold == 0 {
				inc := rate.at(k) / Rate
				d0, d1 := depth.at(k), depth.at(k+hold)
				b0, b1 := max(delay.at(k), d0+0.0002), max(delay.at(k+hold), d1+0.0002)
				for c := range 2 {
					for n := range voices {
						p := phase + float64(n)/float64(voices) + float64(c)*0.25*stereo
						now := (b0 + d0*math.Sin(2*math.Pi*p)) * Rate
						then := (b1 + d1*math.Sin(2*math.Pi*(p+inc*hold))) * Rate
						taps[c][n] = [2]float64{now, (then - now) / hold}
					}
				}
				phase += inc * hold
			}
			back, m := feedback.at(k), mix.at(k)
			for c, x := range [2][]float64{left, right} {
				in := x[k]
				var wet float64
				for n := range voices {
					t := &taps[c][n]
					wet += lines[c].read(t[0])
					t[0] += t[1]
				}
				wet = smear[c].next(tone[c].next(wet * g))
				lines[c].write(in + back*wet)
				x[k] = in + m*(wet-in)
				if !chorus { // equal shares leave the comb at full depth
					x[k] = in*(1-m/2) + wet*m/2
				}
			}
		}
	}
}

// smearing spreads a sound in time by three all-passes, by a share: the diffusion of a chorus (lengths of 2 to 7 ms: common practice, no source).
type smearing struct {
	share  float64
	stages [3]allpass
}

func newSmearing(share float64) *smearing {
	s := &smearing{share: clamp(share, 0, 1)}
	if s.share > 0 {
		s.stages = [3]allpass{newAllpass(113), newAllpass(199), newAllpass(337)}
	}
	return s
}

func (s *smearing) next(x float64) float64 {
	if s.share == 0 {
		return x
	}
	y := x
	for i := range s.stages {
		y = s.stages[i].next(y)
	}
	return x + s.share*(y-x)
}

func (e *engine) phaser(d *meaning.Module, left, right []float64) step {
	stages := max(2, min(12, int(num(d, meaning.PStages))))
	centre, depth := e.setting(d, meaning.PCentre, hertz(d, meaning.PCentre, 800), 20, 18000), e.setting(d, meaning.PDepth, num(d, meaning.PDepth), 0, 1)
	feedback, mix := e.setting(d, meaning.PFeedback, num(d, meaning.PFeedback), -0.9, 0.9), e.mixSetting(d)
	rate := e.setting(d, meaning.PRate, num(d, meaning.PRate), 0, 200)
	return eachChannel(left, right, func(c int, x []float64) step {
		var s [12]float64
		var last, a float64
		phase := 0.25 * float64(c)
		return func(from, to int) {
			for k := from; k < to; k++ {
				if k%16 == 0 { // two octaves either way at full depth (common practice, no source)
					f := clamp(centre.at(k)*math.Exp2(2*depth.at(k)*math.Sin(2*math.Pi*phase)), 20, 18000)
					t := math.Tan(math.Pi * f / Rate)
					a = (t - 1) / (t + 1)
					phase += 16 * rate.at(k) / Rate
				}
				y := x[k] + feedback.at(k)*last
				for n := range stages {
					out := a*y + s[n]
					s[n] = y - a*out
					y = out
				}
				last = y
				x[k] += mix.at(k) / 2 * (y - x[k])
			}
		}
	})
}

// echo is a delay: left and right with their own times, crossed, or from side to side.
func (e *engine) echo(d *meaning.Module, left, right []float64) step {
	tl := max(num(d, meaning.PTime), 1.0/Rate)
	tr := num(d, meaning.PTimeRight)
	if tr <= 0 {
		tr = tl
	}
	timeL, timeR := e.setting(d, meaning.PTime, tl, 1.0/Rate, 10), e.setting(d, meaning.PTimeRight, tr, 1.0/Rate, 10)
	if timeR.moved == nil && num(d, meaning.PTimeRight) <= 0 {
		timeR = timeL
	}
	feedback, cross := clamp(num(d, meaning.PFeedback), 0, 0.98), clamp(num(d, meaning.PCross), 0, 0.98)
	mix := e.mixSetting(d)
	pattern := word(d, meaning.PPattern)
	if pattern == "cross" && cross == 0 {
		feedback, cross = 0, feedback
	}
	back, over := e.setting(d, meaning.PFeedback, feedback, 0, 0.98), e.setting(d, meaning.PCross, cross, 0, 0.98)
	wobble := e.setting(d, meaning.PWobble, num(d, meaning.PWobble), 0, 1)
	depth, rate := e.setting(d, meaning.PDepth, num(d, meaning.PDepth), 0, 0.1), e.setting(d, meaning.PRate, num(d, meaning.PRate), 0, 200)
	sways, phase := depth.top() > 0, 0.0
	tone := e.setting(d, meaning.PTone, hertz(d, meaning.PTone, 20000), 20, 20000)
	high := [2]onePole{lowAt(hertz(d, meaning.PTone, 20000)), lowAt(hertz(d, meaning.PTone, 20000))}
	low := [2]onePole{lowAt(hertz(d, meaning.PLowcut, 5)), lowAt(hertz(d, meaning.PLowcut, 5))}
	cut := hertz(d, meaning.PLowcut, 0) > 0
	lines := [2]*line{newLine(timeL.top() + 2*depth.top() + 0.02), newLine(timeR.top() + 2*depth.top() + 0.02)}
	return func(from, to int) {
		for k := from; k < to; k++ {
			w := 0.0
			if x := wobble.at(k); x > 0 { // 4 ms at full modulation (common practice, no source)
				w = 0.004 * Rate * x * (1 + math.Sin(2*math.Pi*0.7*float64(k)/Rate))
			}
			if tone.turns(k) {
				high[0].c = lowAt(tone.at(k)).c
				high[1].c = high[0].c
			}
			feedback, cross := back.at(k), over.at(k)
			if feedback+cross > 0.98 {
				s := 0.98 / (feedback + cross)
				feedback, cross = feedback*s, cross*s
			}
			mix := mix.at(k)
			agoL, agoR := timeL.at(k)*Rate-1+w, timeR.at(k)*Rate-1+w
			if sways { // about its time; never ahead of what comes in
				by := depth.at(k) * Rate
				x := by * math.Sin(2*math.Pi*phase)
				agoL, agoR = max(agoL, by)+x, max(agoR, by)+x
				phase += rate.at(k) / Rate
			}
			yl, yr := lines[0].read(agoL), lines[1].read(agoR)
			yl, yr = high[0].next(yl), high[1].next(yr)
			if cut {
				yl -= low[0].next(yl)
				yr -= low[1].next(yr)
			}
			if pattern == "pingpong" { // in by the left, and each echo on the other side
				lines[0].write((left[k]+right[k])/2 + feedback*yr)
				lines[1].write(feedback * yl)
			} else {
				lines[0].write(left[k] + feedback*yl + cross*yr)
				lines[1].write(right[k] + feedback*yr + cross*yl)
			}
			left[k] += mix * (yl - left[k])
			right[k] += mix * (yr - right[k])
		}
	}
}

// reverberate is a feedback network of eight delays (Schroeder, JAES 10(3), 1962, for the gains that
// give a T60; the network by an orthogonal matrix is common practice, no source).
func (e *engine) reverberate(d *meaning.Module, left, right []float64) step {
	t60 := e.setting(d, meaning.PT60, num(d, meaning.PT60), 0.05, 60)
	mix := e.mixSetting(d)
	size := 0.5
	if v, ok := d.Params[meaning.PSize]; ok && !v.Off {
		size = v.Value
	}
	damping := e.setting(d, meaning.PDamping, num(d, meaning.PDamping), 0, 1)
	wait := e.setting(d, meaning.PPredelay, num(d, meaning.PPredelay), 0, 2)
	pre := newLine(wait.top() + 0.01)
	cut := hertz(d, meaning.PLowcut, 0) > 0
	primes := [8]int{1123, 1283, 1451, 1607, 1811, 1993, 2203, 2423} // samples at middle size, 23 to 50 ms
	scale := 0.5 + size
	var bufs [8][]float64
	var held struct {
		at           [8]int
		state, gains [8]float64
		coef         float64
		low          onePole
		diffuse      [2]allpass
	}
	for i, p := range primes {
		n := max(64, int(float64(p)*scale))
		bufs[i] = make([]float64, n)
	}
	set := func(k int) {
		// damping takes the highs: from 16 kHz down to 2 kHz
		c := lowAt(16000 * math.Exp2(-3*damping.at(k))).c
		if damping.at(k) == 0 {
			c = 1
		}
		held.coef = c
		for i := range bufs {
			held.gains[i] = float64(q.FeedbackFor(q.Duration(float64(len(bufs[i]))/Rate), q.Duration(t60.at(k))))
		}
	}
	set(0)
	const h = 0.35355339059327373 // 1/sqrt 8
	const quiet = 1e-20           // keeps what dies away from becoming numbers too small to be quick
	held.low, held.diffuse = lowAt(hertz(d, meaning.PLowcut, 5)), [2]allpass{newAllpass(241), newAllpass(557)}
	return func(from, to int) {
		diffuse, low := held.diffuse, held.low // by value: they stay in registers and on the stack
		at, state := held.at, held.state
		var in [block]float64
		var y [8][block]float64
		for from < to { // a block at a time, line by line: all of them are longer than that
			n := min(block-from%block, to-from)
			if t60.turns(from) || damping.turns(from) {
				set(from)
			}
			for k := range n {
				pre.write((left[from+k] + right[from+k]) / 2)
				x := pre.read(wait.at(from+k) * Rate)
				if cut {
					x -= low.next(x)
				}
				in[k] = diffuse[1].next(diffuse[0].next(x)) + quiet
			}
			for i := range y { // what comes out of the lines
				k := copy(y[i][:n], bufs[i][at[i]:])
				copy(y[i][k:n], bufs[i])
			}
			c, g, s := held.coef, &held.gains, &state
			for k := range in[:n] { // the eight side by side: each of them waits for its own last
				s[0] += c * (y[0][k] - s[0])
				s[1] += c * (y[1][k] - s[1])
				s[2] += c * (y[2][k] - s[2])
				s[3] += c * (y[3][k] - s[3])
				s[4] += c * (y[4][k] - s[4])
				s[5] += c * (y[5][k] - s[5])
				s[6] += c * (y[6][k] - s[6])
				s[7] += c * (y[7][k] - s[7])
				y0, y1, y2, y3, y4, y5, y6, y7 := s[0]*g[0], s[1]*g[1], s[2]*g[2], s[3]*g[3], s[4]*g[4], s[5]*g[5], s[6]*g[6], s[7]*g[7]
				wl := 0.5 * (y0 - y2 + y4 - y6)
				wr := 0.5 * (y1 - y3 + y5 - y7)
				m := mix.at(from + k)
				left[from+k] += m * (wl - left[from+k])
				right[from+k] += m * (wr - right[from+k])
				// Hadamard's matrix, written out: in loops it takes three times as long
				a0, a1, a2, a3, a4, a5, a6, a7 := y0+y1, y0-y1, y2+y3, y2-y3, y4+y5, y4-y5, y6+y7, y6-y7
				b0, b1, b2, b3, b4, b5, b6, b7 := a0+a2, a1+a3, a0-a2, a1-a3, a4+a6, a5+a7, a4-a6, a5-a7
				x := in[k]
				y[0][k], y[1][k], y[2][k], y[3][k] = (b0+b4)*h+x, (b1+b5)*h+x, (b2+b6)*h+x, (b3+b7)*h+x
				y[4][k], y[5][k], y[6][k], y[7][k] = (b0-b4)*h+x, (b1-b5)*h+x, (b2-b6)*h+x, (b3-b7)*h+x
			}
			for i := range y {
				k := copy(bufs[i][at[i]:], y[i][:n])
				copy(bufs[i], y[i][k:n])
				if at[i] += n; at[i] >= len(bufs[i]) {
					at[i] -= len(bufs[i])
				}
			}
			from += n
		}
		held.at, held.state = at, state
		held.diffuse, held.low = diffuse, low
	}
}

type allpass struct {
	buf []float64
	at  int
}

func newAllpass(n int) allpass { return allpass{buf: make([]float64, n)} }

func (a *allpass) next(x float64) float64 {
	const g = 0.6
	y := a.buf[a.at]
	w := x + g*y
	if w < 1e-18 && w > -1e-18 {
		w = 0
	}
	a.buf[a.at] = w
	if a.at++; a.at == len(a.buf) {
		a.at = 0
	}
	return y - g*w
}
