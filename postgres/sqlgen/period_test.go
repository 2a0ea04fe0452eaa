package sqlgen

import (
	"archive/zip"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// Of every zone there is it can be said, in no time, whether its clocks change at midnight.
func TestEveryZoneIsLookedThrough(t *testing.T) {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		t.Fatal(err)
	}
	zones, err := zip.OpenReader(filepath.Join(strings.TrimSpace(string(root)), "lib", "time", "zoneinfo.zip"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = zones.Close() }()
	looked, changing := 0, map[string]bool{}
	for _, f := range zones.File {
		zone, err := time.LoadLocation(f.Name)
		if err != nil {
			continue
		}
		looked++
		answer := make(chan bool, 1)
		go func() { answer <- changesAtMidnight(zone) }()
		select {
		case changing[f.Name] = <-answer:
		case <-time.After(time.Minute):
			t.Fatalf("%s has no end", f.Name)
		}
	}
	for name, want := range map[string]bool{"America/Havana": true, "America/Asuncion": true, "Etc/GMT+5": false,
		"UTC": false} {
		if changing[name] != want {
			t.Errorf("%s changes at midnight: %t", name, changing[name])
		}
	}
	if looked < 400 {
		t.Errorf("only %d zones were looked through", looked)
	}
}
