package store

import (
	"bytes"
	"errors"
	"image"
	_ "image/gif" // what pictures may be
	_ "image/jpeg"
	"image/png"
	"io"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"
)

// previewSide is the longer side of a preview in pixels.
const previewSide = 96

// mostPixels bounds the pictures that are opened: a small file can unpack to a huge one.
const mostPixels = 50_000_000

// preview makes a small PNG of a picture.
func preview(picture io.Reader) ([]byte, error) {
	raw, err := io.ReadAll(picture)
	if err != nil {
		return nil, err
	}
	size, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	if size.Width <= 0 || size.Height <= 0 || size.Width > mostPixels/size.Height {
		return nil, errors.New("it has too many pixels")
	}
	full, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	w, h := fitted(size.Width, size.Height)
	small := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.CatmullRom.Scale(small, small.Bounds(), full, full.Bounds(), draw.Src, nil)
	var out bytes.Buffer
	err = png.Encode(&out, small)
	return out.Bytes(), err
}

// fitted scales a size down to the preview's, keeping its shape. It is never scaled up.
func fitted(w, h int) (int, int) {
	longer := max(w, h)
	if longer <= previewSide {
		return w, h
	}
	return max(1, w*previewSide/longer), max(1, h*previewSide/longer)
}
