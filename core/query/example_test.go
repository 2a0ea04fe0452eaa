package query_test

import (
	"fmt"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Amounts of a group come from the database by currency and are never added to each other.
func ExampleMerge() {
	price := model.Path{Fields: []*model.Field{{Key: "price", Label: "Price", Type: model.Money}}}
	euro := func(amount int64, currency string) []query.Part {
		m := value.Money{Amount: decimal.NewFromInt(amount), Currency: currency}
		return []query.Part{{Currency: currency, Value: m}}
	}
	groups, all, _, err := query.Merge([]query.Piece{
		{Keys: []value.Value{value.Text("lift")}, Count: 2, Parts: euro(30, "EUR")},
		{Keys: []value.Value{value.Text("lift")}, Count: 1, Parts: euro(5, "USD")},
		{Keys: []value.Value{value.Text("stairs")}, Count: 4, Parts: euro(12, "EUR")},
	}, []query.Grouping{{}}, []query.Total{{Path: price, Of: query.Sum}}, nil)
	for _, g := range append(groups, all) {
		fmt.Println(len(g.Keys), g.Count, g.Totals[0])
	}
	fmt.Println(err)
	// Output:
	// 1 3 [{30 EUR} {5 USD}]
	// 1 4 [{12 EUR}]
	// 0 7 [{42 EUR} {5 USD}]
	// <nil>
}
