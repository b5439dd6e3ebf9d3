// Package photo takes over photographs of panels: JPEG (ITU-T T.81) and PNG (ISO/IEC 15948), scaled down, upright, and without what a camera writes beside the picture.
package photo

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"

	"github.com/rwcarlsen/goexif/exif"
	"golang.org/x/image/draw"
)

// Bounds of what is taken over.
const (
	MostPixels = 50_000_000
	// Side is the longest side of what is kept, in pixels.
	Side    = 2000
	quality = 85
)

// ErrPicture is returned for what is no picture that can be taken over; the text says why.
var ErrPicture = errors.New("expected a photograph as JPEG or PNG")

// Taken is a photograph as it is kept.
type Taken struct {
	Data          []byte
	Width, Height int
	// Form is "jpeg" or "png".
	Form string
}

// Take reads a photograph, turns it upright as its Exif orientation says, scales it down to Side and writes it anew: nothing else of the file is kept, neither place nor owner.
func Take(data []byte) (*Taken, error) {
	head, form, err := image.DecodeConfig(bytes.NewReader(data))
	switch {
	case err != nil || form != "jpeg" && form != "png":
		return nil, ErrPicture
	case head.Width < 1 || head.Height < 1:
		return nil, fmt.Errorf("%w: it is empty", ErrPicture)
	case head.Width > MostPixels/head.Height:
		return nil, fmt.Errorf("%w of at most %d megapixels: it has %d x %d", ErrPicture, MostPixels/1_000_000, head.Width, head.Height)
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("%w: it is broken (%v)", ErrPicture, err)
	}
	w, h := head.Width, head.Height
	if long := max(w, h); long > Side {
		w, h = max(1, w*Side/long), max(1, h*Side/long)
	}
	small := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.BiLinear.Scale(small, small.Bounds(), img, img.Bounds(), draw.Src, nil)
	if form == "jpeg" {
		small = upright(small, orientation(data))
	}
	var out bytes.Buffer
	if form == "png" {
		err = png.Encode(&out, small)
	} else {
		err = jpeg.Encode(&out, small, &jpeg.Options{Quality: quality})
	}
	b := small.Bounds()
	return &Taken{out.Bytes(), b.Dx(), b.Dy(), form}, err
}

// Check refuses what is not a photograph as Take gives it.
func Check(data []byte) error {
	head, form, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || form != "jpeg" && form != "png" || max(head.Width, head.Height) > Side || min(head.Width, head.Height) < 1 {
		return fmt.Errorf("%w of at most %d pixels a side", ErrPicture, Side)
	}
	return nil
}

// orientation reads how a camera was held (Exif 2.3, tag 274), 1 where that is not told.
func orientation(data []byte) (way int) {
	defer func() {
		if recover() != nil { // what a camera wrote may be anything
			way = 1
		}
	}()
	x, err := exif.Decode(bytes.NewReader(data))
	if err != nil {
		return 1
	}
	tag, err := x.Get(exif.Orientation)
	if err != nil {
		return 1
	}
	if way, err = tag.Int(0); err != nil || way < 1 || way > 8 {
		return 1
	}
	return way
}

// upright turns a picture whose orientation is told.
func upright(img *image.NRGBA, way int) *image.NRGBA {
	if way == 1 {
		return img
	}
	w, h := img.Bounds().Dx(), img.Bounds().Dy()
	size := image.Rect(0, 0, w, h)
	if way >= 5 {
		size = image.Rect(0, 0, h, w)
	}
	out := image.NewNRGBA(size)
	for y := range h {
		for x := range w {
			to := [...]image.Point{{}, {x, y}, {w - 1 - x, y}, {w - 1 - x, h - 1 - y}, {x, h - 1 - y}, {y, x}, {h - 1 - y, x}, {h - 1 - y, w - 1 - x}, {y, w - 1 - x}}[way]
			out.SetNRGBA(to.X, to.Y, img.NRGBAAt(x, y))
		}
	}
	return out
}
