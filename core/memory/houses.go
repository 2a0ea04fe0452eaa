package memory

import "plainpath/core/model"

// Houses is a model that tests are made with: buildings with floors, and lifts in them.
func Houses() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "building", Label: "Building", Plural: "Buildings", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text}, {Key: "floors", Label: "Floors", Type: model.Whole}}},
		&model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "building", Label: "Building", Type: model.Reference, Object: "building"}}})
}
