// Package edition puts the documents of an app together to something that runs: the
// draft as it stands, or a release.
package edition

import (
	"fmt"
	"slices"
	"time"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/rules"
	"plainpath/core/walk"
)

// Edition is an app ready to run. It is safe for use by several goroutines.
type Edition struct {
	App          App
	Model        *model.Model
	Policy       *access.Policy
	Roles        []access.Role
	Walkthroughs map[string]*walk.Program
	Pages        map[string]*page.Program
	Rules        *rules.Book
	worked       map[fieldOf]WorkedOut
	// read is shown the objects as they were read, where somebody wants to change them.
	read     func([]*model.Object)
	compiler *Compiler
	// over is the model whose tables it works on, where those are another edition's.
	over  *model.Model
	made  *made
	apps  []definition.Document
	check *definition.Check
	// Findings are what is wrong with the documents, Mentions what they call by keys.
	Findings []definition.Finding
	Mentions []definition.Mention
	Zone     *time.Location
}

// Compile reads and checks the documents of an app. It fails only when a document
// cannot be read at all; everything else is a finding.
func Compile(documents []definition.Document) (*Edition, error) {
	return (*Compiler)(nil).Compile(documents)
}

// Compile is the function of this name; what it made before of the same documents is not made again.
func (c *Compiler) Compile(documents []definition.Document) (*Edition, error) {
	return compile(documents, &Edition{compiler: c})
}

func compile(documents []definition.Document, e *Edition) (*Edition, error) {
	e.check = definition.NewCheck("")
	e.Walkthroughs, e.Pages, e.Zone = map[string]*walk.Program{}, map[string]*page.Program{}, time.UTC
	by := map[definition.Kind][]definition.Document{}
	for _, d := range documents {
		if rank(d.Kind) < 0 {
			return nil, &definition.UnreadableError{Document: d.Name(),
				Cause: fmt.Errorf("there is no kind of document %q", d.Kind)}
		}
		by[d.Kind] = append(by[d.Kind], d)
	}
	for _, k := range kinds {
		if err := k.compile(e, by[k.name]); err != nil {
			return nil, err
		}
	}
	e.openings()
	e.meant()
	e.Findings, e.Mentions = e.check.Findings(), e.check.Mentions()
	return e, nil
}

// Of are the findings of one document.
func (e *Edition) Of(document string) []definition.Finding {
	out := []definition.Finding{}
	for _, f := range e.Findings {
		if f.Document == document {
			out = append(out, f)
		}
	}
	return out
}

// Role is a role by its key, one without rights when there is none.
func (e *Edition) Role(key string) access.Role {
	for _, r := range e.Roles {
		if r.Key == key {
			return r
		}
	}
	return access.Role{Key: key, Label: key}
}

// HasRole says whether there is a role.
func (e *Edition) HasRole(key string) bool {
	return slices.ContainsFunc(e.Roles, func(r access.Role) bool { return r.Key == key })
}
