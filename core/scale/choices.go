package scale

// Choice is a word of the panel format with what a form says for it.
type Choice struct {
	Value string `json:"value"`
	Text  string `json:"text"`
}

// FaceKinds lists the kinds of face, Conventions the ways in which a law counts a time, Swings those in which
// it counts a depth, Sources where a law may be known from, Ends the ends of a travel that may be off.
var (
	FaceKinds   = []Choice{{string(Numeric), "numbers"}, {string(Clock), "unmarked, a clock"}, {string(Marks), "printed marks"}, {string(List), "list"}, {string(Switch), "switch"}, {string(Text), "free text"}}
	Conventions = []Choice{{string(Ramp), "the whole ramp"}, {string(Tau), "the time constant"}, {string(T60), "time to -60 dB"}, {string(T90), "time to 90 %"}, {string(Half), "time to half"}}
	Swings      = []Choice{{string(PeakToPeak), "peak to peak"}, {string(Peak), "to the peak, said so"}}
	Sources     = []Choice{{string(Stated), "the maker's words"}, {string(Measured), "measuring"}, {string(Assumed), "assumed"}}
	Ends        = []Choice{{"bottom", "the bottom"}, {"top", "the top"}}
)

// has tells whether a word is one of the choices.
func has(all []Choice, value string) bool { return textOf(all, value) != "" }

// textOf gives what a form says for a word; empty where it is none of the choices.
func textOf(all []Choice, value string) string {
	for _, c := range all {
		if c.Value == value {
			return c.Text
		}
	}
	return ""
}
