package model

import "strings"

// WithArticle puts "a" or "an" before a noun, in small letters: "a lift", "an engineer".
func WithArticle(noun string) string {
	noun = strings.ToLower(noun)
	article := "a "
	if noun != "" && strings.ContainsRune("aeiou", rune(noun[0])) {
		article = "an "
	}
	for _, likeYou := range []string{"uni", "use", "usa", "uti"} { // a unit, a user
		if strings.HasPrefix(noun, likeYou) {
			article = "a "
		}
	}
	return article + noun
}
