package plan

import (
	"maps"
	"reflect"
	"slices"
	"strconv"

	"glossator/core/meaning"
)

// knownFits keeps how near modules of the target come to modules of the source, from one search to the next over
// meanings that are mostly the same. What is asked for tells them apart, not the id: two recasts may give one id to
// different modules.
type knownFits struct {
	number map[string]int // what is asked for, in bytes
	shared map[uintptr]asked
	fits   []map[int]*knownFit // by number: by target module
}

// asked is a set of parameters that has been looked at; it is held so that its address stays its own.
type asked struct {
	params map[meaning.ParamName]meaning.Value
	kind   meaning.Kind
	factor float64
	number int
}

type knownFit struct {
	best []Assignment
	cost float64
}

func newKnownFits() *knownFits {
	return &knownFits{number: map[string]int{}, shared: map[uintptr]asked{}}
}

// of gives the fits of what a module asks for.
func (k *knownFits) of(pol *Policy, w *meaning.Module) map[int]*knownFit {
	at, factor := reflect.ValueOf(w.Params).Pointer(), pol.chosen(w.Source())
	if a, ok := k.shared[at]; ok && a.kind == w.Kind && a.factor == factor {
		return k.fits[a.number]
	}
	key := make([]byte, 0, 256)
	key = append(append(key, w.Kind...), '|')
	key = strconv.AppendFloat(key, factor, 'g', -1, 64)
	for i := range meaning.SpecOf(w.Kind).Params {
		v, ok := w.Params[meaning.SpecOf(w.Kind).Params[i].Name]
		if !ok {
			key = append(key, '-')
			continue
		}
		key = append(append(append(key, '|'), v.Name...), ' ')
		key = strconv.AppendFloat(key, v.Value, 'g', -1, 64)
		key = strconv.AppendFloat(append(key, ' '), v.Tol, 'g', -1, 64)
		key = strconv.AppendBool(key, v.Off)
		for _, part := range slices.Sorted(maps.Keys(v.Parts)) {
			key = strconv.AppendFloat(append(append(key, part...), ' '), v.Parts[part].Value, 'g', -1, 64)
		}
	}
	n, ok := k.number[string(key)]
	if !ok {
		n = len(k.fits)
		k.number[string(key)] = n
		k.fits = append(k.fits, map[int]*knownFit{})
	}
	k.shared[at] = asked{w.Params, w.Kind, factor, n}
	return k.fits[n]
}
