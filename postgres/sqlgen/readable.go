package sqlgen

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

var placeholder = regexp.MustCompile(`\$(\d+)::`)

// Readable is the statement with its arguments in their places, for people to read and to run
// elsewhere. The program itself sends the arguments apart.
func (s Statement) Readable() string {
	return placeholder.ReplaceAllStringFunc(s.SQL, func(at string) string {
		n, err := strconv.Atoi(strings.Trim(at, "$:"))
		if err != nil || n < 1 || n > len(s.Args) {
			return at
		}
		return literal(s.Args[n-1]) + "::"
	})
}

func literal(v any) string {
	switch x := v.(type) {
	case nil:
		return "NULL"
	case int64:
		return strconv.FormatInt(x, 10)
	case bool:
		return strconv.FormatBool(x)
	case time.Time:
		return quoted(x.Format(time.RFC3339Nano))
	case []int64:
		return array(x)
	case []string:
		return array(x)
	}
	return quoted(fmt.Sprint(v))
}

func quoted(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

func array[T any](members []T) string {
	out := make([]string, len(members))
	for i, m := range members {
		out[i] = literal(m)
	}
	return "ARRAY[" + strings.Join(out, ", ") + "]"
}
