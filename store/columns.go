package store

import (
	"cmp"
	"encoding/json"
	"fmt"
	"plainpath/core/edition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
	"reflect"
	"strings"
)

var columnTypes = map[value.Kind]string{value.KindText: "text", value.KindWhole: "bigint", value.KindDecimal: "numeric",
	value.KindMoney: "numeric", value.KindYesNo: "boolean", value.KindDate: "date", value.KindInstant: "timestamptz", value.KindRecord: "bigint",
	value.KindSeveral: "text[]", value.KindAddress: "plainpath.address"}

// columns makes the columns of an object's table fit its fields. Worked-out ones come
// last, for they are made from the others, and are made anew when one of those changes
// its type.
func (c *convergence) columns(o *model.Object) {
	converting := false
	for i := range o.Fields {
		if was := c.have[columnName{o.Key, o.Fields[i].Key}].made; was != nil && o.Fields[i].Stored() {
			converting = converting || model.Conversion{From: was, To: &o.Fields[i]}.Needed()
		}
	}
	if converting {
		for name, have := range c.have {
			if name.table == o.Key && have.made != nil && have.made.Type == model.WorkedOut {
				c.drop(o.Key, name.column)
			}
		}
	}
	for _, stored := range []bool{true, false} {
		for i := range o.Fields {
			if f := &o.Fields[i]; stored == (f.Type != model.WorkedOut) {
				c.column(o, f)
			}
		}
	}
	c.hide(o)
}

func (c *convergence) drop(table, name string) {
	t := search.Space{Schema: c.schema}.Table(table)
	c.exec(`ALTER TABLE %s DROP COLUMN %s`, t, search.Quote(name))
	c.exec(`ALTER TABLE %s DROP COLUMN IF EXISTS %s`, t, search.Quote(name+"_currency"))
	delete(c.have, columnName{table, name})
	c.unindex(table, name)
}

// unindex notes that a column is gone with its indexes.
func (c *convergence) unindex(table, name string) {
	for _, kind := range search.IndexKinds {
		delete(c.indexed, nameOf(table, name, string(kind)))
	}
}

func (c *convergence) column(o *model.Object, f *model.Field) {
	now, exists := c.have[columnName{o.Key, f.Key}]
	worked, isWorked := c.edition.WorkedOut(o.Key, f.Key)
	if isWorked && !worked.Stored { // worked out when it is read
		if exists {
			c.drop(o.Key, f.Key)
		}
		return
	}
	as, err := c.generated(o, f)
	if err != nil {
		c.err = cmp.Or(c.err, err)
		return
	}
	t, name := search.Space{Schema: c.schema}.Table(o.Key), search.Quote(f.Key)
	if exists && !now.hidden && now.made != nil && now.as == as.SQL && reflect.DeepEqual(stored(now.made), stored(f)) {
		c.indexes(o, f, t) // another field may stand for the record now
		return
	}
	if exists && !now.hidden && now.made != nil && now.as == as.SQL && reflect.DeepEqual(unnamed(now.made), unnamed(f)) {
		c.remember(t, name, madeFrom, column{made: f, as: as.SQL}) // another key and nothing else
		c.indexes(o, f, t)
		return
	}
	if exists && (f.Type == model.WorkedOut || now.made != nil && now.made.Type == model.WorkedOut) {
		c.drop(o.Key, f.Key) // the expression changed: computed anew
		exists = false
	}
	switch {
	case !exists:
		c.add(o, f, t, name)
	case now.made != nil && c.conversion(now.made, f).Needed():
		c.convert(o, now.made, f, t)
	}
	c.constraints(o, f, t, name)
	c.remember(t, name, madeFrom, column{made: f, as: as.SQL})
	c.indexes(o, f, t)
}

func (c *convergence) remember(t, name, how string, col column) {
	raw, err := json.Marshal(columnNote{*col.made, col.as})
	if err != nil && c.err == nil {
		c.err = fmt.Errorf("noting what %s was made from: %w", name, err)
	}
	c.exec(`COMMENT ON COLUMN %s.%s IS %s`, t, name, literal(how+string(raw)))
}

// hide lets columns that are no longer fields be empty.
func (c *convergence) hide(o *model.Object) {
	for name, have := range c.have {
		if name.table == o.Key && have.made != nil && !have.hidden && o.Field(name.column) == nil {
			t := search.Space{Schema: c.schema}.Table(o.Key)
			c.exec(`ALTER TABLE %s ALTER COLUMN %s DROP NOT NULL`, t, search.Quote(name.column))
			c.remember(t, search.Quote(name.column), hiddenFrom, have)
		}
	}
}

func (c *convergence) add(o *model.Object, f *model.Field, t, name string) {
	kind := columnTypes[f.Kind()]
	switch {
	case f.Type == model.WorkedOut:
		c.addWorkedOut(o, f, t, name)
	case f.Type == model.Number:
		sequence := search.Quote(c.schema) + "." + search.Quote(nameOf(o.Key, f.Key, sequenceKind))
		c.exec(`CREATE SEQUENCE IF NOT EXISTS %s`, sequence)
		c.exec(`ALTER TABLE %s ADD COLUMN %s bigint NOT NULL DEFAULT nextval('%s')`, t, name, sequence)
	default:
		c.exec(`ALTER TABLE %s ADD COLUMN %s %s`, t, name, kind)
		if f.Kind() == value.KindMoney {
			c.exec(`ALTER TABLE %s ADD COLUMN %s text`, t, search.Quote(f.Key+"_currency"))
		}
		c.fill(f, t, name)
	}
}

// fill gives the records there are the default of a new required field.
func (c *convergence) fill(f *model.Field, t, name string) {
	v, err := value.Parse(f.Kind(), f.Default)
	if err != nil || v == nil || !f.Required {
		return
	}
	k := ownColumns{}.Constant(v, f.Kind())
	set := name + " = " + k.SQL
	if f.Kind() == value.KindMoney {
		set += ", " + search.Quote(f.Key+"_currency") + " = " + k.Currency
	}
	c.silently(t, func() { c.exec(`UPDATE %s SET %s`, t, set) })
}

// silently changes stored values without a line of history for each record: what
// happened is in the history of the definition.
func (c *convergence) silently(t string, work func()) {
	c.exec(`ALTER TABLE %s DISABLE TRIGGER USER`, t)
	work()
	c.exec(`ALTER TABLE %s ENABLE TRIGGER USER`, t)
}

// generated is what the column of a worked-out field is generated from, nothing for others.
func (c *convergence) generated(o *model.Object, f *model.Field) (expr.Column, error) {
	if f.Type != model.WorkedOut {
		return expr.Column{}, nil
	}
	w, ok := c.edition.WorkedOut(o.Key, f.Key)
	if !ok {
		return expr.Column{}, fmt.Errorf("working out %s of %s: its expression has a mistake", f.Label, o.Label)
	}
	as, err := w.Program.SQL(ownColumns{o, c.edition.WorkedOut})
	if err != nil {
		return as, fmt.Errorf("working out %s of %s: %w", f.Label, o.Label, err)
	}
	return as, nil
}

func (c *convergence) addWorkedOut(o *model.Object, f *model.Field, t, name string) {
	as, err := c.generated(o, f)
	if err != nil {
		c.err = cmp.Or(c.err, err)
		return
	}
	c.exec(`ALTER TABLE %s ADD COLUMN %s %s GENERATED ALWAYS AS (%s) STORED`, t, name, columnTypes[f.Kind()], as.SQL)
	if f.Kind() == value.KindMoney {
		c.exec(`ALTER TABLE %s ADD COLUMN %s text GENERATED ALWAYS AS (%s) STORED`, t, search.Quote(f.Key+"_currency"), as.Currency)
	}
}

func (c *convergence) constraints(o *model.Object, f *model.Field, t, name string) {
	constraint := func(kind, definition string) {
		id := search.Quote(nameOf(o.Key, f.Key, kind))
		c.exec(`ALTER TABLE %s DROP CONSTRAINT IF EXISTS %s`, t, id)
		if definition != "" {
			c.exec(`ALTER TABLE %s ADD CONSTRAINT %s %s`, t, id, definition)
		}
	}
	when := func(yes bool, definition string) string {
		if yes {
			return definition
		}
		return ""
	}
	if f.Stored() || f.Type == model.Number {
		null := "DROP"
		if f.Required || f.Type == model.Number {
			null = "SET"
		}
		c.exec(`ALTER TABLE %s ALTER COLUMN %s %s NOT NULL`, t, name, null)
	}
	constraint("unique", when(f.Unique || f.Type == model.Number, fmt.Sprintf("UNIQUE (%s)", name)))
	constraint("filled", when(f.Kind() == value.KindText && f.Stored(), fmt.Sprintf("CHECK (%s <> '')", name)))
	constraint("currency", when(f.Kind() == value.KindMoney && f.Stored(), fmt.Sprintf("CHECK ((%s IS NULL) = (%s IS NULL))", name, search.Quote(f.Key+"_currency"))))
	if f.Type.Chosen() {
		values := make([]string, len(f.Choices))
		for i, v := range f.Choices {
			values[i] = literal(v.Key)
		}
		among := fmt.Sprintf("CHECK (%s IN (%s))", name, strings.Join(values, ", "))
		if f.Type == model.Choices {
			among = fmt.Sprintf("CHECK (%s <@ ARRAY[%s]::text[] AND cardinality(%s) > 0)", name, strings.Join(values, ", "), name)
		}
		constraint("choice", among)
	}
	measure := name
	if f.Kind() == value.KindText {
		measure = "char_length(" + name + ")"
	}
	constraint("least", when(f.Least != nil && f.Stored(), fmt.Sprintf("CHECK (%s >= %d)", measure, deref(f.Least))))
	constraint("most", when(f.Most != nil && f.Stored(), fmt.Sprintf("CHECK (%s <= %d)", measure, deref(f.Most))))
	if target := f.Target(); target != "" && !c.alone {
		constraint("reference", "FOREIGN KEY ("+name+") REFERENCES "+search.Space{Schema: c.schema}.Table(target)+" (id)")
	}
}

func deref(n *int64) int64 {
	if n == nil {
		return 0
	}
	return *n
}

// indexes makes those that queries count on. Those that no longer serve go.
func (c *convergence) indexes(o *model.Object, f *model.Field, t string) {
	wanted := search.Indexes(o, f)
	for _, kind := range search.IndexKinds {
		index := nameOf(o.Key, f.Key, string(kind))
		switch {
		case wanted[kind] != "" && !c.indexed[index]:
			c.exec(`CREATE INDEX %s ON %s %s`, search.Quote(index), t, wanted[kind])
			c.indexed[index] = true
		case wanted[kind] == "" && c.indexed[index]:
			c.exec(`DROP INDEX %s.%s`, search.Quote(c.schema), search.Quote(index))
			delete(c.indexed, index)
		}
	}
}

// ownColumns writes a worked-out field's expression over the columns of its table. A generated
// column cannot be made of another, so those are written out.
type ownColumns struct {
	object *model.Object
	worked func(object, field string) (edition.WorkedOut, bool)
}

func (o ownColumns) Column(path []string, _ value.Kind) (expr.Column, error) {
	f := o.object.Field(path[0])
	if f.Type == model.WorkedOut {
		w, _ := o.worked(o.object.Key, f.Key)
		return w.Program.SQL(o)
	}
	if f.Type == model.Address && len(path) > 1 {
		return expr.Column{Kind: value.KindText, SQL: "(" + search.Quote(f.Key) + ")." + search.Quote(path[1])}, nil
	}
	c := expr.Column{Kind: f.Kind(), SQL: search.Quote(f.Key)}
	if c.Kind == value.KindMoney {
		c.Currency = search.Quote(f.Key + "_currency")
	}
	return c, nil
}

func (o ownColumns) Constant(v value.Value, kind value.Kind) expr.Column {
	switch x := v.(type) {
	case nil:
		return expr.Column{Kind: kind, SQL: "NULL::" + columnTypes[kind], Currency: "NULL::text"}
	case value.Money:
		return expr.Column{Kind: value.KindMoney, SQL: literal(x.Amount.String()) + "::numeric", Currency: literal(x.Currency) + "::text"}
	}
	return expr.Column{Kind: v.Kind(), SQL: literal(search.Literal(v)) + "::" + columnTypes[v.Kind()]}
}

// literal quotes a text for a place where PostgreSQL takes no parameters.
func literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
