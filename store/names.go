package store

import (
	"crypto/sha256"
	"encoding/hex"

	"plainpath/core/model"
)

// What belongs to a column besides indexes: constraints and a sequence.
var constraintKinds = []string{"unique", "filled", "currency", "choice", "least", "most", "reference"}

const sequenceKind = "number"

// longestIdentifier is how many bytes PostgreSQL keeps of a name.
const longestIdentifier = 63

// nameOf is what the database calls something that belongs to a field. No key has a dot, so
// that no two things have one name; a name that would be cut ends in a digest of the whole.
// Migration 12 has the same in SQL.
func nameOf(object, field, kind string) string {
	name := object + "." + field + "." + kind
	if len(name) <= longestIdentifier {
		return name
	}
	sum := sha256.Sum256([]byte(name))
	digest := "~" + hex.EncodeToString(sum[:6]) + "." + kind
	return name[:longestIdentifier-len(digest)] + digest
}

// constrained is the field that a constraint of an object's table belongs to, and its kind.
func constrained(o *model.Object, constraint string) (*model.Field, string) {
	for i := range o.Fields {
		for _, kind := range constraintKinds {
			if nameOf(o.Table(), o.Fields[i].Column(), kind) == constraint {
				return &o.Fields[i], kind
			}
		}
	}
	return nil, ""
}
