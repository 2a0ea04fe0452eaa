package model

import "testing"

func TestArticles(t *testing.T) {
	for noun, want := range map[string]string{"Lift": "a lift", "Engineer": "an engineer", "unit": "a unit",
		"User": "a user", "uplift": "an uplift", "Über": "a über", "": "a "} {
		if got := WithArticle(noun); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
