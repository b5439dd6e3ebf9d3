package paste

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// The player's means by what people call them.
var means = []struct{ words, what string }{
	{"modulation wheel", "wheel"}, {"mod wheel", "wheel"}, {"modwheel", "wheel"}, {"wheel", "wheel"}, {"modulation", "wheel"},
	{"pitch bend", "bend"}, {"pitchbend", "bend"}, {"bender", "bend"}, {"bend", "bend"},
	{"channel pressure", "aftertouch"}, {"aftertouch", "aftertouch"}, {"after touch", "aftertouch"}, {"pressure", "aftertouch"},
	{"hold pedal", patch.Hold}, {"sustain pedal", patch.Hold}, {"damper pedal", patch.Hold}, {"damper", patch.Hold}, {"hold", patch.Hold},
	{"expression pedal", "pedal"}, {"foot pedal", "pedal"}, {"expression", "pedal"}, {"pedal", "pedal"}, {"breath", "breath"},
}

const place = `(\d+(?:\.\d+)?)`

var (
	overBars = regexp.MustCompile(`(?i)^(.*?)[,;]?\s*(?:from |in |over |during |through )?\bbars? (\d+)(?:\s*(?:to|until|through|-|–)\s*(?:bar )?(\d+))?$`)
	atBar    = regexp.MustCompile(`(?i)^(.*?)[,;]?\s*\bat (?:bar )?(\d+)(?:,? beat ` + place + `)?(?: (?:for|over) (.+))?$`)
	atPlace  = regexp.MustCompile(`(?i)^(.*?)[,;]?\s*\bat (\d+/\d+[.t]?|0)(?: (?:for|over) (.+))?$`)
	lasting  = regexp.MustCompile(`(?i)^` + place + ` (bars?|beats?)$`)
)

// ReadMoves reads a line that says what is moved while a phrase is played, such as "cutoff 40 to 90, bars 5 to 8", "wheel to full at bar 2 for 2 bars", "bend 0 to -50 % at 1/2 for 1/8" or "hold, bar 3". A bar is
// four quarters; bars and beats count from 1, and "bars 5 to 8" ends with the eighth. now gives the reading at which a control stands, for a move that does not say where it begins. The error says what was not
// understood.
func ReadMoves(c *panel.Compiled, text string, now func(control int) string) ([]patch.Move, error) {
	text = strings.TrimSpace(text)
	if len(text) > 200 {
		return nil, fmt.Errorf("expected a line of at most 200 characters")
	}
	start, end, what, err := whenOf(text)
	if err != nil {
		return nil, err
	}
	at := phrase.Text(start)
	length := "0"
	if end > start {
		length = phrase.Text(end - start)
	}
	lower := strings.ToLower(what)
	for _, m := range means {
		rest, ok := strings.CutPrefix(lower, m.words)
		if !ok || rest != "" && !strings.ContainsAny(rest[:1], " :=") {
			continue
		}
		return playersMove(m.what, strings.Trim(rest, " :="), at, length, end)
	}
	k, from, to, err := controlsMove(c, what, now)
	if err != nil {
		return nil, err
	}
	return []patch.Move{{What: c.Controls[k].ID, At: at, For: length, From: from, To: to}}, nil
}

// whenOf parts a line into when it is, in whole notes, and what is moved.
func whenOf(text string) (start, end float64, what string, err error) {
	cut := func(n int) string { return strings.TrimRight(strings.TrimSpace(text[:n]), ",;") }
	number := func(s string) float64 { v, _ := strconv.ParseFloat(s, 64); return v }
	length := func(s string) (float64, error) {
		s = strings.TrimSpace(s)
		if s == "" {
			return 0, nil
		}
		if m := lasting.FindStringSubmatch(s); m != nil {
			v := number(m[1])
			if strings.HasPrefix(strings.ToLower(m[2]), "beat") {
				v /= 4
			}
			return v, nil
		}
		return phrase.Value(s)
	}
	if m := atPlace.FindStringSubmatch(text); m != nil {
		if start, err = phrase.Value(m[2]); err != nil {
			return 0, 0, "", err
		}
		l, err := length(m[3])
		return start, start + l, cut(len(m[1])), err
	}
	if m := atBar.FindStringSubmatch(text); m != nil {
		start = number(m[2]) - 1
		if m[3] != "" {
			start += (number(m[3]) - 1) / 4
		}
		if start < 0 {
			return 0, 0, "", fmt.Errorf("expected bars and beats that count from 1")
		}
		l, err := length(m[4])
		return start, start + l, cut(len(m[1])), err
	}
	if m := overBars.FindStringSubmatch(text); m != nil {
		a := number(m[2])
		b := a
		if m[3] != "" {
			b = number(m[3])
		}
		if a < 1 || b < a {
			return 0, 0, "", fmt.Errorf("expected bars that count from 1, the later one last")
		}
		return a - 1, b, cut(len(m[1])), nil
	}
	return 0, 0, "", fmt.Errorf("expected when it is moved, such as \"bars 5 to 8\", \"at bar 2 for 2 bars\" or \"at 1/2 for 1/4\"")
}

// playersMove reads where one of the player's means goes.
func playersMove(what, text, at, length string, end float64) ([]patch.Move, error) {
	if what == patch.Hold && (text == "" || text == "on" || text == "down") {
		if length == "0" {
			return []patch.Move{{What: what, At: at, For: "0", From: "0 %", To: "100 %"}}, nil
		}
		return []patch.Move{{What: what, At: at, For: "0", From: "0 %", To: "100 %"}, {What: what, At: phrase.Text(end), For: "0", From: "100 %", To: "0 %"}}, nil
	}
	from, to, both := strings.Cut(" "+text, " to ")
	from, to = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(from), "from ")), strings.TrimSpace(to)
	if !both { // one figure: it goes there from rest, at once where no time is given
		from, to = "0", strings.TrimSpace(text)
	}
	if from == "" {
		from = "0"
	}
	a, err := wayOf(what, from)
	if err != nil {
		return nil, err
	}
	b, err := wayOf(what, to)
	if err != nil {
		return nil, err
	}
	return []patch.Move{{What: what, At: at, For: length, From: a, To: b}}, nil
}

// wayOf reads how far one of the player's means is moved, as per cent of its way.
func wayOf(what, text string) (string, error) {
	v := math.NaN()
	switch text {
	case "full", "max", "up", "on", "all the way up":
		v = 1
	case "off", "none", "min", "rest", "middle", "centre", "center":
		v = 0
	case "down":
		v = 0
		if what == "bend" {
			v = -1
		}
	default:
		e, err := q.Parse(text)
		switch {
		case err != nil:
		case e.Form == q.FormPercent, e.Form == q.FormShare:
			v = e.Value
		case e.Form == q.FormNumber:
			v = e.Value / 100
		case e.Form == q.FormInterval || e.Form == q.FormOctaves:
			return "", fmt.Errorf("%q: say how far the bender itself goes, in per cent of its way: how much that is, its range says", text)
		}
	}
	low := 0.0
	if what == "bend" {
		low = -1
	}
	if !(v >= low && v <= 1) {
		return "", fmt.Errorf("expected %g to 100 %% of the way, full, half or off, got %q", 100*low, text)
	}
	return q.Number(100*v, 4) + " %", nil
}

// controlsMove reads which control goes from where to where.
func controlsMove(c *panel.Compiled, text string, now func(control int) string) (k int, from, to string, err error) {
	head, to, ok := strings.Cut(text, " to ")
	if !ok {
		head, to = text, ""
	}
	head = strings.Replace(head, " from ", " ", 1)
	// with a reading where it begins, or the name alone
	guess := func(text string) (int, string, bool) {
		r := Read(c, text)
		if len(r.Guesses) != 1 || len(r.Unmatched) > 0 {
			return 0, "", false
		}
		k, ok := c.ControlIndex(r.Guesses[0].Control)
		return k, r.Guesses[0].Reading, ok
	}
	if to == "" { // "resonance 7": it jumps there
		k, reading, ok := guess(text)
		if !ok {
			return 0, "", "", fmt.Errorf("%q: expected what is moved, and from where to where, such as \"cutoff 40 to 90\"", text)
		}
		return k, now(k), reading, nil
	}
	if k, from, ok = guess(head); !ok {
		if k, _, ok = guess(head + " " + to); !ok {
			return 0, "", "", fmt.Errorf("%q: no control of %s is named so, or the reading is none of its", head, c.Name)
		}
		from = now(k)
	}
	pos, err := c.Parse(k, strings.TrimSpace(to))
	if err != nil {
		return 0, "", "", err
	}
	return k, from, pos.Reading, nil
}
