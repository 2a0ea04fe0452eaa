package postgres

import (
	"context"
)

type tabKey struct{}

// WithTab notes which browser tab asks, so that the changes it makes are told as its own.
func WithTab(ctx context.Context, tab string) context.Context {
	return context.WithValue(ctx, tabKey{}, tab)
}

// TabOf is the browser tab that asks, "" where none did.
func TabOf(ctx context.Context) string {
	tab, _ := ctx.Value(tabKey{}).(string)
	return tab
}
