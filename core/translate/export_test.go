package translate

import (
	"glossator/core/audit"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
)

// AuditAfter gives the audit of a sheet that was changed after it was made.
func AuditAfter(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, change func(*gloss.Sheet)) ([]gloss.Check, error) {
	w, err := work(src, p, dst, Options{})
	if err != nil {
		return nil, err
	}
	change(w.sheet)
	return audit.Of(w.in, w.sheet), nil
}
