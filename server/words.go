package server

import (
	"encoding/json"
	"fmt"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

type typeWords struct {
	Words string     `json:"words"`
	Kind  value.Kind `json:"kind"`
	Parts []string   `json:"parts,omitempty"`
}

// Words are what people read of closed sets, and which kinds of values fields hold, as a TypeScript module, so
// that the front end has no list of its own.
func Words() (string, error) {
	types := map[model.FieldType]typeWords{}
	for _, t := range model.FieldTypes {
		types[t] = typeWords{model.Words(t), t.Kind(), value.Parts(t.Kind())}
	}
	out := "// Made by make types from what the server knows.\n"
	for _, set := range []struct {
		name, about string
		words       any
	}{
		{"types", "What types of fields are called, and the kind of value they hold.", types},
		{"operators", "How operators read between a field and a value.", predicate.OperatorWords},
		{"dated", "How those read that are asked of days and times.", predicate.DatedWords},
		{"several", "How those read that are asked of several choices.", predicate.SeveralWords},
	} {
		raw, err := json.MarshalIndent(set.words, "", "  ")
		if err != nil {
			return "", fmt.Errorf("writing words of %s: %w", set.name, err)
		}
		out += fmt.Sprintf("\n/** %s */\nexport const %s = %s as const\n", set.about, set.name, raw)
	}
	return out, nil
}
