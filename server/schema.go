package server

import (
	"encoding/json"
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3gen"
	"github.com/gofiber/fiber/v3"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/walk"
	"plainpath/postgres/tables"
)

// besides are types that travel though no route takes or gives them by itself: what a refusal says, what
// is told of changes, and what documents are made of.
var besides = []any{Problem{}, tables.Told{}, edition.App{}, model.Object{}, access.Role{}, walk.Walkthrough{},
	page.Page{}}

// Schema describes the API as an OpenAPI document, from the routes there are. The front end's types are
// generated from it.
func Schema() (*openapi3.T, error) {
	schemas := openapi3.Schemas{}
	names := naming{}
	d := &describer{schemas: schemas, generator: openapi3gen.NewGenerator(
		openapi3gen.CreateComponentSchemas(openapi3gen.ExportComponentSchemasOptions{ExportComponentSchemas: true,
			ExportTopLevelSchema: true}),
		openapi3gen.CreateTypeNameGenerator(names.of), openapi3gen.SchemaCustomizer(customize))}
	for _, v := range besides {
		if _, err := d.of(reflect.TypeOf(v)); err != nil {
			return nil, err
		}
	}
	s := &server{}
	s.routes(fiber.New())
	paths := openapi3.NewPaths()
	for _, o := range s.operations {
		described, err := d.operation(o)
		if err != nil {
			return nil, fmt.Errorf("describing %s %s: %w", o.method, o.path, err)
		}
		path := pathParameter.ReplaceAllString(strings.TrimSuffix(o.path, "/"), "{$1}")
		item := paths.Value(path)
		if item == nil {
			item = &openapi3.PathItem{}
			paths.Set(path, item)
		}
		item.SetOperation(o.method, described)
	}
	if err := names.clash(); err != nil {
		return nil, err
	}
	return &openapi3.T{OpenAPI: "3.0.3", Info: &openapi3.Info{Title: "Plain Path", Version: "1"},
		Paths: paths, Components: &openapi3.Components{Schemas: schemas}}, nil
}

var pathParameter = regexp.MustCompile(`:(\w+)`)

// describer describes types and routes.
type describer struct {
	generator *openapi3gen.Generator
	schemas   openapi3.Schemas
}

func (d *describer) of(t reflect.Type) (*openapi3.SchemaRef, error) {
	ref, err := d.generator.NewSchemaRefForValue(reflect.New(t).Interface(), d.schemas)
	if err != nil {
		return nil, fmt.Errorf("describing %s: %w", t, err)
	}
	return ref, nil
}

func (d *describer) operation(o operation) (*openapi3.Operation, error) {
	out := openapi3.NewOperation()
	for _, name := range pathParameter.FindAllStringSubmatch(o.path, -1) {
		out.AddParameter(openapi3.NewPathParameter(name[1]).WithSchema(openapi3.NewAnyOfSchema(
			openapi3.NewStringSchema(), openapi3.NewIntegerSchema())))
	}
	for _, name := range o.asks {
		out.AddParameter(openapi3.NewQueryParameter(name).WithSchema(openapi3.NewAnyOfSchema(
			openapi3.NewStringSchema(), openapi3.NewIntegerSchema())))
	}
	binary := openapi3.NewContentWithSchema(openapi3.NewStringSchema().WithFormat("binary"),
		[]string{fiber.MIMEOctetStream})
	switch {
	case o.bytes:
		out.RequestBody = &openapi3.RequestBodyRef{Value: openapi3.NewRequestBody().WithRequired(true).
			WithContent(binary)}
	case o.takes != nil:
		ref, err := d.of(o.takes)
		if err != nil {
			return nil, err
		}
		out.RequestBody = &openapi3.RequestBodyRef{Value: openapi3.NewRequestBody().WithRequired(true).
			WithJSONSchemaRef(ref)}
	}
	refused := openapi3.NewResponse().WithDescription("what is wrong").
		WithContent(openapi3.Content{problemType: openapi3.NewMediaType().WithSchemaRef(
			openapi3.NewSchemaRef("#/components/schemas/ServerProblem", nil))})
	answer := openapi3.NewResponse().WithDescription("done")
	status := "204"
	switch {
	case o.file:
		status, answer = "2XX", answer.WithContent(binary)
	case o.gives != nil:
		ref, err := d.of(o.gives)
		if err != nil {
			return nil, err
		}
		status, answer = "2XX", answer.WithJSONSchemaRef(ref)
	}
	out.Responses = openapi3.NewResponses(openapi3.WithName(status, answer), openapi3.WithName("default", refused))
	return out, nil
}

// naming is what types are called, to find two that are called the same.
type naming map[string][]reflect.Type

func (n naming) of(t reflect.Type) string {
	name := typeName(t)
	if !slices.Contains(n[name], t) {
		n[name] = append(n[name], t)
	}
	return name
}

func (n naming) clash() error {
	for name, types := range n {
		if len(types) > 1 {
			return fmt.Errorf("%s and %s are both called %s: typeName has to tell them apart", types[0], types[1], name)
		}
	}
	return nil
}

// typeName is the type's own name, with its package where that alone would not tell
// two types apart.
func typeName(t reflect.Type) string {
	name := strings.ToUpper(t.Name()[:1]) + t.Name()[1:]
	if slices.Contains([]string{"Edit", "Pressed", "Order", "Input", "Change", "Release", "Search", "Table", "Column",
		"Run", "View", "Name", "Type", "Ref", "Problem", "Example", "Difference"}, name) {
		p := t.PkgPath()
		p = p[strings.LastIndexByte(p, '/')+1:]
		return strings.ToUpper(p[:1]) + p[1:] + name
	}
	return name
}

// customize marks what is always there as required, and lets raw JSON be anything.
func customize(_ string, t reflect.Type, _ reflect.StructTag, schema *openapi3.Schema) error {
	if t == reflect.TypeFor[json.RawMessage]() {
		*schema = openapi3.Schema{}
		return nil
	}
	if t.Kind() == reflect.Slice {
		schema.Nullable = false
	}
	schema.Enum = enums[t]
	if t.Kind() != reflect.Struct || schema.Properties == nil {
		return nil
	}
	for _, f := range reflect.VisibleFields(t) {
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.IsExported() && name != "" && name != "-" && !strings.Contains(options, "omit") {
			schema.Required = append(schema.Required, name)
		}
	}
	slices.Sort(schema.Required)
	return nil
}
