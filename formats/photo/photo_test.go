package photo_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"glossator/formats/photo"
)

// corners is a picture whose left upper quarter is red and whose right upper one is green, the rest black.
func corners(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.NRGBA{A: 255}
			if y < h/2 && x < w/2 {
				c.R = 255
			} else if y < h/2 {
				c.G = 255
			}
			img.SetNRGBA(x, y, c)
		}
	}
	return img
}

func jpegOf(t testing.TB, img image.Image) []byte {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// held puts an Exif block into a JPEG file: how the camera was held, and words that say whose it is (Exif 2.3: TIFF tags 274 and 315).
func held(file []byte, way uint16) []byte {
	le := binary.LittleEndian
	owner := "OWNER AND PLACE\x00"
	b := []byte("Exif\x00\x00II*\x00\x08\x00\x00\x00")
	b = le.AppendUint16(b, 2)
	b = le.AppendUint16(le.AppendUint16(b, 274), 3)
	b = le.AppendUint32(le.AppendUint32(b, 1), uint32(way))
	b = le.AppendUint16(le.AppendUint16(b, 315), 2)
	b = le.AppendUint32(le.AppendUint32(b, uint32(len(owner))), 8+2+24+4)
	b = le.AppendUint32(b, 0)
	b = append(b, owner...)
	seg := binary.BigEndian.AppendUint16([]byte{0xFF, 0xE1}, uint16(len(b)+2))
	return append(append(append(append([]byte{}, file[:2]...), seg...), b...), file[2:]...)
}

// However the camera was held, the picture stands upright (each of the eight ways that Exif has), and nothing of what it wrote beside is left.
func TestUprightAndBare(t *testing.T) {
	red, green := color.NRGBA{R: 255, A: 255}, color.NRGBA{G: 255, A: 255}
	// where red and green come to lie for each way, by the corners: 0 left upper, 1 right upper, 2 right lower, 3 left lower
	want := map[uint16][2]int{1: {0, 1}, 2: {1, 0}, 3: {2, 3}, 4: {3, 2}, 5: {0, 3}, 6: {1, 2}, 7: {2, 1}, 8: {3, 0}}
	for way, at := range want {
		got, err := photo.Take(held(jpegOf(t, corners(64, 40)), way))
		if err != nil {
			t.Fatal(err)
		}
		if bytes.Contains(got.Data, []byte("OWNER")) || bytes.Contains(got.Data, []byte("Exif")) {
			t.Errorf("way %d: what the camera wrote is still there", way)
		}
		img, err := jpeg.Decode(bytes.NewReader(got.Data))
		if err != nil {
			t.Fatal(err)
		}
		w, h := 64, 40
		if way >= 5 {
			w, h = h, w
		}
		if got.Width != w || got.Height != h || img.Bounds().Dx() != w || img.Bounds().Dy() != h {
			t.Errorf("way %d: %d x %d", way, got.Width, got.Height)
		}
		places := []image.Point{{w / 4, h / 4}, {w * 3 / 4, h / 4}, {w * 3 / 4, h * 3 / 4}, {w / 4, h * 3 / 4}}
		for i, c := range []color.NRGBA{red, green} {
			p := places[at[i]]
			r, g, _, _ := img.At(p.X, p.Y).RGBA()
			if (r > 0x8000) != (c.R > 0) || (g > 0x8000) != (c.G > 0) {
				t.Errorf("way %d: at %v is %v, want %v", way, p, img.At(p.X, p.Y), c)
			}
		}
	}
}

// A large one is scaled down in its proportions, a PNG stays one, a small one keeps its size.
func TestScales(t *testing.T) {
	for _, c := range []struct{ w, h, toW, toH int }{{4000, 3000, 2000, 1500}, {30, 20, 30, 20}, {2000, 2000, 2000, 2000}, {5000, 3, 2000, 1}} {
		var b bytes.Buffer
		if err := png.Encode(&b, corners(c.w, c.h)); err != nil {
			t.Fatal(err)
		}
		for form, data := range map[string][]byte{"png": b.Bytes(), "jpeg": jpegOf(t, corners(c.w, c.h))} {
			got, err := photo.Take(data)
			if err != nil || got.Form != form || got.Width != c.toW || got.Height != c.toH {
				t.Errorf("%d x %d as %s: %+v, %v", c.w, c.h, form, got, err)
			}
			if err == nil && photo.Check(got.Data) != nil {
				t.Errorf("%d x %d: what was taken does not pass", c.w, c.h)
			}
		}
	}
}

// What is no picture, broken, cut short or too large is refused before it takes room.
func TestRefuses(t *testing.T) {
	good := jpegOf(t, corners(64, 40))
	huge := bytes.Clone(good) // says that it is 20000 x 20000 (T.81: height and width in the frame header)
	at := bytes.Index(huge, []byte{0xFF, 0xC0})
	binary.BigEndian.PutUint16(huge[at+5:], 20000)
	binary.BigEndian.PutUint16(huge[at+7:], 20000)
	for name, data := range map[string][]byte{"nothing": nil, "a text": []byte("dear diary"), "a GIF": []byte("GIF89a\x01\x00\x01\x00\x00\x00\x00;"), "half": good[:len(good)/3], "400 megapixels": huge} {
		if _, err := photo.Take(data); !errors.Is(err, photo.ErrPicture) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if photo.Check(jpegOf(t, corners(3000, 10))) == nil || photo.Check([]byte("x")) == nil {
		t.Error("what was not taken passes")
	}
}

// FuzzTake takes anything without falling over.
func FuzzTake(f *testing.F) {
	f.Add(held(jpegOf(f, corners(8, 8)), 6))
	f.Fuzz(func(t *testing.T, data []byte) {
		if len(data) > 1<<16 {
			return
		}
		if got, err := photo.Take(data); err == nil && photo.Check(got.Data) != nil {
			t.Error("what was taken does not pass")
		}
	})
}

// BenchmarkTake takes a photograph of 12 megapixels.
func BenchmarkTake(b *testing.B) {
	data := jpegOf(b, corners(4000, 3000))
	for b.Loop() {
		if _, err := photo.Take(data); err != nil {
			b.Fatal(err)
		}
	}
}
