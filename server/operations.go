package server

import (
	"reflect"

	"github.com/gofiber/fiber/v3"
)

// route is what is done at an address, with what it takes and gives, from which the API is described.
type route struct {
	handler fiber.Handler
	// takes and gives are types of what is sent as JSON, nil for nothing of the kind.
	takes, gives reflect.Type
	// bytes says that what is sent is a file, or a piece of one; file says that one is given.
	bytes, file bool
	// asks are the parameters of the query.
	asks []string
}

// asking is the route with parameters of the query.
func (r route) asking(names ...string) route {
	r.asks = names
	return r
}

// withBytes is the route that takes a piece of a file.
func (r route) withBytes() route {
	r.bytes = true
	return r
}

// gives is a route that answers with something.
func gives[Out any](work func(fiber.Ctx) (Out, error)) route {
	return route{gives: reflect.TypeFor[Out](), handler: func(c fiber.Ctx) error {
		out, err := work(c)
		if err != nil {
			return err
		}
		return c.JSON(out)
	}}
}

// takes is a route that is told something and answers with something.
func takes[In, Out any](work func(fiber.Ctx, In) (Out, error)) route {
	r := gives(func(c fiber.Ctx) (Out, error) {
		var in In
		if err := read(c, &in); err != nil {
			return *new(Out), err
		}
		return work(c, in)
	})
	r.takes = reflect.TypeFor[In]()
	return r
}

// told is a route that is told something and has nothing to answer.
func told[In any](work func(fiber.Ctx, In) error) route {
	r := done(func(c fiber.Ctx) error {
		var in In
		if err := read(c, &in); err != nil {
			return err
		}
		return work(c, in)
	})
	r.takes = reflect.TypeFor[In]()
	return r
}

// done is a route that does something and has nothing to answer.
func done(work func(fiber.Ctx) error) route {
	return route{handler: func(c fiber.Ctx) error {
		if err := work(c); err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	}}
}

// sendsFile is a route that answers with a file, or a stream, in a way of its own.
func sendsFile(handler fiber.Handler) route { return route{handler: handler, file: true} }

// operation is a route at its address.
type operation struct {
	route
	method, path string
}
