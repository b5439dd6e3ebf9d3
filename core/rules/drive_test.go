package rules

import "glossator/core/meaning"

var _ = used(&drive,
	use{"drive goes into the filter", targetOf{params: []string{"filter.drive"}}.case_(sound([]meaning.Module{mod("d", meaning.Drive, p{"gain": 9.0}), cut}), "d"),
		figures{"filter~.drive": 9}, []string{"d"}, "turn the level down first"},
)
