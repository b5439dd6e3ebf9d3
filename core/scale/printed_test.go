package scale

import (
	"strings"
	"testing"
)

// What stands beside controls, as people write it, becomes the face that they mean (common practice, no source).
func TestFacesAsTheyArePrinted(t *testing.T) {
	for text, want := range map[string]string{
		"0 to 10":                 "101: 0.0, 0.1 ... 10.0",
		"0-10":                    "101: 0.0, 0.1 ... 10.0",
		"0..127":                  "128: 0, 1 ... 127",
		"0 – 99":                  "100: 0, 1 ... 99",
		"0 ... 255":               "256: 0, 1 ... 255",
		"1 to 64":                 "64: 1, 2 ... 64",
		"-5 to +5":                "101: -5.0, -4.9 ... +5.0",
		"-64..63":                 "128: -64, -63 ... 63",
		"−24 to +24":              "49: -24, -23 ... +24",
		"±7":                      "141: -7.0, -6.9 ... +7.0",
		"+/-50":                   "101: -50, -49 ... +50",
		"0 to 10 in 0.5":          "21: 0.0, 0.5 ... 10.0",
		"0 to 10 in steps of 1":   "11: 0, 1 ... 10",
		"0.0 to 10.0":             "101: 0.0, 0.1 ... 10.0",
		"0,00 to 1,00":            "101: 0.00, 0.01 ... 1.00",
		"0 to 100 %":              "101: 0 %, 1 % ... 100 %",
		"0-100%":                  "101: 0 %, 1 % ... 100 %",
		"-24 dB to +12 dB in 0.5": "73: -24.0 dB, -23.5 dB ... +12.0 dB",
		"0 to 360°":               "361: 0°, 1° ... 360°",
		"20 to 20000 Hz in 20":    "1000: 20 Hz, 40 Hz ... 20000 Hz",
		"20 Hz ... 20 kHz":        "21: 20 Hz, 28.3 Hz ... 20 kHz",
		"1 ms - 10 s":             "21: 1 ms, 1.58 ms ... 10 s",
		"clock":                   "41: 7:00, 7:15 ... 5:00",
		"7 o'clock to 5 o'clock":  "41: 7:00, 7:15 ... 5:00",
		"7-5 o'clock":             "41: 7:00, 7:15 ... 5:00",
		"8:00 to 16:00":           "33: 8:00, 8:15 ... 4:00",
		"7:00 to 17:00 in 5 min":  "121: 7:00, 7:05 ... 5:00",
		"5 ms 50 500 5 s":         "31: 5 ms, 6.29 ms ... 5 s",
		"20 200 2k 20k Hz":        "31: 20 Hz, 25.2 Hz ... 20 kHz",
		"marks 0 2 4 6 8 10":      "51: 0, 0.2 ... 10",
		"marks 32' 16' 8' 4' 2'":  "5: 32', 16' ... 2'",
		"32' 16' 8' 4'":           "4: 32', 16' ... 4'",
		"marks soft, hard":        "11: soft, soft + 1/10 ... hard",
		"marks 20 Hz, 600 Hz at 40 %, 20 kHz (4 between)": "9: 20 Hz, 46.8 Hz ... 20 kHz",
		"saw / pulse / triangle":                          "3: saw, pulse ... triangle",
		"saw, pulse, triangle":                            "3: saw, pulse ... triangle",
		"saw pulse triangle sine":                         "4: saw, pulse ... sine",
		"saw/pulse/triangle":                              "3: saw, pulse ... triangle",
		"1/4, 1/8, 1/8T":                                  "3: 1/4, 1/8 ... 1/8T",
		"1/4 1/8 1/16":                                    "3: 1/4, 1/8 ... 1/16",
		"off on":                                          "2: off, on",
		"off/on":                                          "2: off, on",
		"list 1 2 4":                                      "3: 1, 2 ... 4",
		"low pass | high pass":                            "2: low pass, high pass",
	} {
		f, err := ReadFace(text)
		if err != nil {
			t.Errorf("%q: %v", text, err)
			continue
		}
		if got := shown(f); got != want {
			t.Errorf("%q shows %s, want %s", text, got, want)
		}
		again := f.Printed()
		back, err := ReadFace(again)
		if err != nil || !back.same(f) {
			t.Errorf("%q is printed %q, which reads as %s, %v", text, again, shown(back), err)
		}
	}
	if f, err := ReadFace("free text"); err != nil || f.Kind != Text {
		t.Errorf("free text: %+v, %v", f, err)
	}
	if f, _ := ReadFace("-12 to +12"); shown(f.Counts()) != "25: -12, -11 ... +12" || !f.Counts().Exact {
		t.Errorf("semitones count %s", shown(f.Counts()))
	}
	if f, _ := ReadFace("1 to 8"); shown(f.Counts()) != "8: 1, 2 ... 8" {
		t.Errorf("voices count %s", shown(f.Counts()))
	}
}

func shown(f Face) string {
	n := f.Len()
	if n == 0 {
		return string(f.Kind)
	}
	out := f.At(0).Reading + ", " + f.At(1).Reading
	if n > 2 {
		out += " ... " + f.At(n-1).Reading
	}
	return strings.TrimSpace(itoa(n) + ": " + out)
}

func itoa(n int) string {
	if n < 10 {
		return string(rune('0' + n))
	}
	return itoa(n/10) + string(rune('0'+n%10))
}

// What cannot be a face says what can be written, and does not panic.
func TestFacesThatAreNone(t *testing.T) {
	for text, want := range map[string]string{
		"":                        "expected what is printed",
		"saw":                     "0 to 10",
		"10":                      "0 to 10",
		"10 to 0":                 "lower number first",
		"5 to 5":                  "above",
		"0 to 10 in 3":            "divides",
		"0 to 1000000 in 0.01":    "steps",
		"saw / saw":               "no other",
		"10 % to 5 dB":            "one unit",
		"5:00 to 5:00":            "half an hour",
		"12:99 to 13:00":          "00 to 59",
		strings.Repeat("9", 5000): "characters",
		"marks":                   "expected",
	} {
		if f, err := ReadFace(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.20q: %+v, %v, want an error with %q", text, f, err, want)
		}
	}
}

// Whatever is read is a face without faults, and is printed so that it reads the same again.
func FuzzReadFace(f *testing.F) {
	for _, s := range []string{"0 to 10", "±5 in 0.5", "7 to 5 o'clock", "5 ms 50 500 5 s", "a/b/c", "marks a at 0 %, b at 100 % (3 between)", "32' 16'", "0-1e9", "1/4 1/8"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		face, err := ReadFace(text)
		if err != nil {
			return
		}
		if l := face.Check(); len(l) > 0 {
			t.Fatalf("%q has faults: %v", text, l)
		}
		if again := face.Printed(); again != "" {
			back, err := ReadFace(again)
			if err != nil || back.Len() != face.Len() {
				t.Fatalf("%q is printed %q: %v", text, again, err)
			}
		}
	})
}
