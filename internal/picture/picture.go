// Package picture makes the pictures that are kept of photographs that people
// bring: upright, small enough for a page, and without what a camera writes
// beside them.
package picture

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	_ "image/png" // photographs come as these too
	"io"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"
)

// Bounds of a photograph.
const (
	MaxFile   = 12 << 20 // bytes
	MaxPoints = 50 << 20 // points that it unpacks to
	Side      = 1600     // points of the longer side of what is kept
)

// Picture is what is kept: a JPEG of a size.
type Picture struct {
	JPEG          []byte
	Width, Height int
}

// An Error says in words why a file is no photograph that can be taken.
type Error struct{ Why string }

func (e *Error) Error() string { return e.Why }

func cant(format string, args ...any) error { return &Error{fmt.Sprintf(format, args...)} }

// Of makes the picture of a photograph, a JPEG, PNG or WebP file. Before it is
// unpacked, room is asked for its points, and given back at the end.
func Of(raw []byte, room func(points int64) (done func(), err error)) (*Picture, error) {
	cfg, format, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, cant("this is neither a JPEG nor a PNG nor a WebP picture")
	}
	points := int64(cfg.Width) * int64(cfg.Height)
	if points > MaxPoints {
		return nil, cant("%d by %d is larger than %d million points; make it smaller first", cfg.Width, cfg.Height,
			MaxPoints>>20)
	}
	if points == 0 {
		return nil, cant("the picture is empty")
	}
	done, err := room(points)
	if err != nil {
		return nil, err
	}
	defer done()
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, cant("the picture is broken")
	}
	turned := upright(reduced(img), orientation(raw, format))
	var out bytes.Buffer
	if err := jpeg.Encode(&out, turned, &jpeg.Options{Quality: 85}); err != nil {
		return nil, fmt.Errorf("write the picture: %w", err)
	}
	b := turned.Bounds()
	return &Picture{out.Bytes(), b.Dx(), b.Dy()}, nil
}

// Size is how large a picture is, without unpacking it.
func Size(r io.Reader) (width, height int, err error) {
	cfg, _, err := image.DecodeConfig(r)
	return cfg.Width, cfg.Height, err
}

// reduced is a picture no larger than what is kept, on white.
func reduced(img image.Image) *image.RGBA {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	if long := max(w, h); long > Side {
		w, h = max(1, (w*Side+long/2)/long), max(1, (h*Side+long/2)/long)
	}
	to := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(to, to.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	if w == b.Dx() && h == b.Dy() {
		draw.Draw(to, to.Bounds(), img, b.Min, draw.Over)
	} else {
		draw.CatmullRom.Scale(to, to.Bounds(), img, b, draw.Over, nil)
	}
	return to
}

// orientation is how the camera was held: 1 to 8 as EXIF numbers it, 1 where
// it does not say.
func orientation(raw []byte, format string) int {
	kinds := map[string]imagemeta.ImageFormat{"jpeg": imagemeta.JPEG, "png": imagemeta.PNG, "webp": imagemeta.WebP}
	turn := 1
	_, err := imagemeta.Decode(imagemeta.Options{R: bytes.NewReader(raw), ImageFormat: kinds[format],
		Sources:         imagemeta.EXIF,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool { return t.Tag == "Orientation" },
		HandleTag: func(t imagemeta.TagInfo) error {
			if v, ok := t.Value.(uint16); ok && v >= 1 && v <= 8 {
				turn = int(v)
			}
			return nil
		},
	})
	if err != nil {
		return 1 // what it says beside the picture can't be read
	}
	return turn
}

// upright turns a picture as its orientation asks.
func upright(img *image.RGBA, orientation int) *image.RGBA {
	if orientation == 1 {
		return img
	}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	to := image.NewRGBA(image.Rect(0, 0, w, h))
	if orientation >= 5 {
		to = image.NewRGBA(image.Rect(0, 0, h, w))
	}
	for y := range to.Rect.Dy() {
		for x := range to.Rect.Dx() {
			// Where the point comes from, as EXIF's table of rows and columns has it.
			fx, fy := x, y
			switch orientation {
			case 2:
				fx = w - 1 - x
			case 3:
				fx, fy = w-1-x, h-1-y
			case 4:
				fy = h - 1 - y
			case 5:
				fx, fy = y, x
			case 6:
				fx, fy = y, h-1-x
			case 7:
				fx, fy = w-1-y, h-1-x
			case 8:
				fx, fy = w-1-y, x
			}
			to.SetRGBA(x, y, img.RGBAAt(fx, fy))
		}
	}
	return to
}

// Small is a JPEG of a picture whose longer side has at most some points and that has at most some bytes: the best
// that does.
func Small(raw []byte, side, most int) ([]byte, error) {
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, fmt.Errorf("small picture: %w", err)
	}
	b := img.Bounds()
	for ; side >= 40; side = side * 4 / 5 {
		w, h := b.Dx(), b.Dy()
		if long := max(w, h); long > side {
			w, h = max(1, w*side/long), max(1, h*side/long)
		}
		to := image.NewRGBA(image.Rect(0, 0, w, h))
		draw.CatmullRom.Scale(to, to.Bounds(), img, b, draw.Src, nil)
		for _, quality := range []int{82, 70, 58, 45} {
			var out bytes.Buffer
			if err := jpeg.Encode(&out, to, &jpeg.Options{Quality: quality}); err != nil {
				return nil, fmt.Errorf("small picture: %w", err)
			}
			if out.Len() <= most {
				return out.Bytes(), nil
			}
		}
	}
	return nil, fmt.Errorf("no picture has as few as %d bytes", most)
}
