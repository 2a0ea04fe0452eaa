package schema

import (
	"encoding/json"
	"fmt"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

func (c *convergence) conversion(was, f *model.Field) model.Conversion {
	return model.Conversion{From: was, To: f, Zone: c.edition.Zone, Currency: c.model.Currency}
}

// values gives every distinct value a column holds, as JSON text, with what it becomes
// in the field as it is to be, or why it cannot.
func (c *convergence) values(o *model.Object, was, f *model.Field,
	each func(raw string, v value.Value, reason error)) error {
	conversion := c.conversion(was, f)
	if conversion.Needed() {
		if err := c.known(&conversion); err != nil {
			return err
		}
	}
	rows, err := c.tx.QueryContext(c.ctx, fmt.Sprintf("SELECT DISTINCT %s FROM %s t WHERE NOT (t.%s IS NULL)",
		held(was, "t."), sqlgen.Space{Schema: c.Schema}.Table(o.Key), sqlgen.Quote(was.Key)))
	if err != nil {
		return fmt.Errorf("reading %s: %w", was.Label, err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var raw string
		if err := rows.Scan(&raw); err != nil {
			return fmt.Errorf("reading %s: %w", was.Label, err)
		}
		old, err := value.Parse(was.Kind(), json.RawMessage(raw))
		if err != nil {
			return fmt.Errorf("reading %s: %w", was.Label, err)
		}
		v, reason := conversion.Value(old)
		each(raw, v, reason)
	}
	return rows.Err()
}

// known lets texts become references to the records they name, and back.
func (c *convergence) known(conversion *model.Conversion) error {
	to, from := c.named(conversion.To), c.named(conversion.From)
	if to != nil && conversion.From.Kind() == value.KindText {
		ids, _, err := c.names(to)
		if err != nil {
			return err
		}
		conversion.Find = func(name string) (*value.Record, error) {
			switch found := ids[name]; len(found) {
			case 0:
				return nil, fmt.Errorf("there is no %s called %q", strings.ToLower(to.Label), name)
			case 1:
				return &value.Record{Object: to.Key, ID: found[0]}, nil
			}
			return nil, fmt.Errorf("several %s are called %q", strings.ToLower(to.Plural), name)
		}
	}
	if from != nil && conversion.To.Kind() == value.KindText {
		ids, names, err := c.names(from)
		if err != nil {
			return err
		}
		conversion.Name = func(id int64) (string, error) {
			name := names[id]
			if name == "" || len(ids[name]) > 1 {
				return "", fmt.Errorf("%s %d has no name of its own, which would lose which one is meant",
					strings.ToLower(from.Label), id)
			}
			return name, nil
		}
	}
	return nil
}

// named is the object of a reference whose records are called by a text of theirs.
func (c *convergence) named(f *model.Field) *model.Object {
	if f.Type != model.Reference {
		return nil
	}
	o := c.model.Object(f.Target())
	if o == nil {
		return nil
	}
	if label := o.Field(o.LabelField); label == nil || label.Kind() != value.KindText || !label.Stored() {
		return nil
	}
	if _, there := c.have[columnName{o.Key, o.LabelField}]; !there {
		return nil
	}
	return o
}

// names are what the records of an object are called, by name and by key.
func (c *convergence) names(o *model.Object) (map[string][]int64, map[int64]string, error) {
	var rows []struct {
		ID   int64
		Name string
	}
	label := sqlgen.Quote(o.LabelField)
	err := c.tx.SelectContext(c.ctx, &rows,
		fmt.Sprintf("SELECT id, %s AS name FROM %s WHERE %s IS NOT NULL ORDER BY id", label,
			sqlgen.Space{Schema: c.Schema}.Table(o.Key), label))
	if err != nil {
		return nil, nil, fmt.Errorf("reading what %s are called: %w", o.Plural, err)
	}
	ids, names := map[string][]int64{}, map[int64]string{}
	for _, r := range rows {
		ids[r.Name] = append(ids[r.Name], r.ID)
		names[r.ID] = r.Name
	}
	return ids, names, nil
}

// convert writes a column anew in the type its field is to have. What does not convert
// was found before, as an obstacle.
func (c *convergence) convert(o *model.Object, was, f *model.Field, t string) {
	if c.err != nil {
		return
	}
	if ready := c.ready(o.Key, readyNote(was, f)); ready != "" {
		c.adopt(o, was, f, t, ready)
		return
	}
	var raw, becomes, currencies []string
	err := c.values(o, was, f, func(r string, v value.Value, _ error) {
		raw = append(raw, r)
		amount, currency := sqlgen.Literal(v), ""
		if m, ok := v.(value.Money); ok {
			amount, currency = m.Amount.String(), m.Currency
		}
		becomes, currencies = append(becomes, amount), append(currencies, currency)
	})
	if err != nil {
		c.err = err
		return
	}
	fresh := sqlgen.Quote(f.Key + newColumn)
	kind, money := sqlgen.ColumnType(f.Kind()), f.Kind() == value.KindMoney
	c.exec(`ALTER TABLE %s ADD COLUMN %s %s`, t, fresh, kind)
	set := fmt.Sprintf("%s = m.becomes::%s", fresh, kind)
	if money {
		c.exec(`ALTER TABLE %s ADD COLUMN %s text`, t, sqlgen.Quote(f.Key+newColumn+"_currency"))
		set += fmt.Sprintf(", %s = m.currency", sqlgen.Quote(f.Key+newColumn+"_currency"))
	}
	c.silently(t, func() {
		if c.err != nil {
			return
		}
		_, c.err = c.tx.ExecContext(c.ctx, fmt.Sprintf(`UPDATE %s t SET %s FROM (SELECT unnest($1::text[]) AS held, unnest($2::text[]) AS becomes, unnest($3::text[]) AS currency) m
			WHERE %s = m.held`, t, set, held(was, "t.")), raw, becomes, currencies)
	})
	c.replace(o, f, t, f.Key+newColumn)
}

// replace puts a column in the place of a field's, whose constraints go with it.
func (c *convergence) replace(o *model.Object, f *model.Field, t, by string) {
	for _, kind := range postgres.ConstraintKinds {
		delete(c.constrained, columnName{o.Key, postgres.NameOf(o.Key, f.Key, kind)})
	}
	c.exec(`ALTER TABLE %s DROP COLUMN %s`, t, sqlgen.Quote(f.Key))
	c.exec(`ALTER TABLE %s DROP COLUMN IF EXISTS %s`, t, sqlgen.Quote(f.Key+"_currency"))
	c.exec(`ALTER TABLE %s RENAME COLUMN %s TO %s`, t, sqlgen.Quote(by), sqlgen.Quote(f.Key))
	if f.Kind() == value.KindMoney {
		c.exec(`ALTER TABLE %s RENAME COLUMN %s TO %s`, t, sqlgen.Quote(by+"_currency"),
			sqlgen.Quote(f.Key+"_currency"))
	}
}

// newColumn is put behind the name of a column while it is made; no key has it.
const newColumn = ".new"
