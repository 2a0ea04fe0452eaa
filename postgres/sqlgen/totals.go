package sqlgen

import "plainpath/core/query"

// totalled is the SQL a total is made from.
func totalled(t query.Total, x string) []string {
	switch t.Of {
	case query.Sum:
		return []string{"sum(" + x + ")"}
	case query.Average:
		return []string{"sum(" + x + ")", "count(" + x + ")"}
	case query.Least:
		return []string{"min(" + x + ")"}
	case query.Count:
		return []string{"count(" + x + ")"}
	}
	return []string{"max(" + x + ")"}
}
