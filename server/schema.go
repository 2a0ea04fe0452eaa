package server

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"plainpath/postgres/accounts"
	"plainpath/postgres/apps"
	"plainpath/postgres/desks"
	"plainpath/postgres/drafts"
	"plainpath/postgres/exports"
	"plainpath/postgres/files"
	"plainpath/postgres/imports"
	"plainpath/postgres/runs"
	"plainpath/postgres/schema"
	"plainpath/postgres/tables"

	"plainpath/core/records"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3gen"

	"plainpath/core/access"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/surface"
	"plainpath/core/value"
	"plainpath/core/walk"
)

// exchanged are the types that travel between the program and the browser, or that
// documents are made of. The front end's types are generated from them.
var exchanged = []any{
	Problem{}, SessionView{}, signInRequest{}, zoneRequest{}, HomeView{}, startRequest{}, answerRequest{},
	backRequest{}, rowsRequest{}, concernsRequest{}, ConcernsView{}, tables.Told{}, CountView{}, fieldsRequest{},
	keepViewRequest{}, cellOptionsRequest{}, saveRowsRequest{}, readCellsRequest{}, exports.OutAsk{},
	pressRequest{}, offRequest{}, OffView{}, tables.Pressed{}, surface.ProofView{},
	surface.ProofRecordView{}, exports.OutView{}, tables.CellRead{}, records.RowsSaved{}, pageRequest{},
	pageOptionsRequest{}, tables.PageView{}, tables.ViewsView{}, tables.FieldsView{},
	surface.GroupsView{}, surface.Page{},
	runs.Run{}, surface.RowsView{}, value.Ref{}, desks.RecordView{}, desks.RelatedList{},
	ContentsView{}, DocumentView{}, addDocumentRequest{}, edit.Change{}, rehearseRequest{}, runs.Rehearsed{},
	drafts.Preview{}, schema.Readying{}, releaseRequest{}, ReleasedView{}, HiddenView{},
	UsesView{}, renameRequest{}, RenamedView{}, PeopleView{}, PersonView{}, InvitedView{}, AuditView{}, SetUpView{},
	imports.Brought{}, setUpRequest{}, apps.SettingUp{}, SessionsView{}, ownPasswordRequest{},
	accounts.AccountChange{}, passwordRequest{}, desks.RightsView{}, desks.WhyQuestion{}, desks.WhyView{},
	desks.EvaluateQuestion{}, desks.EvaluatedView{}, desks.ProfileView{}, records.FormView{},
	records.Saving{}, beginIntakeRequest{}, ColumnWish{}, NewUpload{}, files.FileView{},
	desks.Mending{}, MendedView{}, imports.Intake{}, imports.RefusedCell{}, optionsRequest{},
	desks.CandidateQuestion{}, desks.CandidatesView{},
	edition.App{}, model.Object{}, access.Role{}, walk.Walkthrough{},
}

// Schema describes the exchanged types as an OpenAPI document.
func Schema() (*openapi3.T, error) {
	schemas := openapi3.Schemas{}
	g := openapi3gen.NewGenerator(
		openapi3gen.CreateComponentSchemas(openapi3gen.ExportComponentSchemasOptions{ExportComponentSchemas: true,
			ExportTopLevelSchema: true}),
		openapi3gen.CreateTypeNameGenerator(typeName), openapi3gen.SchemaCustomizer(customize))
	for _, v := range exchanged {
		if _, err := g.NewSchemaRefForValue(v, schemas); err != nil {
			return nil, fmt.Errorf("describing %T: %w", v, err)
		}
	}
	return &openapi3.T{OpenAPI: "3.0.3", Info: &openapi3.Info{Title: "Plain Path", Version: "1"},
		Paths: openapi3.NewPaths(), Components: &openapi3.Components{Schemas: schemas}}, nil
}

// typeName is the type's own name, with its package where that alone would not tell
// two types apart.
func typeName(t reflect.Type) string {
	name := strings.ToUpper(t.Name()[:1]) + t.Name()[1:]
	if slices.Contains([]string{"Edit", "Pressed", "Order", "Input", "Change", "Release", "Search", "Table", "Column",
		"Run", "View", "Name", "Type", "Ref", "Problem"}, name) {
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
		if f.IsExported() && name != "" && name != "-" && !strings.Contains(options, "omitempty") {
			schema.Required = append(schema.Required, name)
		}
	}
	slices.Sort(schema.Required)
	return nil
}
