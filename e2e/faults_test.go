package e2e

import (
	"context"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"plainpath/postgres"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"plainpath/testdb"
)

// process is the program running by itself, so that it can be killed.
type process struct {
	t       *testing.T
	binary  string
	env     []string
	address string
	cmd     *exec.Cmd
}

func newProcess(t *testing.T, database string) *process {
	t.Helper()
	binary := filepath.Join(t.TempDir(), "plainpath")
	build := exec.CommandContext(t.Context(), "go", "build", "-o", binary, "./cmd/plainpath")
	build.Dir = testdb.Root(t)
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("building: %v\n%s", err, out)
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	address := ln.Addr().String()
	if err := ln.Close(); err != nil {
		t.Fatal(err)
	}
	p := &process{t: t, binary: binary, address: address, env: append(os.Environ(), "PLAINPATH_DATABASE="+database,
		"PLAINPATH_LISTEN="+address)}
	t.Cleanup(p.kill)
	return p
}

func (p *process) start() {
	p.t.Helper()
	p.cmd = exec.Command(p.binary, "serve")
	p.cmd.Env = p.env
	if err := p.cmd.Start(); err != nil {
		p.t.Fatal(err)
	}
	for range 800 {
		res, err := http.Get("http://" + p.address + "/healthz")
		if err == nil {
			_ = res.Body.Close()
			if res.StatusCode == 200 {
				return
			}
		}
		time.Sleep(25 * time.Millisecond)
	}
	p.t.Fatal("the program did not come up")
}

func (p *process) kill() {
	if p.cmd != nil && p.cmd.Process != nil {
		_ = p.cmd.Process.Signal(syscall.SIGKILL)
		_ = p.cmd.Wait()
		p.cmd = nil
	}
}

// Every connection to the database is cut again and again under load. Requests may fail
// with a clear answer; afterwards all is well without a restart.
func TestTheDatabaseGoneAndBack(t *testing.T) {
	s := newSite(t)
	dana := testdb.SignIn(t, s.address, "dana@quillmere.example")
	ctx, cancel := context.WithTimeout(t.Context(), 3*time.Second)
	defer cancel()
	var good, bad atomic.Int64
	var wg sync.WaitGroup
	for range 4 {
		wg.Go(func() {
			for ctx.Err() == nil {
				var body string
				status, err := dana.Do("GET", "/api/use/home", nil, "", &body)
				switch {
				case err == nil && status == 200:
					good.Add(1)
				case err == nil && status == 503:
					bad.Add(1)
				default:
					t.Errorf("status %d, %v: %s", status, err, body)
				}
			}
		})
	}
	admin, err := postgres.Open(t.Context(), testdb.Server(t), 1)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = admin.Close() }()
	var name string
	if err := s.db.Get(&name, `SELECT current_database()`); err != nil {
		t.Fatal(err)
	}
	for range 5 {
		time.Sleep(400 * time.Millisecond)
		_, err1 := admin.Exec(`ALTER DATABASE ` + name + ` ALLOW_CONNECTIONS false`)
		_, err2 := admin.Exec(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1`, name)
		time.Sleep(100 * time.Millisecond)
		_, err3 := admin.Exec(`ALTER DATABASE ` + name + ` ALLOW_CONNECTIONS true`)
		if err1 != nil || err2 != nil || err3 != nil {
			t.Fatal(err1, err2, err3)
		}
	}
	wg.Wait()
	if good.Load() == 0 || bad.Load() == 0 {
		t.Errorf("%d requests went well and %d failed: the database was never gone", good.Load(), bad.Load())
	}
	// Each connection that was cut in the pool may still fail one request.
	status := 0
	for range 20 {
		if status, err = dana.Do("GET", "/api/use/home", nil, "", nil); status == 200 {
			break
		}
	}
	if err != nil || status != 200 {
		t.Errorf("afterwards: %d, %v", status, err)
	}
}

// A session that ends in the middle of a screen costs nothing that was entered.
func TestASessionEndsInTheMiddle(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Report a fault")
	b.see("What is wrong?")
	b.pick("Lift", "QL-10", "QL-10")
	b.enter("What happens?", "It hums on the third floor")
	if _, err := s.db.Exec(`DELETE FROM plainpath.session`); err != nil {
		t.Fatal(err)
	}
	b.press("Report")
	b.see("Your session has ended")
	time.Sleep(1500 * time.Millisecond) // once it is open, the dialog takes the focus a second time
	b.enter("E-mail address", "dana@quillmere.example")
	b.enter("Password", "quillmere")
	b.keys(kb.Enter)
	b.gone("Your session has ended")
	b.see("The fault is reported") // what was sent is sent again by itself
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE problem = 'It hums on the third floor'`); n != 1 {
		t.Errorf("%d service calls were written, want 1", n)
	}
}

// Two tabs on one run: the later one is told.
func TestTwoTabsOnOneRun(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Book a visit")
	b.see("Which building?")
	address := run(b, chromedp.Location())
	dana := testdb.SignIn(t, s.address, "dana@quillmere.example")
	id := address[len(address)-36:]
	if status, err := dana.Do("POST", "/api/use/runs/"+id+"/answers", map[string]any{"revision": 1, "screen": "which",
		"answers": map[string]any{"part": "a"}}, "other-tab", nil); err != nil || status != 200 {
		t.Fatal(status, err)
	}
	b.enter("Part of the building’s name", "mill")
	b.press("Find buildings")
	b.see("went on in another window")
	b.see("mill")
	b.press("Show where it stands")
	b.see("Choose the building")
}
