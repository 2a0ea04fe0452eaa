package schema

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/rules"
	"plainpath/core/value"
	"plainpath/postgres/sqlgen"
)

const rulesKept = "plainpath rules "

// installedRules are the record rules that the tables of a space are known to keep, which
// their comments hold.
func installedRules(ctx context.Context, tx *sqlx.Tx, schema string) (map[string][]string, error) {
	var rows []struct {
		Table   string `db:"relname"`
		Comment string `db:"comment"`
	}
	err := tx.SelectContext(ctx, &rows, `SELECT c.relname, obj_description(c.oid, 'pg_class') AS comment FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		WHERE n.nspname = $1 AND c.relkind = 'r' AND obj_description(c.oid, 'pg_class') IS NOT NULL`, schema)
	if err != nil {
		return nil, fmt.Errorf("reading the rules of %s: %w", schema, err)
	}
	out := map[string][]string{}
	for _, r := range rows {
		if raw, ok := strings.CutPrefix(r.Comment, rulesKept); ok {
			var kept []string
			if err := json.Unmarshal([]byte(raw), &kept); err != nil {
				return nil, fmt.Errorf("reading the rules of %s: %w", r.Table, err)
			}
			out[r.Table] = kept
		}
	}
	return out, nil
}

// rememberRules notes which rules the records of a table keep.
func (c *convergence) rememberRules(o *model.Object) {
	kept := make([]string, len(o.Rules))
	for i, r := range o.Rules {
		kept[i] = r.Expression
	}
	if slices.Equal(kept, c.rules[o.Key]) {
		return
	}
	raw, err := json.Marshal(kept)
	if err != nil && c.err == nil {
		c.err = fmt.Errorf("noting the rules of %s: %w", o.Label, err)
	}
	c.exec(`COMMENT ON TABLE %s IS %s`, sqlgen.Space{Schema: c.Schema}.Table(o.Key),
		sqlgen.Quoted(rulesKept+string(raw)))
}

// ruleBreakers lists the stored records that break a rule that is new.
func (c *convergence) ruleBreakers(o *model.Object) ([]Obstacle, error) {
	var out []Obstacle
	for _, rule := range c.edition.Rules.Of(o.Key).Rules {
		if slices.Contains(c.rules[o.Key], rule.Def.Expression) || !c.stored(o, rule) {
			continue
		}
		found, err := c.breakers(o, rule)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// stored says whether all fields that a rule looks at have a column already: a field that
// is new with the rule is empty, which no stored record can be blamed for.
func (c *convergence) stored(o *model.Object, rule rules.Rule) bool {
	for _, key := range rule.Uses() {
		if f := o.Field(key); f != nil && f.Type != model.WorkedOut {
			have, exists := c.have[columnName{o.Key, key}]
			if !exists || have.made == nil || c.conversion(have.made, f).Needed() {
				return false
			}
		}
	}
	return true
}

func (c *convergence) breakers(o *model.Object, rule rules.Rule) ([]Obstacle, error) {
	now := time.Now().In(c.edition.Zone)
	values := expr.Values{"today": value.DateOf(now), "now": value.NewInstant(now)}
	review := query.Review{Object: o.Key, Holds: []predicate.Predicate{rule.Predicate(values)}}
	broken, err := sqlgen.Review(sqlgen.Space{Model: c.model, Schema: c.Schema, Worked: c.edition.WorkedOut}, review)
	if err != nil {
		return nil, err
	}
	out := Obstacle{Object: o.Key, Rule: "rule", Where: "t.id IN (SELECT broken.id FROM (" + broken.SQL +
		") broken (id, holds))"}
	err = c.list(&out, o, "NULL::text", "", broken.Args...)
	if err != nil || out.Count == 0 {
		return nil, err
	}
	out.Text = fmt.Sprintf("Of every %s it would have to hold that %s, but %s in the way", strings.ToLower(o.Label),
		rule.Def.Expression, howMany(out.Count))
	for i := range out.Records {
		out.Records[i].Reason = rule.Def.Message
	}
	return []Obstacle{out}, nil
}
