package exports

import (
	"bytes"
	"fmt"
	"reflect"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"plainpath/core/value"
)

// Rows that do not fit on a sheet go on on the next, under the same headings.
func TestRowsGoOnOnTheNextSheet(t *testing.T) {
	for _, rows := range []int{0, 3, 4, 7} {
		var file bytes.Buffer
		b, err := newOutBook(&file, []string{"Name", "Floors"}, []value.Kind{value.KindText, value.KindWhole}, time.UTC)
		if err != nil {
			t.Fatal(err)
		}
		b.most = 4 // with the headings
		if file.Len() == 0 {
			t.Error("the file has not begun")
		}
		want := [][]string{{"Name", "Floors"}}
		for n := range rows {
			row := []string{fmt.Sprint("House ", n), fmt.Sprint(n)}
			if n > 0 && n%3 == 0 {
				want = append(want, want[0])
			}
			want = append(want, row)
			if err := b.row([][]byte{[]byte(row[0]), []byte(row[1])}); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.close(); err != nil {
			t.Fatal(err)
		}
		book, err := excelize.OpenReader(&file)
		if err != nil {
			t.Fatal(err)
		}
		var got [][]string
		for _, sheet := range book.GetSheetList() {
			found, err := book.GetRows(sheet)
			if err != nil {
				t.Fatal(err)
			}
			got = append(got, found...)
		}
		if !reflect.DeepEqual(got, want) || len(book.GetSheetList()) != max(1, (rows+2)/3) {
			t.Errorf("%d rows: %v on %v", rows, got, book.GetSheetList())
		}
	}
}
