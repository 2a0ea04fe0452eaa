package model

import (
	"encoding/json"
	"fmt"
	"strconv"
	"unicode/utf8"
)

// Referent is what a definition calls by a key: an object, a field of it, a value of that; or a document,
// or what is at a pointer into one, such as a step or a part. The zero Referent is nothing that has a key
// of its own.
type Referent struct {
	Object, Field, Choice string
	Document, At          string
}

// Mention is a place in a definition where something is called by its key.
type Mention struct {
	// Pointer is a JSON Pointer (RFC 6901) to the text that has the key, or to the member whose name has it.
	Pointer string
	Member  bool
	// Start and End bound the key within the text or the name, in characters.
	Start, End int
	Of         Referent
}

// TextMention is a mention by a text that is nothing but the key.
func TextMention(pointer, key string, of Referent) Mention {
	return Mention{Pointer: pointer, End: utf8.RuneCountInString(key), Of: of}
}

// MemberMention is a mention by the name of a member.
func MemberMention(pointer, name string, of Referent) Mention {
	m := TextMention(pointer, name, of)
	m.Member = true
	return m
}

// Mentions are the fields that a path from an object passes, in the path written at a pointer.
func (p Path) Mentions(object, pointer string) []Mention {
	var out []Mention
	start := 0
	for _, f := range p.Fields {
		key := f.Whole().Key // a part of an address has no key of its own
		out = append(out, Mention{Pointer: pointer, Start: start, End: start + len(key),
			Of: Referent{Object: object, Field: key}})
		start += len(key) + 1
		object = f.Target()
	}
	return out
}

// Mentions are what an object itself calls by keys, besides its expressions and conditions: other
// objects, the field that stands for a record, values of choices.
func (m *Model) Mentions(o *Object) []Mention {
	var out []Mention
	if o.Field(o.LabelField) != nil {
		out = append(out, TextMention("/label_field", o.LabelField, Referent{Object: o.Key, Field: o.LabelField}))
	}
	for i := range o.Fields {
		f := &o.Fields[i]
		at := fmt.Sprintf("/fields/%d", i)
		if f.Type == Reference && m.Object(f.Object) != nil {
			out = append(out, TextMention(at+"/object", f.Object, Referent{Object: f.Object}))
		}
		out = append(out, f.ChoiceMentions(o.Key, f.Default, at+"/default")...)
	}
	return out
}

// ChoiceMentions are the values of a field's choices in a value of it as it travels, one or a list.
func (f *Field) ChoiceMentions(object string, raw []byte, pointer string) []Mention {
	if object == "" || !f.Type.Chosen() {
		return nil
	}
	var one string
	if json.Unmarshal(raw, &one) == nil && one != "" {
		return []Mention{TextMention(pointer, one, Referent{Object: object, Field: f.Key, Choice: one})}
	}
	var several []string
	if json.Unmarshal(raw, &several) != nil {
		return nil // whatever it is, it is none of the choices
	}
	var out []Mention
	for i, key := range several {
		out = append(out, TextMention(pointer+"/"+strconv.Itoa(i), key,
			Referent{Object: object, Field: f.Key, Choice: key}))
	}
	return out
}

// Owner is the key of the object that a field belongs to, "" for one that is of no object.
func (m *Model) Owner(f *Field) string {
	if m == nil {
		return ""
	}
	for key, o := range m.objects {
		for i := range o.Fields {
			if &o.Fields[i] == f {
				return key
			}
		}
	}
	return ""
}

// ChoicePointer leads from a part that is an input to one of its choices.
func ChoicePointer(n int) string { return "/input/choices/" + strconv.Itoa(n) }
