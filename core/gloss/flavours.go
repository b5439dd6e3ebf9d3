package gloss

// Flavoured is a flavour of the patch, and what is set otherwise for it on the target.
type Flavoured struct {
	Name string `json:"name"`
	Note string `json:"note,omitempty"`
	// Source lists what differs on the source, Target what then differs on the target: From as the sheet has it, To in the flavour.
	Source []MovedTo `json:"source"`
	Target []MovedTo `json:"target"`
	// Cables lists the cables that are pulled and patched for it.
	Cables []string `json:"cables,omitempty"`
	// Verdict is the worst of the lines that what differs stands in, with its reason.
	Verdict Verdict `json:"verdict"`
	Reason  string  `json:"reason"`
}
