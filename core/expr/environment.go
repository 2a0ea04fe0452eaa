package expr

import (
	"sync"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/env"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/model"
)

// macros are CEL's ways through a list.
var macros = []string{operators.All, operators.Exists, operators.ExistsOne, operators.Map, operators.Filter}

// base is CEL with our functions and no others. Of CEL's own library it has the macros, and
// the operators that decide what is looked at.
var base = sync.OnceValues(func() (*cel.Env, error) {
	subset := env.NewLibrarySubset()
	subset.IncludeMacros = macros
	for _, name := range []string{operators.Conditional, operators.LogicalAnd, operators.LogicalOr,
		operators.LogicalNot, operators.NotStrictlyFalse} {
		subset.IncludeFunctions = append(subset.IncludeFunctions, &env.Function{Name: name})
	}
	options := []cel.EnvOption{cel.StdLib(cel.StdLibSubset(subset)), cases, cel.EnableMacroCallTracking()}
	for i := range functions {
		if len(functions[i].signatures) > 0 {
			options = append(options, functions[i].declare())
		}
	}
	return cel.NewCustomEnv(options...)
})

// builtIn are CEL's own types. Nothing is added to them.
var builtIn = sync.OnceValues(func() (*types.Registry, error) { return types.NewRegistry() })

type modelKey struct{}

type prepared struct {
	env *cel.Env
	err error
}

// ofModel is base with what concerns the objects of a model, made once for it.
func ofModel(m *model.Model) (*cel.Env, error) {
	if m == nil {
		return base()
	}
	p := m.Derived(modelKey{}, func() any {
		e, err := base()
		if err != nil {
			return prepared{nil, err}
		}
		var options []cel.EnvOption
		for _, key := range m.Keys() {
			options = append(options, equality(key)...)
		}
		e, err = e.Extend(options...)
		return prepared{e, err}
	}).(prepared)
	return p.env, p.err
}

// environment is what expressions are checked in at a place.
func environment(s Scope) (*cel.Env, error) {
	e, err := ofModel(s.Model)
	if err != nil {
		return nil, err
	}
	registry, err := builtIn()
	if err != nil {
		return nil, err
	}
	options := []cel.EnvOption{cel.CustomTypeProvider(provider{registry, s}), cel.CustomTypeAdapter(adapter{registry})}
	for _, n := range s.Names {
		options = append(options, cel.Variable(n.Key, celType(n.Type, n.Key)))
	}
	return e.Extend(options...)
}
