package files

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"
)

// header is the beginning of a PNG, which says how large the rest would be.
func header(width, height uint32, depth, kind byte) []byte {
	chunk := binary.BigEndian.AppendUint32([]byte("IHDR"), width)
	chunk = append(binary.BigEndian.AppendUint32(chunk, height), depth, kind, 0, 0, 0)
	out := binary.BigEndian.AppendUint32([]byte("\x89PNG\r\n\x1a\n"), 13)
	return binary.BigEndian.AppendUint32(append(out, chunk...), crc32.ChecksumIEEE(chunk))
}

// working is how long this process has been at work, whatever else the machine does.
func working(t *testing.T) time.Duration {
	t.Helper()
	var use syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &use); err != nil {
		t.Fatal(err)
	}
	return time.Duration(use.Utime.Nano() + use.Stime.Nano())
}

// What would take too much to open is refused before it is opened.
func TestHugePicturesAreNotOpened(t *testing.T) {
	for name, c := range map[string]struct {
		raw  []byte
		says string
	}{
		"a line":       {header(1, 50_000_000, 8, 2), "at most 20000 each way"},
		"a wide line":  {header(1<<31-1, 1, 8, 0), "at most 20000 each way"},
		"nothing":      {header(0, 5, 8, 2), ""},
		"deep colours": {header(6000, 5000, 16, 6), "at most 20 million"},
		"colours":      {header(9000, 5000, 8, 6), "at most 39 million"},
	} {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		_, err := preview(c.raw)
		runtime.ReadMemStats(&after)
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
		if made := (after.TotalAlloc - before.TotalAlloc) >> 20; made > 1 {
			t.Errorf("%s made %d MB", name, made)
		}
	}
}

// The largest pictures that are opened take less than 200 MB and two seconds.
func TestLargePicturesStayWithinBounds(t *testing.T) {
	var photo, paletted, one bytes.Buffer
	big := image.NewYCbCr(image.Rect(0, 0, 6000, 4000), image.YCbCrSubsampleRatio420)
	for i := range big.Y {
		big.Y[i] = byte(i * i >> 7)
	}
	if err := jpeg.Encode(&photo, big, nil); err != nil {
		t.Fatal(err)
	}
	flat := image.NewPaletted(image.Rect(0, 0, 19_000, 8_000), color.Palette{color.Black, color.White})
	if err := png.Encode(&paletted, flat); err != nil {
		t.Fatal(err)
	}
	if err := gif.Encode(&one, image.NewPaletted(image.Rect(0, 0, 9, 20_000), color.Palette{color.Black}),
		nil); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		raw           []byte
		width, height int
	}{"a photo": {photo.Bytes(), 96, 64}, "few colours": {paletted.Bytes(), 96, 40},
		"a thin one": {one.Bytes(), 1, 96}} {
		runtime.GC()
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		began := working(t)
		small, err := preview(c.raw)
		took := working(t) - began
		runtime.ReadMemStats(&after)
		size, sizing := png.DecodeConfig(bytes.NewReader(small))
		if err != nil || sizing != nil || size.Width != c.width || size.Height != c.height {
			t.Errorf("%s: %+v %v %v", name, size, err, sizing)
		}
		if made := (after.TotalAlloc - before.TotalAlloc) >> 20; made > 200 || took > 2*time.Second {
			t.Errorf("%s took %d MB and %v", name, made, took)
		}
	}
}
