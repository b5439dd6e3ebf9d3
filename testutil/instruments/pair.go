package instruments

import (
	"glossator/core/panel"
	"glossator/core/patch"
)

// Pair gives a patch on an invented instrument, and another instrument to take it to. The error is one of compiling.
func Pair(seed, onto uint64) (src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, err error) {
	if src, err = Panel(seed); err != nil {
		return nil, nil, nil, err
	}
	if dst, err = Panel(onto); err != nil {
		return nil, nil, nil, err
	}
	return src, Patch(src, seed), dst, nil
}
