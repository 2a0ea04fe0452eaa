// Package sqlgen writes what is asked of records, and what is to become of them, as SQL, and reads
// the answers. Everything that comes from outside is a parameter; every name comes from the model
// and is quoted.
package sqlgen

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Space says where the records are and who asks for them.
type Space struct {
	Model *model.Model
	// Schema is the PostgreSQL schema of the space.
	Schema string
	// Grant works out what the person may do with an object.
	Grant func(object string) (access.Grant, error)
	// Worked tells how a field is worked out, false for one that is not. Nil knows of none.
	Worked func(object, field string) (query.WorkedOut, bool)
}

// writer gathers the arguments of one statement.
type writer struct {
	space   Space
	args    []any
	aliases int
	// first is how many parameters of the statement are taken already.
	first int
	// planWithValues is that of the statement.
	planWithValues bool
	// objects are those whose records the statement looks at.
	objects map[string]bool
	// edited is the record being edited, for candidate rules; nil where there is none.
	edited *source
	// read are the sources that were read, in turn, each by what number it was born with.
	read []int
}

// Statement is SQL with the arguments that it is sent with.
type Statement struct {
	SQL  string
	Args []any
	// PlanWithValues says that it must be planned with the values it is sent with. How many records
	// have a text in one of several places depends on the text; a plan made for any text goes
	// through all records once the database thinks it is worth keeping.
	PlanWithValues bool
}

// finish is the statement as it is sent. Arguments that nothing in it refers to any more, such
// as the currency of an amount that is only ordered by, are left out.
func (w *writer) finish(sql string) Statement {
	var args []any
	places := map[string]string{}
	sql = placeholder.ReplaceAllStringFunc(sql, func(at string) string {
		n, _ := strconv.Atoi(strings.Trim(at, "$:"))
		if n <= w.first {
			return at
		}
		if places[at] == "" {
			args = append(args, w.args[n-w.first-1])
			places[at] = fmt.Sprintf("$%d::", w.first+len(args))
		}
		return places[at]
	})
	return Statement{sql, args, w.planWithValues}
}

func (w *writer) arg(v any, cast string) string {
	w.args = append(w.args, v)
	return fmt.Sprintf("$%d::%s", w.first+len(w.args), cast)
}

// known is a value that an expression was given, of the kind it has there.
func (w *writer) known(v value.Value, kind value.Kind) scalar {
	switch x := v.(type) {
	case nil:
		return nothing(kind)
	case value.Failure:
		return failed(x, kind)
	}
	return w.constant(v)
}

// constant writes a value as a parameter.
func (w *writer) constant(v value.Value) scalar {
	c := scalar{Kind: v.Kind()}
	switch x := v.(type) {
	case value.Money:
		c.SQL, c.Currency = w.arg(x.Amount.String(), "numeric"), w.arg(x.Currency, "text")
	default:
		c.SQL = w.arg(Argument(v), sent(v.Kind()))
	}
	return c
}

// ColumnType is the type of columns that hold values of a kind.
func ColumnType(k value.Kind) string {
	if value.Parts(k) != nil {
		return compositeType(k)
	}
	switch k {
	case value.KindWhole, value.KindRecord:
		return "bigint"
	case value.KindDecimal, value.KindMoney:
		return "numeric"
	case value.KindYesNo:
		return "boolean"
	case value.KindDate:
		return "date"
	case value.KindInstant:
		return "timestamptz"
	case value.KindSeveral:
		return "text[]"
	}
	return "text"
}

// sent is how a parameter is cast: what is written as PostgreSQL writes it is a text first.
func sent(k value.Kind) string {
	if k == value.KindSeveral || value.Parts(k) != nil {
		return "text::" + ColumnType(k)
	}
	return ColumnType(k)
}

// Literal writes several choices and composite values as PostgreSQL reads arrays and rows
// (PostgreSQL manual, 8.15.2 and 8.16.2).
func Literal(v value.Value) string {
	quoted := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"`
	}
	switch x := v.(type) {
	case *value.Record:
		return fmt.Sprint(x.ID)
	case value.Several:
		keys := x.Keys()
		for i, k := range keys {
			keys[i] = quoted(k)
		}
		return "{" + strings.Join(keys, ",") + "}"
	case value.Composite:
		parts := value.Texts(x)
		for i, part := range parts {
			if part != "" {
				parts[i] = quoted(part)
			}
		}
		return "(" + strings.Join(parts, ",") + ")"
	}
	return fmt.Sprint(value.Wire(v))
}

// Argument is a value as the database takes it. Money has no single argument.
func Argument(v value.Value) any {
	switch x := v.(type) {
	case nil:
		return nil
	case value.Text:
		return string(x)
	case value.Whole:
		return int64(x)
	case value.YesNo:
		return bool(x)
	case value.Decimal:
		return x.String()
	case value.Date:
		return x.String()
	case value.Instant:
		return x.Time
	case value.Several, value.Composite:
		return Literal(v)
	case *value.Record:
		return x.ID
	}
	panic(fmt.Sprintf("search: a %s is no argument", v.Kind()))
}

// Quote quotes a name.
func Quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// Table is the table of an object, quoted.
func (s Space) Table(object string) string {
	if model.BuiltInKey(object) {
		return "plainpath." + object
	}
	if s.Model != nil {
		if o := s.Model.Object(object); o != nil {
			object = o.Table()
		}
	}
	return Quote(s.Schema) + "." + Quote(object)
}

// Column is the column of a field, quoted.
func Column(f *model.Field) string { return Quote(f.Whole().Column()) }

// CurrencyColumn is the column of the currency of an amount, quoted.
func CurrencyColumn(f *model.Field) string { return Quote(f.Column() + "_currency") }

// source is a table in a FROM clause with what is joined to it.
type source struct {
	w             *writer
	object, alias string
	joins         strings.Builder
	aliases       map[string]string
	// rule is the row rule that holds for every record of the source, nil when none does.
	rule predicate.Predicate
	// table is what the source reads from when that is not the object's table.
	table string
	// born is the number of its alias.
	born int
	// aggregates are joined behind everything else; keys bounds the records they are made for.
	aggregates []*relatedTotals
	keys       string
	// lists are sources of records that point here, to be read once more.
	lists map[listOf]*source
	// computed are the fields that were worked out, by alias and key.
	computed map[string]scalar
}

func (w *writer) source(object string) *source {
	if w.objects == nil {
		w.objects = map[string]bool{}
	}
	w.objects[object] = true
	return &source{w: w, object: object, born: w.aliases, alias: w.alias(), aliases: map[string]string{},
		computed: map[string]scalar{}}
}

func (w *writer) alias() string {
	w.aliases++
	return fmt.Sprintf("t%d", w.aliases-1)
}

func (s *source) from() string {
	out := s.tableName() + " " + s.alias + s.joins.String()
	for _, a := range s.aggregates {
		out += a.join(s.bound(a))
	}
	return out
}

func (s *source) tableName() string {
	if s.table != "" {
		return s.table
	}
	return s.w.space.Table(s.object)
}

// column writes a path. When visible, the path is followed under the person's grants:
// what a reference points at is empty when the person may not see it.
func (s *source) column(p model.Path, visible bool) (scalar, error) {
	return s.field(p.Fields[:len(p.Fields)-1], p.Last(), visible)
}

// reached is the object that references lead to.
func (s *source) reached(through []*model.Field) string {
	if n := len(through); n > 0 {
		return through[n-1].Target()
	}
	return s.object
}

// field is a column of the record that references lead to. It is empty when it is to be
// seen by somebody who may not see it.
func (s *source) field(through []*model.Field, f *model.Field, visible bool) (scalar, error) {
	s.reads()
	object := s.reached(through)
	hidden, err := s.w.hidden(object, f, visible)
	if hidden || err != nil {
		return scalar{Kind: f.Kind(), SQL: "NULL::" + ColumnType(f.Kind()), Currency: "NULL::text"}, err
	}
	alias, err := s.join(model.Path{Fields: through}, len(through), visible)
	if err != nil {
		return scalar{}, err
	}
	if f.Type == model.WorkedOut {
		return s.own(through, alias, f)
	}
	if visible && f.Target() != "" && !f.HoldsFile() { // a reference is empty where what it points at is not to be seen
		g, err := s.w.space.Grant(f.Target())
		if err != nil {
			return scalar{}, err
		}
		if !g.Unlimited() {
			to, err := s.join(model.Path{Fields: append(slices.Clone(through), f)}, len(through)+1, true)
			return scalar{Kind: value.KindRecord, SQL: to + ".id"}, err
		}
	}
	return fieldColumn(alias, f), nil
}

// own is a column of a record that is joined.
func (s *source) own(through []*model.Field, alias string, f *model.Field) (scalar, error) {
	s.reads()
	worked, ok := s.w.space.worked(s.reached(through), f)
	if !ok {
		return fieldColumn(alias, f), nil
	}
	name := alias + "." + f.Key
	if c, ok := s.computed[name]; ok {
		return c, nil
	}
	c, err := s.compute(worked.Program, through, alias, f)
	s.computed[name] = c
	return c, err
}

func (w *writer) hidden(object string, f *model.Field, visible bool) (bool, error) {
	if !visible {
		return false, nil
	}
	g, err := w.space.Grant(object)
	return err == nil && !g.SeesField(f.Whole().Key), err
}

func fieldColumn(alias string, f *model.Field) scalar {
	c := scalar{Kind: f.Kind(), SQL: alias + "." + Column(f)}
	if part, ok := strings.CutPrefix(f.Key, f.Whole().Key+"."); ok {
		c.SQL = "(" + c.SQL + ")." + Quote(part)
	}
	if c.Kind == value.KindMoney {
		c.Currency = alias + "." + CurrencyColumn(f)
	}
	return c
}

// join makes sure the first n fields of a path, all references, are joined, and
// gives the alias of the table they lead to.
func (s *source) join(p model.Path, n int, visible bool) (string, error) {
	alias, walked, from := s.alias, "", s.object
	for _, f := range p.Fields[:n] {
		walked += "." + f.Key
		target := f.Target()
		hidden, err := s.w.hidden(from, f, visible)
		if err != nil {
			return "", err
		}
		from = target
		rule := predicate.Predicate(predicate.True)
		if visible && f.HoldsFile() { // a file is seen by whoever sees the field that holds it
			if hidden {
				rule = predicate.False
			}
		} else if visible {
			g, err := s.w.space.Grant(target)
			if err != nil {
				return "", err
			}
			if rule = g.Rows(); implied(s.rule, walked[1:], rule) {
				rule = predicate.True
			}
			if hidden {
				rule = predicate.False
			}
		}
		name := walked
		unlimited := isTrue(rule)
		if !unlimited {
			name = "seen" + walked
		}
		if have, ok := s.aliases[name]; ok {
			alias = have
			continue
		}
		// The target with what its row rule joins is joined as one: where the rule does
		// not hold, all of it is empty.
		to := s.w.source(target)
		visible, err := to.where(rule, false)
		if err != nil {
			return "", err
		}
		joined := to.from()
		if to.joins.Len() > 0 || len(to.aggregates) > 0 {
			joined = "(" + joined + ")"
		}
		next := to.alias
		fmt.Fprintf(&s.joins, " LEFT JOIN %s ON %s.id = %s.%s", joined, next, alias, Column(f))
		if !unlimited {
			s.joins.WriteString(" AND " + visible)
		}
		s.aliases[name] = next
		alias = next
	}
	return alias, nil
}

// implied says whether the row rule of a source makes that of a record it refers to
// superfluous: "the customer of the building of my lift is mine" says of the lift that
// the customer of its building is mine.
func implied(rule predicate.Predicate, path string, target predicate.Predicate) bool {
	a, ok := single(rule)
	b, okTarget := single(target)
	return ok && okTarget && a.Op == predicate.Is && b.Op == predicate.Is &&
		a.Path.String() == path+"."+b.Path.String() && value.Equal(a.Value, b.Value)
}

// single unwraps groups of one member down to a test.
func single(p predicate.Predicate) (predicate.Test, bool) {
	switch x := p.(type) {
	case predicate.Test:
		return x, true
	case predicate.Any:
		if len(x) == 1 {
			return single(x[0])
		}
	case predicate.All:
		if len(x) == 1 {
			return single(x[0])
		}
	}
	return predicate.Test{}, false
}

func isTrue(p predicate.Predicate) bool {
	all, ok := p.(predicate.All)
	return ok && len(all) == 0
}

// formula gives an expression the columns of the record and the known values.
type formula struct {
	s       *source
	values  expr.Values
	visible bool
	// bare says that the record's fields are names of their own.
	bare bool
	// record is what the expression calls the record, "record" when empty.
	record string
}

func (f formula) name(path []string, kind value.Kind) (scalar, error) {
	edited := f.s.w.edited
	switch {
	case f.bare && f.s.w.space.Model.Object(f.s.object).Field(path[0]) != nil:
		return f.s.at(path, f.visible)
	case path[0] == f.called():
		return f.s.at(path[1:], f.visible)
	case path[0] == predicate.EditedName && edited != nil:
		return edited.at(path[1:], false)
	}
	return f.constant(known(f.values, path), kind), nil
}

func (f formula) called() string {
	if f.record != "" {
		return f.record
	}
	return "record"
}

// at is the column a path of names leads to, the record's key when there are none.
func (s *source) at(path []string, visible bool) (scalar, error) {
	if len(path) == 0 {
		s.reads()
		return scalar{Kind: value.KindRecord, SQL: s.alias + ".id"}, nil
	}
	p, err := s.w.space.Model.Path(s.object, strings.Join(path, "."))
	if err != nil {
		return scalar{}, err
	}
	return s.column(p, visible)
}

func (f formula) constant(v value.Value, kind value.Kind) scalar {
	return f.s.w.known(v, kind)
}

func known(values expr.Values, path []string) value.Value {
	v := values[path[0]]
	for _, part := range path[1:] {
		if c, ok := v.(value.Composite); ok {
			v = c.Part(part)
			continue
		}
		r, ok := v.(*value.Record)
		if !ok || r == nil {
			return nil
		}
		v = r.Get(part)
	}
	return v
}
