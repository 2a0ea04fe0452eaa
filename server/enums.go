package server

import (
	"reflect"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/postgres/imports"
)

// enums are the closed sets of words that travel. A test holds them against the constants there are.
var enums = map[reflect.Type][]any{}

func init() {
	enum(walk.Kinds()...)
	enum(model.FieldTypes...)
	enum(model.EmptyNothing, model.EmptySkip)
	enum(model.Is, model.IsNot, model.Contains, model.Includes, model.IncludesNot, model.StartsWith, model.More,
		model.MoreOrEqual, model.Less, model.LessOrEqual, model.Between, model.OneOf, model.IsEmpty, model.IsNotEmpty,
		model.WithinLastDays, model.WithinNextDays)
	enum(value.Kinds()...)
	enum(edition.Kinds()...)
	enum(edition.Icons...)
	enum(definition.Stop, definition.Care)
	enum(act.ToneDone, act.ToneCare, act.ToneFailed)
	enum(act.NonePassed, act.NoneStops)
	enum(act.ReferringRemoved, act.ReferringEmptied)
	enum(query.Sum, query.Average, query.Least, query.Greatest, query.Count)
	enum(query.Spans...)
	enum(intake.UTF8, intake.UTF16LE, intake.UTF16BE, intake.Windows1252)
	enum(intake.ModeAdd, intake.ModeUpdate, intake.ModeBoth)
	enum(table.AsTable, table.AsCards, table.AsChart)
	enum(screen.Drawings...)
	enum(screen.PartKinds()...)
	enum(screen.Standings...)
	enum(screen.CalendarSpans...)
	enum(screen.Events...)
	enum(screen.MoreIsGood, screen.LessIsGood)
	enum(table.SelectNone, table.SelectOne, table.SelectSeveral)
	enum(table.OnTable, table.OnOne, table.OnSome, table.OnEach)
	enum(imports.Uploading, imports.Analysing, imports.Ready, imports.Checking, imports.Checked, imports.Importing,
		imports.Imported, imports.Failed)
}

// enum says all the words of one set.
func enum[T ~string](all ...T) {
	words := make([]any, len(all))
	for i, w := range all {
		words[i] = string(w)
	}
	enums[reflect.TypeFor[T]()] = words
}
