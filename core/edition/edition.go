// Package edition puts the documents of an app together to something that runs: the
// draft as it stands, or a release.
package edition

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"plainpath/core/access"
	"plainpath/core/checkup"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/rules"
	"plainpath/core/surface"
	"plainpath/core/value"
	"plainpath/core/walk"
)

// DocumentKind says what a document describes.
type DocumentKind string

// The kinds of documents.
const (
	AppDocument         DocumentKind = "app"
	ObjectDocument      DocumentKind = "object"
	RoleDocument        DocumentKind = "role"
	WalkthroughDocument DocumentKind = "walkthrough"
	PageDocument        DocumentKind = "page"
)

// Document is one part of an app's definition.
type Document struct {
	Kind     DocumentKind    `json:"kind"`
	Key      string          `json:"key"`
	Revision int             `json:"revision"`
	Body     json.RawMessage `json:"body"`
}

// Name is the document's kind and key, as findings call it.
func (d Document) Name() string { return string(d.Kind) + "/" + d.Key }

// checkKey makes sure that a document says of itself the key it is kept under.
func (d Document) checkKey() error {
	var said struct{ Key string }
	if err := json.Unmarshal(d.Body, &said); err != nil {
		return fmt.Errorf("reading its key: %w", err)
	}
	if said.Key != d.Key {
		return fmt.Errorf("it calls itself %q; a key stays as it is once there is a document by it", said.Key)
	}
	return nil
}

// App is the settings of an app.
type App struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Currency is the house currency, an ISO 4217 code.
	Currency string `json:"currency"`
	// Organisation is the object that people outside the company belong to.
	Organisation string `json:"organisation,omitempty"`
	// Zone is the time zone of the house, such as Europe/Dublin.
	Zone string `json:"zone"`
	// Rates is what amounts of other currencies are converted by.
	Rates *model.RateTable `json:"rates,omitempty"`
}

// Edition is an app ready to run. It is safe for use by several goroutines.
type Edition struct {
	App          App
	Model        *model.Model
	Policy       *access.Policy
	Roles        []access.Role
	Walkthroughs map[string]*walk.Program
	Pages        map[string]*surface.PageProgram
	Rules        *rules.Book
	worked       map[fieldOf]WorkedOut
	Findings     []checkup.Finding
	Zone         *time.Location
}

// Compile reads and checks the documents of an app. It fails only when a document
// cannot be read at all; everything else is a finding.
func Compile(documents []Document) (*Edition, error) {
	return compile(documents, func([]*model.Object) {})
}

// UnreadableError says that a document is not one that this version of the program can read.
type UnreadableError struct {
	Document string
	Cause    error
}

func (e *UnreadableError) Error() string { return "reading " + e.Document + ": " + e.Cause.Error() }
func (e *UnreadableError) Unwrap() error { return e.Cause }

// compile lets somebody look at the objects once they are read, before anything is made of them.
func compile(documents []Document, read func([]*model.Object)) (*Edition, error) {
	e := &Edition{Walkthroughs: map[string]*walk.Program{}, Pages: map[string]*surface.PageProgram{}, Zone: time.UTC, worked: map[fieldOf]WorkedOut{}}
	var objects []*model.Object
	var walks []*walk.Walkthrough
	var pages []*surface.Page
	for _, d := range documents {
		var err error
		switch d.Kind {
		case AppDocument:
			err = Decode(d.Body, &e.App)
		case ObjectDocument:
			o := &model.Object{}
			err = Decode(d.Body, o)
			objects = append(objects, o)
		case RoleDocument:
			var r access.Role
			err = Decode(d.Body, &r)
			e.Roles = append(e.Roles, r)
		case WalkthroughDocument:
			w := &walk.Walkthrough{}
			err = Decode(d.Body, w)
			walks = append(walks, w)
		case PageDocument:
			p := &surface.Page{}
			err = Decode(d.Body, p)
			pages = append(pages, p)
		default:
			err = fmt.Errorf("there is no kind of document %q", d.Kind)
		}
		if err == nil {
			err = d.checkKey()
		}
		if err != nil {
			return nil, &UnreadableError{d.Name(), err}
		}
	}
	zone, err := time.LoadLocation(e.App.Zone)
	if err != nil {
		zone = time.UTC
		e.find("app/"+e.App.Key, "/zone", fmt.Sprintf("there is no time zone %q", e.App.Zone), "Times would be shown in UTC.")
	}
	if err := value.CheckCurrency(e.App.Currency); err != nil {
		e.find("app/"+e.App.Key, "/currency", err.Error(), "Amounts could not be entered or converted.")
	}
	read(objects)
	e.Model = model.New(e.App.Currency, objects...)
	e.Zone, e.Model.Zone = zone, zone
	if of := e.App.Organisation; of != "" && e.Model.Object(of) == nil {
		e.find("app/"+e.App.Key, "/organisation", fmt.Sprintf("there is no object %q for people outside the company to belong to", of), "They would see nothing.")
	}
	e.checkRates()
	e.checkObjects(objects)
	e.checkRoles()
	e.checkRules()
	slices.SortFunc(walks, func(a, b *walk.Walkthrough) int { return strings.Compare(a.Label, b.Label) })
	c := walk.Context{Model: e.Model, Organisation: e.App.Organisation}
	for _, r := range e.Roles {
		c.Roles = append(c.Roles, r.Key)
	}
	for _, w := range walks {
		p, findings := walk.Compile(c, w)
		e.Walkthroughs[w.Key] = p
		e.Findings = append(e.Findings, findings...)
	}
	for _, w := range walks {
		for at, bands := range w.Surfaces() {
			e.checkOpening("walkthrough/"+w.Key, at, bands)
		}
	}
	base := access.PersonScope(e.Model, e.App.Organisation)
	for _, def := range pages {
		p, findings := surface.CompilePage(base, c.Roles, def)
		e.Pages[def.Key] = p
		e.Findings = append(e.Findings, findings...)
		e.checkOpening("page/"+def.Key, walk.At{}, def.Bands)
	}
	return e, nil
}

func (e *Edition) find(document, pointer, text, consequence string) {
	e.Findings = append(e.Findings, checkup.Finding{Document: document, Pointer: pointer, Severity: checkup.Stop, Text: text, Consequence: consequence})
}

func (e *Edition) checkObjects(objects []*model.Object) {
	w := &worker{m: e.Model, done: e.worked}
	for _, o := range objects {
		document := "object/" + o.Key
		e.Findings = append(e.Findings, checkup.FromProblems(document, "", "Records of this object could not be stored as meant.", e.Model.Check(o))...)
		for i := range o.Fields {
			f := &o.Fields[i]
			if f.Type != model.WorkedOut || f.Expression == "" {
				continue
			}
			if _, err := w.field(o, f); err != nil {
				e.Findings = append(e.Findings, checkup.FromProblem(document, "", f.Label+" would stay empty.",
					expr.Problem(err, fmt.Sprintf("/fields/%d/expression", i), f.Expression)))
			}
		}
	}
}

func (e *Edition) checkRoles() {
	policy, problems := access.Compile(e.Model, e.App.Organisation, e.Roles)
	e.Policy = policy
	for role, p := range problems {
		e.Findings = append(e.Findings, checkup.FromProblems("role/"+role, "", "The role would see nothing of this object.", p)...)
	}
}

func (e *Edition) checkRules() {
	book, problems := rules.Compile(e.Model, e.App.Organisation)
	e.Rules = book
	for object, wrong := range problems {
		for _, p := range wrong {
			f := checkup.FromProblem("object/"+object, "", p.Consequence, p.Problem)
			if p.Care {
				f.Severity = checkup.Care
			}
			e.Findings = append(e.Findings, f)
		}
	}
}

// Of are the findings of one document.
func (e *Edition) Of(document string) []checkup.Finding {
	out := []checkup.Finding{}
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

// MayStart says whether a person may start a walkthrough.
func (e *Edition) MayStart(p access.Person, walkthrough string) bool {
	w := e.Walkthroughs[walkthrough]
	return w != nil && slices.ContainsFunc(w.Def.Roles, func(r string) bool { return slices.Contains(p.Roles, r) })
}

// MayOpen says whether a person may open a page.
func MayOpen(p access.Person, page *surface.Page) bool {
	return slices.ContainsFunc(page.Roles, func(r string) bool { return slices.Contains(p.Roles, r) })
}

// Decode reads JSON into a definition and refuses members it does not know.
func Decode(raw json.RawMessage, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return errors.New(strings.TrimPrefix(err.Error(), "json: "))
	}
	return nil
}
