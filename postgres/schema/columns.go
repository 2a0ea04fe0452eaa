package schema

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// columns makes the columns of an object's table fit its fields.
func (c *convergence) columns(o *model.Object) {
	for i := range o.Fields {
		c.column(o, &o.Fields[i])
	}
	c.hide(o)
	if len(c.alterations) > 0 {
		c.exec("ALTER TABLE %s %s", sqlgen.Space{Schema: c.Schema}.Table(o.Key), strings.Join(c.alterations, ", "))
	}
	c.alterations = nil
}

func (c *convergence) alter(format string, args ...any) {
	c.alterations = append(c.alterations, fmt.Sprintf(format, args...))
}

func (c *convergence) drop(table, name string) {
	t := sqlgen.Space{Schema: c.Schema}.Table(table)
	c.exec(`ALTER TABLE %s DROP COLUMN %s`, t, sqlgen.Quote(name))
	c.exec(`ALTER TABLE %s DROP COLUMN IF EXISTS %s`, t, sqlgen.Quote(name+"_currency"))
	delete(c.have, columnName{table, name})
}

func (c *convergence) column(o *model.Object, f *model.Field) {
	now, exists := c.have[columnName{o.Key, f.Key}]
	if exists && (f.Type == model.WorkedOut || now.made != nil && now.made.Type == model.WorkedOut) {
		c.drop(o.Key, f.Key) // an earlier program stored what is worked out
		exists = false
	}
	t, name := sqlgen.Space{Schema: c.Schema}.Table(o.Key), sqlgen.Quote(f.Key)
	switch {
	case f.Type == model.WorkedOut: // has no column: it is worked out when it is read
		return
	case !exists:
		c.add(o, f, t, name)
	case now.hidden || now.made == nil || now.cut:
	case reflect.DeepEqual(stored(now.made), stored(f)):
		return
	case reflect.DeepEqual(unnamed(now.made), unnamed(f)): // another key and nothing else
		c.remember(t, name, madeFrom, f)
		return
	case c.conversion(now.made, f).Needed():
		c.convert(o, now.made, f, t)
	}
	c.constraints(o, now.made, f, t)
	c.remember(t, name, madeFrom, f)
}

func (c *convergence) remember(t, name, how string, made *model.Field) {
	raw, err := json.Marshal(made)
	if err != nil && c.err == nil {
		c.err = fmt.Errorf("noting what %s was made from: %w", name, err)
	}
	c.exec(`COMMENT ON COLUMN %s.%s IS %s`, t, name, sqlgen.Quoted(how+string(raw)))
}

// hide lets columns that are no longer fields be empty.
func (c *convergence) hide(o *model.Object) {
	for name, have := range c.have {
		if name.table == o.Key && have.made != nil && !have.hidden && o.Field(name.column) == nil {
			c.alter("ALTER COLUMN %s DROP NOT NULL", sqlgen.Quote(name.column))
			c.remember(sqlgen.Space{Schema: c.Schema}.Table(o.Key), sqlgen.Quote(name.column), hiddenFrom, have.made)
		}
	}
}

func (c *convergence) add(o *model.Object, f *model.Field, t, name string) {
	kind := sqlgen.ColumnType(f.Kind())
	ready := c.ready(o.Key, readyNote(nil, f))
	switch {
	case f.Type == model.Number && ready != "":
		var sequence string
		if err := c.tx.GetContext(c.ctx, &sequence, `SELECT pg_get_serial_sequence($1, $2)`, t, ready); err != nil &&
			c.err == nil {
			c.err = fmt.Errorf("looking for the numbers of %s: %w", f.Label, err)
		}
		c.exec(`ALTER TABLE %s RENAME COLUMN %s TO %s`, t, sqlgen.Quote(ready), name)
		// the object got another key since
		if called := postgres.NameOf(o.Key, f.Key, postgres.SequenceKind); !strings.HasSuffix(sequence,
			"."+sqlgen.Quote(called)) {
			c.exec(`ALTER SEQUENCE %s RENAME TO %s`, sequence, sqlgen.Quote(called))
		}
	case f.Type == model.Number:
		sequence := sqlgen.Quote(c.Schema) + "." + sqlgen.Quote(postgres.NameOf(o.Key, f.Key, postgres.SequenceKind))
		c.exec(`CREATE SEQUENCE IF NOT EXISTS %s`, sequence)
		c.exec(`ALTER TABLE %s ADD COLUMN %s bigint DEFAULT nextval('%s')`, t, name, sequence)
		c.exec(`ALTER SEQUENCE %s OWNED BY %s.%s`, sequence, t, name)
	default:
		k := sqlgen.Literally(c.given(f), f.Kind())
		c.addFilled(t, name, kind, k.SQL)
		if f.Kind() == value.KindMoney {
			c.addFilled(t, sqlgen.Quote(f.Key+"_currency"), "text", k.Currency)
		}
	}
}

// given is what the records there are get for a new field: its default, when they need one.
func (c *convergence) given(f *model.Field) value.Value {
	v, err := value.Parse(f.Kind(), f.Default)
	if err != nil || !f.Required {
		return nil
	}
	return v
}

// addFilled adds a column with a value in every record, which PostgreSQL does without touching them.
func (c *convergence) addFilled(t, name, kind, sql string) {
	c.exec(`ALTER TABLE %s ADD COLUMN %s %s DEFAULT %s`, t, name, kind, sql)
	c.exec(`ALTER TABLE %s ALTER COLUMN %s DROP DEFAULT`, t, name)
}

// silently changes stored values without a line of history for each record: what
// happened is in the history of the definition.
func (c *convergence) silently(t string, work func()) {
	c.exec(`ALTER TABLE %s DISABLE TRIGGER USER`, t)
	work()
	c.exec(`ALTER TABLE %s ENABLE TRIGGER USER`, t)
}

// constraints gives the column of a field those that the field asks for. Was is what the column
// was made from before, nil when it is new.
func (c *convergence) constraints(o *model.Object, was, f *model.Field, t string) {
	name := sqlgen.Quote(f.Key)
	there := func(kind string) bool { return c.constrained[columnName{o.Key, postgres.NameOf(o.Key, f.Key, kind)}] }
	constraint := func(kind, definition string) {
		id := sqlgen.Quote(postgres.NameOf(o.Key, f.Key, kind))
		if there(kind) {
			c.alter("DROP CONSTRAINT %s", id)
		}
		if definition != "" {
			c.alter("ADD CONSTRAINT %s %s", id, definition)
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
		c.alter("ALTER COLUMN %s %s NOT NULL", name, null)
	}
	if !f.Distinct() || !there("unique") {
		unique := when(f.Distinct(), fmt.Sprintf("UNIQUE (%s)", name))
		if ready := c.ready(o.Key, readyNote(was, f)+" unique"); ready != "" {
			unique = "UNIQUE USING INDEX " + sqlgen.Quote(ready)
			c.exec("COMMENT ON INDEX %s.%s IS NULL", sqlgen.Quote(c.Schema), sqlgen.Quote(ready))
		}
		constraint("unique", unique)
	}
	before, now := checks(was, name), checks(f, name)
	for _, kind := range checkKinds {
		if !there(kind) || before[kind] != now[kind] {
			constraint(kind, now[kind])
		}
	}
	target, ready := f.Target(), c.ready(o.Key, readyNote(was, f)+" reference")
	switch {
	case target == "" || c.alone || there("reference") && was != nil && was.Target() == target:
	case ready != "":
		id := sqlgen.Quote(postgres.NameOf(o.Key, f.Key, "reference"))
		c.exec("ALTER TABLE %s DROP CONSTRAINT IF EXISTS %s", t, id)
		c.exec("ALTER TABLE %s RENAME CONSTRAINT %s TO %s", t, sqlgen.Quote(ready), id)
		c.exec("COMMENT ON CONSTRAINT %s ON %s IS NULL", id, t)
	default:
		constraint("reference", "FOREIGN KEY ("+name+") REFERENCES "+
			sqlgen.Space{Schema: c.Schema}.Table(target)+" (id)")
	}
}

// checkKinds are the kinds of constraints that one value is held against by itself.
var checkKinds = []string{"filled", "currency", "choice", "least", "most"}

// checks are those that a field asks of its column, none of no field.
func checks(f *model.Field, name string) map[string]string {
	out := map[string]string{}
	if f == nil || !f.Stored() {
		return out
	}
	measure := name
	switch f.Kind() {
	case value.KindText:
		measure = "char_length(" + name + ")"
		out["filled"] = fmt.Sprintf("CHECK (%s <> '')", name)
	case value.KindMoney:
		out["currency"] = fmt.Sprintf("CHECK ((%s IS NULL) = (%s IS NULL))", name, sqlgen.Quote(f.Key+"_currency"))
	}
	if f.Type.Chosen() {
		values := make([]string, len(f.Choices))
		for i, v := range f.Choices {
			values[i] = sqlgen.Quoted(v.Key)
		}
		out["choice"] = fmt.Sprintf("CHECK (%s IN (%s))", name, strings.Join(values, ", "))
		if f.Type == model.Choices {
			out["choice"] = fmt.Sprintf("CHECK (%s <@ ARRAY[%s]::text[] AND cardinality(%s) > 0)", name,
				strings.Join(values, ", "), name)
		}
	}
	if f.Least != nil {
		out["least"] = fmt.Sprintf("CHECK (%s >= %d)", measure, *f.Least)
	}
	if f.Most != nil {
		out["most"] = fmt.Sprintf("CHECK (%s <= %d)", measure, *f.Most)
	}
	return out
}
