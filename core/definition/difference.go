package definition

import (
	"fmt"
	"slices"
)

// Difference is what changes of one document between two editions, in words.
type Difference struct {
	Document string `json:"document"`
	Label    string `json:"label"`
	// What is "added", "removed" or "changed".
	What string `json:"what"`
	// Details say what changed within the document.
	Details []string `json:"details"`
	// Stored says what happens to stored records.
	Stored []string `json:"stored"`
	// Roles are those for whom it changes what they may do.
	Roles []string `json:"roles"`

	labels map[Kind]map[string]string
}

// NewDifference is a difference of a document of which nothing is said yet. Labels are what documents
// are called, by kind and key.
func NewDifference(document, label, what string, labels map[Kind]map[string]string) *Difference {
	return &Difference{Document: document, Label: label, What: what, Details: []string{}, Stored: []string{},
		Roles: []string{}, labels: labels}
}

// Say notes one thing that changed.
func (d *Difference) Say(format string, args ...any) {
	d.Details = append(d.Details, fmt.Sprintf(format, args...))
}

// Setting says that a value of the document itself changed.
func (d *Difference) Setting(what, was, is string) {
	switch {
	case was == is:
	case was == "":
		d.Say("%s is “%s” now", what, is)
	case is == "":
		d.Say("%s is empty now, it was “%s”", what, was)
	default:
		d.Say("%s is “%s”, which was “%s”", what, is, was)
	}
}

// Allowed says which roles get or lose something.
func (d *Difference) Allowed(doing string, was, is []string) {
	for _, role := range is {
		if !slices.Contains(was, role) {
			d.Say("%s may %s now", d.Called(Role, role), doing)
			d.Concerns(role)
		}
	}
	for _, role := range was {
		if !slices.Contains(is, role) {
			d.Say("%s may not %s any more", d.Called(Role, role), doing)
			d.Concerns(role)
		}
	}
}

// Concerns notes that it changes something for a role.
func (d *Difference) Concerns(role string) {
	if !slices.Contains(d.Roles, role) {
		d.Roles = append(d.Roles, role)
	}
}

// Store says what happens to stored records.
func (d *Difference) Store(format string, args ...any) {
	d.Stored = append(d.Stored, fmt.Sprintf(format, args...))
}

// Called is the label of a document, its key when it has none.
func (d *Difference) Called(kind Kind, key string) string {
	if label := d.labels[kind][key]; label != "" {
		return label
	}
	return key
}
