package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"testing"

	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/drafts"
	pgfiles "plainpath/postgres/files"
	"plainpath/postgres/jobs"
	"plainpath/postgres/runs"

	"plainpath/core/records"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/server"
	"plainpath/testdb"
)

// give sends a file whole, in pieces, and answers as the last piece was answered.
func give(t *testing.T, c *testdb.Client, in, name string, content []byte) pgfiles.FileView {
	t.Helper()
	var f pgfiles.FileView
	do(t, c, "POST", in+"/files", server.NewUpload{Name: name, Size: int64(len(content))}, 201, &f)
	for n := 0; n*postgres.PartSize < len(content); n++ {
		piece := content[n*postgres.PartSize : min(len(content), (n+1)*postgres.PartSize)]
		do(t, c, "PUT", fmt.Sprintf("%s/files/%d/parts/%d", in, f.ID, n), piece, 200, &f)
	}
	return f
}

func picture(t *testing.T, side int) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewGray(image.Rect(0, 0, side, side/2))); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// A file comes in pieces, its content decides what it is, a record takes it up, and it
// comes down again as it was.
func TestAFileInARecord(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	const trial = "/api/build/spaces/trial"
	big := bytes.Repeat([]byte("%PDF-1.4 not much of a document\n"), 3*postgres.PartSize/32+7)
	f := give(t, bo, trial, `C:\papers\report.pdf.txt`, big)
	if f.Name != "report.pdf.txt" || f.MediaType != "application/pdf" {
		t.Fatalf("%+v", f)
	}
	form := trial + "/objects/document/records/1"
	do(t, bo, "PATCH", form, records.Saving{Values: map[string]json.RawMessage{"file": fmt.Appendf(nil, `{"id":%d}`,
		f.ID)}}, 200, nil)
	res, err := bo.HTTP.Get(base + trial + fmt.Sprintf("/files/%d", f.ID))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	var got bytes.Buffer
	if _, err := got.ReadFrom(res.Body); err != nil || !bytes.Equal(got.Bytes(), big) {
		t.Errorf("%d bytes came down of %d: %v", got.Len(), len(big), err)
	}
	for header, want := range map[string]string{"Content-Type": "application/pdf",
		"Content-Disposition":     `inline; filename=report.pdf.txt`,
		"Content-Security-Policy": "sandbox; default-src 'none'; style-src 'unsafe-inline'",
		"X-Content-Type-Options":  "nosniff"} {
		if res.Header.Get(header) != want {
			t.Errorf("%s: %q, want %q", header, res.Header.Get(header), want)
		}
	}
	var view records.FormView
	do(t, bo, "GET", form, nil, 200, &view)
	if ref, _ := view.Values["file"].(map[string]any); ref["label"] != "report.pdf.txt" {
		t.Errorf("%v", view.Values["file"])
	}
	page := give(t, bo, trial, "harmless.png", []byte("<html><script>alert(1)</script></html>"))
	if res, err = bo.HTTP.Get(base + trial + fmt.Sprintf("/files/%d", page.ID)); err != nil ||
		!strings.HasPrefix(res.Header.Get("Content-Disposition"), "attachment") {
		t.Errorf("a page would be opened: %v %v", res.Header, err)
	}
	_ = res.Body.Close()
}

func TestPicturesAreWhatTheySay(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	const trial, form = "/api/build/spaces/trial", "/api/build/spaces/trial/objects/customer/records/1"
	put := func(id int64, want int) string {
		t.Helper()
		var body string
		status, err := bo.Do("PATCH", form, map[string]any{"values": map[string]any{"logo": map[string]any{"id": id}}},
			"", &body)
		if err != nil || status != want {
			t.Errorf("file %d: %d %s %v, want %d", id, status, body, err, want)
		}
		return body
	}
	logo := give(t, bo, trial, "logo.png", picture(t, 400))
	put(logo.ID, 200)
	res, err := bo.HTTP.Get(base + fmt.Sprintf("%s/files/%d/preview", trial, logo.ID))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	if small, err := png.DecodeConfig(res.Body); err != nil || small.Width != 96 || small.Height != 48 {
		t.Errorf("%+v %v", small, err)
	}
	note := give(t, bo, trial, "logo.png", []byte("only words"))
	if says := put(note.ID, 422); !strings.Contains(says, "is no picture") {
		t.Error(says)
	}
	do(t, bo, "GET", fmt.Sprintf("%s/files/%d/preview", trial, note.ID), nil, 404, nil)
	if says := put(999_999, 422); !strings.Contains(says, "send it again") {
		t.Error(says)
	}
	var half pgfiles.FileView
	do(t, bo, "POST", trial+"/files", server.NewUpload{Name: "half.png", Size: postgres.PartSize + 5}, 201, &half)
	part := fmt.Sprintf("%s/files/%d/parts/", trial, half.ID)
	do(t, bo, "PUT", part+"1", []byte("12345"), 200, nil)
	put(half.ID, 422) // not all of it is there
	do(t, bo, "GET", fmt.Sprintf("%s/files/%d", trial, half.ID), nil, 404, nil)
	var says string
	for path, body := range map[string][]byte{part + "0": []byte("short"), part + "2": []byte("beyond"),
		part + "x": []byte("nowhere")} {
		if status, err := bo.Do("PUT", path, body, "", &says); err != nil || status != 422 && status != 404 {
			t.Errorf("%s: %d %s %v", path, status, says, err)
		}
	}
	var broken pgfiles.FileView
	cut := picture(t, 300)
	cut = cut[:len(cut)/2]
	do(t, bo, "POST", trial+"/files", server.NewUpload{Name: "cut.png", Size: int64(len(cut))}, 201, &broken)
	if status, err := bo.Do("PUT", fmt.Sprintf("%s/files/%d/parts/0", trial, broken.ID), cut, "", &says); err != nil ||
		status != 422 || !strings.Contains(says, "cannot be read as one") {
		t.Errorf("%d %s %v", status, says, err)
	}
	do(t, bo, "PUT", part+"9223372036854775807", []byte("far off"), 422, nil)
	do(t, bo, "POST", trial+"/files", server.NewUpload{Name: "x", Size: 1, As: 999_999}, 404, nil)
	var bomb bytes.Buffer // little to send, much to unpack
	if err := png.Encode(&bomb, image.NewPaletted(image.Rect(0, 0, 19_000, 9_000),
		color.Palette{color.Black})); err != nil {
		t.Fatal(err)
	}
	var huge pgfiles.FileView
	do(t, bo, "POST", trial+"/files", server.NewUpload{Name: "huge.png", Size: int64(bomb.Len())}, 201, &huge)
	if status, err := bo.Do("PUT", fmt.Sprintf("%s/files/%d/parts/0", trial, huge.ID), bomb.Bytes(), "",
		&says); err != nil || status != 422 || !strings.Contains(says, "make it smaller") {
		t.Errorf("%d %s %v", status, says, err)
	}
	for _, bad := range []server.NewUpload{{Name: "", Size: 1}, {Name: "a/", Size: 0},
		{Name: strings.Repeat("x", 300), Size: 1}, {Name: "big", Size: 25<<20 + 1}} {
		do(t, bo, "POST", trial+"/files", bad, 422, nil)
	}
}

// A file is seen by whoever sees the field that holds it, of a record that is theirs, and
// by nobody else.
func TestFilesAreSeenWithTheirRecords(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	orla := testdb.SignIn(t, base, "orla@customer05.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	var own, strange, certificate int64
	for sql, into := range map[string]*int64{
		`SELECT logo FROM liftcare_production.customer WHERE id = 5`:                   &own,
		`SELECT logo FROM liftcare_production.customer WHERE id = 6`:                   &strange,
		`SELECT min(file) FROM liftcare_production.certificate WHERE file IS NOT NULL`: &certificate,
	} {
		if err := db.Get(into, sql); err != nil || *into == 0 {
			t.Fatal(sql, err)
		}
	}
	status := func(c *testdb.Client, path string) int {
		t.Helper()
		var body string
		status, err := c.Do("GET", path, nil, "", &body)
		if err != nil {
			t.Fatal(err)
		}
		return status
	}
	address := func(id int64) string { return fmt.Sprintf("/api/use/files/%d", id) }
	for _, c := range []struct {
		name string
		who  *testdb.Client
		path string
		want int
	}{
		{"her own logo", orla, address(own), 200},
		{"her own logo, small", orla, address(own) + "/preview", 200},
		{"a stranger's logo", orla, address(strange), 404},
		{"a stranger's logo, small", orla, address(strange) + "/preview", 404},
		{"what an engineer holds", orla, address(certificate), 404},
		{"a dispatcher sees customers", dana, address(strange), 200},
		{"through the builder's door", orla, fmt.Sprintf("/api/build/spaces/production/files/%d", own), 403},
		{"production is not trial", dana, fmt.Sprintf("/api/build/spaces/trial/files/%d", own), 403},
		{"as a builder who looks as her", bo, address(strange) + "?see_as=6", 404},
		{"nobody signed in", &testdb.Client{Base: base, HTTP: http.DefaultClient}, address(own), 401},
	} {
		if got := status(c.who, c.path); got != c.want {
			t.Errorf("%s: %d, want %d", c.name, got, c.want)
		}
	}
	// A field that is hidden from a role hides its files.
	if _, err := db.Exec(`UPDATE plainpath.release SET documents = (SELECT jsonb_agg(CASE WHEN d->>'key' = 'dispatcher' THEN jsonb_set(d, '{body,objects,customer,fields}', '{"logo":{"hidden":true}}') ELSE d END) FROM jsonb_array_elements(documents) d)`); err != nil {
		t.Fatal(err)
	}
	anew, err := db.Reopen(t.Context(), 2)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = anew.Close() }()
	again := server.New(server.Config{DB: anew, App: "liftcare"})
	req, err := http.NewRequest("GET", address(strange), nil)
	if err != nil {
		t.Fatal(err)
	}
	at, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	for _, cookie := range dana.HTTP.Jar.Cookies(at) {
		req.AddCookie(cookie)
	}
	if res, err := again.Test(req); err != nil || res.StatusCode != 404 {
		t.Errorf("a hidden logo is given out: %v %v", res, err)
	}
}

// What somebody gave and put nowhere is theirs alone for a day, and then gone.
func TestFilesThatWereLeft(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	f := give(t, dana, "/api/use", "note.txt", []byte("for later"))
	path := fmt.Sprintf("/api/use/files/%d", f.ID)
	do(t, dana, "GET", path, nil, 200, new(string))
	do(t, bo, "GET", path, nil, 404, nil)
	form := "/api/build/spaces/production/objects/document/records/1"
	// not his to put anywhere
	do(t, bo, "PATCH", form, map[string]any{"values": map[string]any{"file": map[string]any{"id": f.ID}}}, 422, nil)
	var before, after int
	count := `SELECT count(*) FROM plainpath.file`
	if err := db.Get(&before, count); err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`UPDATE plainpath.file SET added_at = added_at - interval '25 hours'`); err != nil {
		t.Fatal(err)
	}
	if err := jobs.DropExpired(t.Context(), db); err != nil {
		t.Fatal(err)
	}
	if err := db.Get(&after, count); err != nil || after != before-1 {
		t.Errorf("%d files of %d are left: %v", after, before, err)
	}
	do(t, dana, "GET", path, nil, 404, nil)
	for n := range 25 {
		var says string
		status, err := dana.Do("POST", "/api/use/files", server.NewUpload{Name: "large", Size: 25 << 20}, "", &says)
		if full := n > 20; err != nil || full != (status == 422) || full && !strings.Contains(says,
			"no record took up") {
			t.Fatalf("file %d: %d %s %v", n, status, says, err)
		}
	}
}

// A file that a record held and no record holds any longer goes after a month; one in a field that
// was taken away stays, for the field can come back.
func TestFilesThatNoRecordHolds(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	const trial, form = "/api/build/spaces/trial", "/api/build/spaces/trial/objects/customer/records/"
	put := func(record, id int64) {
		t.Helper()
		do(t, bo, "PATCH", fmt.Sprint(form, record),
			map[string]any{"values": map[string]any{"logo": map[string]any{"id": id}}}, 200, nil)
	}
	first, second, third := give(t, bo, trial, "a.png", picture(t, 20)), give(t, bo, trial, "b.png", picture(t, 20)),
		give(t, bo, trial, "c.png", picture(t, 20))
	put(1, first.ID)
	put(1, second.ID) // the first is held by nobody any longer
	put(2, third.ID)
	var doc struct {
		Revision int
		Body     struct{ Fields []struct{ Key string } }
	}
	do(t, bo, "GET", "/api/build/documents/object/engineer", nil, 200, &doc)
	hidden := counting(t, db, `SELECT count(DISTINCT picture) FROM liftcare_trial.engineer`)
	if hidden == 0 {
		t.Fatal("no engineer has a picture")
	}
	if _, err := db.Exec(`UPDATE plainpath.file SET added_at = added_at - interval '31 days' WHERE id <> $1`,
		third.ID); err != nil {
		t.Fatal(err)
	}
	before := counting(t, db, `SELECT count(*) FROM plainpath.file`)
	unheld := counting(t, db, `SELECT count(*) FROM plainpath.file f WHERE kept AND NOT EXISTS (SELECT 1 FROM liftcare_trial.customer WHERE logo = f.id) AND NOT EXISTS (SELECT 1 FROM liftcare_production.customer WHERE logo = f.id)
		AND NOT EXISTS (SELECT 1 FROM liftcare_trial.engineer WHERE picture = f.id) AND NOT EXISTS (SELECT 1 FROM liftcare_production.engineer WHERE picture = f.id)
		AND NOT EXISTS (SELECT 1 FROM liftcare_trial.certificate WHERE file = f.id) AND NOT EXISTS (SELECT 1 FROM liftcare_production.certificate WHERE file = f.id)
		AND NOT EXISTS (SELECT 1 FROM liftcare_trial.document WHERE file = f.id) AND NOT EXISTS (SELECT 1 FROM liftcare_production.document WHERE file = f.id) AND NOT EXISTS (SELECT 1 FROM plainpath.person WHERE picture = f.id)`)
	at := slices.IndexFunc(doc.Body.Fields, func(f struct{ Key string }) bool { return f.Key == "picture" })
	do(t, bo, "PATCH", "/api/build/documents/object/engineer",
		map[string]any{"base": doc.Revision,
			"patch": []any{map[string]any{"op": "remove", "path": fmt.Sprint("/fields/", at)}}}, 200, nil)
	if err := jobs.DropUnheld(t.Context(), db); err != nil {
		t.Fatal(err)
	}
	if after := counting(t, db, `SELECT count(*) FROM plainpath.file`); unheld < 2 || after != before-unheld {
		t.Errorf("%d files of %d are left, and %d were held by nobody", after, before, unheld)
	}
	do(t, bo, "GET", fmt.Sprintf("%s/files/%d", trial, first.ID), nil, 404, nil)
	do(t, bo, "GET", fmt.Sprintf("%s/files/%d", trial, second.ID), nil, 200, new(string))
}

func TestAPersonsPicture(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	face := give(t, bo, "/api/build/spaces/trial", "dana.png", picture(t, 120))
	var all server.PeopleView
	do(t, bo, "GET", "/api/build/people", nil, 200, &all)
	p := all.People[1]
	change := accounts.AccountChange{Name: p.Name, Email: p.Email, Active: true, Picture: face.ID, Spaces: p.Spaces}
	address := fmt.Sprintf("/api/build/people/%d", p.ID)
	do(t, bo, "PUT", address, change, 200, &all)
	if all.People[1].Picture != face.ID {
		t.Errorf("%+v", all.People[1])
	}
	do(t, dana, "GET", fmt.Sprintf("/api/use/files/%d/preview", face.ID), nil, 200, new(string))
	do(t, bo, "PUT", address, change, 200, nil) // the same again
	change.Picture = give(t, bo, "/api/build/spaces/trial", "words.png", []byte("words")).ID
	do(t, bo, "PUT", address, change, 422, nil)
	change.Picture = 0
	var bare server.PeopleView
	do(t, bo, "PUT", address, change, 200, &bare)
	if bare.People[1].Picture != 0 {
		t.Errorf("%+v", bare.People[1])
	}
}

// A file given on a screen goes into the record that a walkthrough adds: rehearsed as
// somebody else it is put back, and in Use it stays.
func TestAFileGivenOnAScreen(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	filing := `{"key":"file_a_paper","label":"File a paper","roles":["dispatcher"],"steps":[
		{"key":"paper","kind":"screen","title":"The paper","screen":{"bands":[{"columns":[{"parts":[
			{"key":"file","kind":"input","label":"The paper","input":{"type":"file","required":true}}]}]}]}},
		{"key":"filed","kind":"add","add":{"object":"document","values":[{"field":"title","value":{"expression":"paper.file.name"}},{"field":"kind","value":{"literal":"photo"}},{"field":"file","value":{"expression":"paper.file"}},{"field":"lift","value":{"literal":{"id":1}}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{paper.file.name} of {paper.file.size} bytes is filed."}}]}`
	do(t, bo, "POST", "/api/build/documents", map[string]any{"kind": "walkthrough", "key": "file_a_paper",
		"body": json.RawMessage(filing)}, 201, nil)
	var role definition.Document
	do(t, bo, "GET", "/api/build/documents/role/dispatcher", nil, 200, &role)
	do(t, bo, "PATCH", "/api/build/documents/role/dispatcher",
		map[string]any{"base": role.Revision,
			"patch": []any{map[string]any{"op": "add", "path": "/objects/document",
				"value": map[string]any{"see": true, "add": true}}}}, 200, nil)
	var me struct{ ID int64 }
	do(t, dana, "GET", "/api/session", nil, 200, &me)

	var f pgfiles.FileView
	do(t, bo, "POST", "/api/build/spaces/trial/files", server.NewUpload{Name: "sketch.txt", Size: 9, As: me.ID}, 201,
		&f)
	do(t, bo, "PUT", fmt.Sprintf("/api/build/spaces/trial/files/%d/parts/0?as=%d", f.ID, me.ID), []byte("a sketch!"),
		200, &f)
	answers := func(id int64) map[string]any { return map[string]any{"file": map[string]any{"id": id}} }
	var r runs.Rehearsed
	do(t, bo, "POST", "/api/build/rehearsals/file_a_paper",
		map[string]any{"as": me.ID, "recorded": []any{map[string]any{"screen": "paper", "answers": answers(f.ID)}},
			"remembered": []any{}}, 200, &r)
	if r.Stopped != "" || r.View == nil || !reflect.DeepEqual(r.View.Message,
		expr.Sentence{{Text: "sketch.txt", Given: true}, {Text: " of "}, {Type: model.Whole, Value: 9.0},
			{Text: " bytes is filed."}}) {
		t.Fatalf("%+v %+v", r, r.View)
	}
	var kept runs.NewExample
	do(t, bo, "POST", "/api/build/rehearsals/file_a_paper/example",
		map[string]any{"as": me.ID, "recorded": []any{map[string]any{"screen": "paper", "answers": answers(f.ID)}},
			"remembered": []any{}}, 200, &kept)
	if n := counting(t, db, `SELECT count(*) FROM plainpath.rehearsal_file`); n != 1 || kept.Files != 1 {
		t.Errorf("%d files are kept, %+v", n, kept)
	}
	count := func(want int) {
		t.Helper()
		var n int
		if err := db.Get(&n, `SELECT (SELECT count(*) FROM liftcare_trial.document WHERE title = 'sketch.txt') + (SELECT count(*) FROM liftcare_production.document WHERE title = 'sketch.txt')`); err != nil || n != want {
			t.Errorf("%d papers are filed, %v, want %d", n, err, want)
		}
	}
	count(0)

	var p drafts.Preview
	do(t, bo, "GET", "/api/build/release", nil, 200, &p)
	do(t, bo, "POST", "/api/build/release", map[string]any{"version": p.Version, "note": ""}, 201, nil)
	run := startRun(t, dana, "file_a_paper")
	mine := give(t, dana, "/api/use", "sketch.txt", []byte("a better sketch"))
	for _, c := range []struct {
		file int64
		want int
	}{{f.ID + 500, 422}, {mine.ID, 200}} {
		var body string
		status, err := dana.Do("POST", "/api/use/runs/"+run+"/answers", map[string]any{"revision": 1, "screen": "paper",
			"answers": answers(c.file)}, fmt.Sprint(c.file), &body)
		if err != nil || status != c.want {
			t.Errorf("file %d: %d %s %v, want %d", c.file, status, body, err, c.want)
		}
	}
	count(1)
}
