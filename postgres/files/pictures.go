package files

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif" // what pictures may be
	_ "image/jpeg"
	"image/png"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"
)

// previewSide is the longer side of a preview in pixels.
const previewSide = 96

// What a picture may take to be opened: a small file can unpack to a huge one.
const (
	mostSide   = 20_000
	mostOpened = 150 << 20
)

// preview makes a small PNG of a picture.
func preview(raw []byte) ([]byte, error) {
	size, format, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	if size.Width <= 0 || size.Height <= 0 {
		return nil, errors.New("it has no pixels")
	}
	if size.Width > mostSide || size.Height > mostSide {
		return nil, fmt.Errorf("it is %d × %d pixels, and at most %d each way can be opened", size.Width, size.Height,
			mostSide)
	}
	if most := mostOpened / perPixel(raw, format, size.ColorModel); float64(size.Width)*float64(size.Height) > most {
		return nil, fmt.Errorf("it is %d × %d pixels, and of its kind at most %.0f million together can be opened; make it smaller", size.Width, size.Height, most/1e6)
	}
	full, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	w, h := fitted(size.Width, size.Height, previewSide)
	small := image.NewNRGBA(image.Rect(0, 0, w, h))
	from := thinned(full)
	draw.CatmullRom.Scale(small, small.Bounds(), from, from.Bounds(), draw.Src, nil)
	var out bytes.Buffer
	err = png.Encode(&out, small)
	return out.Bytes(), err
}

// thinned leaves out pixels of a very large picture, for looking at all of them takes long.
func thinned(full image.Image) image.Image {
	const enough = 10 * previewSide
	w, h := fitted(full.Bounds().Dx(), full.Bounds().Dy(), enough)
	if w == full.Bounds().Dx() {
		return full
	}
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.NearestNeighbor.Scale(out, out.Bounds(), full, full.Bounds(), draw.Src, nil)
	return out
}

// fitted scales a size down to a longest side, keeping its shape. It is never scaled up.
func fitted(w, h, side int) (int, int) {
	longer := max(w, h)
	if longer <= side {
		return w, h
	}
	return max(1, w*side/longer), max(1, h*side/longer)
}

// perPixel is how many bytes opening a picture takes for each pixel.
func perPixel(raw []byte, format string, model color.Model) float64 {
	switch {
	case format == "jpeg":
		return jpegPixel(raw)
	case format == "webp":
		return 8 // the picture, and its lossless form while it is undone
	case format == "gif":
		return 2
	case model == color.RGBA64Model || model == color.NRGBA64Model:
		return 8
	case model == color.GrayModel || model == color.Gray16Model:
		return 2
	}
	if _, few := model.(color.Palette); few {
		return 1
	}
	return 4
}

// jpegPixel is how many bytes a pixel of a JPEG takes: its samples, and in a progressive one their
// coefficients, 32 bits each, which are all held until the end. See ITU-T T.81, B.2.2.
func jpegPixel(raw []byte) float64 {
	for at := 2; at+9 < len(raw) && raw[at] == 0xff; {
		marker, length := raw[at+1], int(binary.BigEndian.Uint16(raw[at+2:]))
		if marker >= 0xc0 && marker <= 0xc2 {
			samples, most := 0, 1
			for n := range int(raw[at+9]) {
				if sampling := at + 11 + 3*n; sampling < len(raw) {
					each := int(raw[sampling]>>4) * int(raw[sampling]&15)
					samples, most = samples+each, max(most, each)
				}
			}
			each := float64(samples) / float64(most)
			if marker == 0xc2 {
				return 5 * each
			}
			return each
		}
		at += 2 + length
	}
	return 15
}
