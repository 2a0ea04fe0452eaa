package screen

import (
	"context"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
)

// Calendar shows the records of a list on the days on which they are.
type Calendar struct {
	// Source is an expression that gives the list.
	Source string `json:"source"`
	// Starts is the field that says when a record begins, Ends that which says until when it lasts; without one a
	// record is at one point.
	Starts string `json:"starts"`
	Ends   string `json:"ends,omitempty"`
	// Columns are shown of each record besides what it is called.
	Columns []table.Column `json:"columns,omitempty"`
	// By is the field for each of whose values the time line has a line.
	By string `json:"by,omitempty"`
	// Opens says how it is looked at first: by months where nothing is said.
	Opens CalendarSpan `json:"opens,omitempty"`
}

// CalendarSpan is how much of a calendar is looked at, and how.
type CalendarSpan string

// The ways to look at a calendar.
const (
	ByMonth    CalendarSpan = "month"
	ByWeek     CalendarSpan = "week"
	OnTimeLine CalendarSpan = "time_line"
)

// CalendarSpans are all ways to look at a calendar, in the order they are offered.
var CalendarSpans = []CalendarSpan{ByMonth, ByWeek, OnTimeLine}

// CalendarPartView is a calendar as a person sees it; the records are asked for by the days that are looked at.
type CalendarPartView struct {
	Object string       `json:"object"`
	Starts string       `json:"starts"`
	Ends   string       `json:"ends,omitempty"`
	By     string       `json:"by,omitempty"`
	Opens  CalendarSpan `json:"opens"`
	// Columns are asked for of each record: when it begins, until when it lasts, the line it is on, all that is shown.
	Columns []table.Column `json:"columns"`
}

var calendarKind = partKind{CalendarPart, func(def *Part) bool { return def.Calendar != nil }, checkCalendar}

type calendar struct {
	*Calendar
	of *table.Program
}

const noCalendar = "There would be no calendar."

func checkCalendar(c *compiler, p *part, at string) content {
	def := p.Calendar
	out := &calendar{Calendar: def}
	if out.of = c.counted(def.Source, at+"/source", "the calendar is of nothing", noCalendar); out.of == nil {
		return nil
	}
	if def.Starts == "" {
		c.Find(definition.Stop, at+"/starts", "it does not say when a record begins", noCalendar, nil)
		return nil
	}
	ok := true
	field := func(text, member string, check ...func(model.Path) error) {
		if text == "" {
			return
		}
		_, found := c.Path(c.scope.Model, out.of.Object(), text, at+member, noCalendar, check...)
		ok = ok && found
	}
	field(def.Starts, "/starts", table.Timed)
	field(def.Ends, "/ends", table.Timed)
	field(def.By, "/by", func(path model.Path) error { return query.CheckGrouping(query.Grouping{Path: path}) })
	for i, column := range def.Columns {
		field(column.Path, fmt.Sprintf("/columns/%d/path", i))
	}
	switch {
	case def.Opens != "" && !slices.Contains(CalendarSpans, def.Opens):
		c.Find(definition.Stop, at+"/opens", fmt.Sprintf("a calendar cannot be looked at by %q", def.Opens), noCalendar,
			definition.Replace("By months", at+"/opens", string(ByMonth)))
		return nil
	case def.Opens == OnTimeLine && def.By == "":
		c.Find(definition.Care, at+"/by", "it does not say for what there is a line each", "All would be on one line.", nil)
	}
	if !ok {
		return nil
	}
	return out
}

func (p *calendar) list(which string) *table.Program {
	if which != "" {
		return nil
	}
	return p.of
}

func (p *calendar) show(_ context.Context, _ records.Reader, _ expr.Values, _ Given, view *PartView) error {
	out := &CalendarPartView{Object: p.of.Object(), Starts: p.Starts, Ends: p.Ends, By: p.By, Opens: p.Opens}
	if out.Opens == "" {
		out.Opens = ByMonth
	}
	for _, path := range []string{p.Starts, p.Ends, p.By} {
		if path != "" {
			out.Columns = append(out.Columns, table.Column{Path: path})
		}
	}
	out.Columns = append(out.Columns, p.Columns...)
	view.Calendar = out
	return nil
}
