package picture_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/picture"
)

// room gives as much as is asked for, and counts what is out.
type room struct{ asked, out int64 }

func (r *room) take(points int64) (func(), error) {
	r.asked += points
	r.out += points
	return func() { r.out -= points }, nil
}

// corners is a picture whose corners are red, green, blue and black, from the top left clockwise.
func corners(w, h int) image.Image {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.RGBA{A: 255}
			switch {
			case y < h/2 && x < w/2:
				c.R = 255
			case y < h/2:
				c.G = 255
			case x >= w/2:
				c.B = 255
			}
			img.Set(x, y, c)
		}
	}
	return img
}

// held is a JPEG with an EXIF orientation.
func held(t *testing.T, img image.Image, orientation uint16) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: 95}))
	tiff := []byte("MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01")
	tiff = binary.BigEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0, 0, 0, 0, 0)
	app := append([]byte("Exif\x00\x00"), tiff...)
	head := binary.BigEndian.AppendUint16([]byte{0xff, 0xd8, 0xff, 0xe1}, uint16(len(app)+2))
	return append(append(head, app...), b.Bytes()[2:]...)
}

// seen names the colours of the corners, from the top left clockwise.
func seen(t *testing.T, b []byte) (names string, w, h int) {
	t.Helper()
	img, err := jpeg.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	w, h = img.Bounds().Dx(), img.Bounds().Dy()
	for _, p := range [][2]int{{2, 2}, {w - 3, 2}, {w - 3, h - 3}, {2, h - 3}} {
		r, g, bl, _ := img.At(p[0], p[1]).RGBA()
		switch {
		case r > 0x8000 && g > 0x8000:
			names += "W"
		case r > 0x8000:
			names += "R"
		case g > 0x8000:
			names += "G"
		case bl > 0x8000:
			names += "B"
		default:
			names += "K"
		}
	}
	return names, w, h
}

// The eight ways of holding a camera, each turned upright. The table says where the corners of
// the stored picture are seen: EXIF 2.32, table of tag 0x0112.
func TestPhotographsAreTurnedUpright(t *testing.T) {
	for o, want := range map[uint16]string{1: "RGBK", 2: "GRKB", 3: "BKRG", 4: "KBGR", 5: "RKBG", 6: "KRGB", 7: "BGRK",
		8: "GBKR"} {
		t.Run(fmt.Sprint(o), func(t *testing.T) {
			p, err := picture.Of(held(t, corners(64, 32), o), new(room).take)
			require.NoError(t, err)
			names, w, h := seen(t, p.JPEG)
			assert.Equal(t, want, names)
			assert.Equal(t, []int{w, h}, []int{p.Width, p.Height})
			assert.Equal(t, o >= 5, h > w)
		})
	}
}

func TestPhotographsAreReduced(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, corners(4000, 1000)))
	r := new(room)
	p, err := picture.Of(b.Bytes(), r.take)
	require.NoError(t, err)
	names, w, h := seen(t, p.JPEG)
	assert.Equal(t, "RGBK", names)
	assert.Equal(t, []int{1600, 400}, []int{w, h})
	assert.EqualValues(t, 4_000_000, r.asked)
	assert.Zero(t, r.out)
	w, h, err = picture.Size(bytes.NewReader(p.JPEG))
	require.NoError(t, err)
	assert.Equal(t, []int{1600, 400}, []int{w, h})
}

// What stands beside the picture, where it was taken among it, is not kept.
func TestNothingBesideThePictureIsKept(t *testing.T) {
	p, err := picture.Of(held(t, corners(64, 32), 3), new(room).take)
	require.NoError(t, err)
	assert.NotContains(t, string(p.JPEG), "Exif")
}

func TestWhatIsNoPhotographIsToldBeforeItIsUnpacked(t *testing.T) {
	var large bytes.Buffer
	require.NoError(t, png.Encode(&large, image.NewGray(image.Rect(0, 0, 9000, 7000))))
	whole := held(t, corners(64, 32), 1)
	for words, raw := range map[string][]byte{
		"neither a JPEG nor a PNG": []byte("%PDF-1.7"),
		"larger than 50 million":   large.Bytes(),
		"broken":                   whole[:len(whole)-60],
	} {
		_, err := picture.Of(raw, new(room).take)
		var told *picture.Error
		require.ErrorAs(t, err, &told, words)
		assert.Contains(t, told.Why, words)
	}
}

func FuzzOf(f *testing.F) {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, corners(16, 8), nil); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	b.Reset()
	if err := png.Encode(&b, corners(16, 8)); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, raw []byte) {
		r := new(room)
		p, err := picture.Of(raw, func(points int64) (func(), error) {
			if points > 1<<20 {
				return nil, &picture.Error{Why: "enough for a test"}
			}
			return r.take(points)
		})
		if r.out != 0 {
			t.Fatal("room was not given back")
		}
		if err == nil && (p.Width < 1 || p.Height < 1 || p.Width > picture.Side || p.Height > picture.Side) {
			t.Fatalf("%d by %d", p.Width, p.Height)
		}
	})
}
