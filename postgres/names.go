package postgres

import (
	"crypto/sha256"
	"encoding/hex"

	"plainpath/core/model"
)

// What belongs to a column besides indexes: constraints and a sequence.
var ConstraintKinds = []string{"unique", "filled", "currency", "choice", "least", "most", "reference"}

// SequenceKind is the kind of name that sequences of running numbers have.
const SequenceKind = "number"

// longestIdentifier is how many bytes PostgreSQL keeps of a name.
const longestIdentifier = 63

// NameOf is what the database calls something that belongs to a field. No key has a dot, so
// that no two things have one name; a name that would be cut ends in a digest of the whole.
// Migration 12 has the same in SQL.
func NameOf(object, field, kind string) string {
	name := object + "." + field + "." + kind
	if len(name) <= longestIdentifier {
		return name
	}
	sum := sha256.Sum256([]byte(name))
	digest := "~" + hex.EncodeToString(sum[:6]) + "." + kind
	return name[:longestIdentifier-len(digest)] + digest
}

// Constrained is the field that a constraint of an object's table belongs to, and its kind.
func Constrained(o *model.Object, constraint string) (*model.Field, string) {
	for i := range o.Fields {
		for _, kind := range ConstraintKinds {
			if NameOf(o.Table(), o.Fields[i].Column(), kind) == constraint {
				return &o.Fields[i], kind
			}
		}
	}
	return nil, ""
}
