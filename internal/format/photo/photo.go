// Package photo takes in photographs that strangers send: each is decoded, turned the way
// it was held, made no larger than a screen needs, and written anew, so that nothing of
// the file but its picture is kept: no place, no camera, no text, no second file behind
// the first.
package photo

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // read
	"math"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // read
)

// Kind is the media type of what Clean gives.
const Kind = "image/jpeg"

// The limits: the most pixels that are decoded, and the longest side of what is kept.
const (
	mostPixels = 32_000_000
	longest    = 2560
	quality    = 85
)

// The errors of Clean.
var (
	ErrKind   = errors.New("a photo is a JPEG, PNG or WebP file")
	ErrPixels = fmt.Errorf("a photo has at most %d million pixels", mostPixels/1_000_000)
)

// Clean reads a JPEG, PNG or WebP file and gives the picture in it as a JPEG of at most
// 2560 pixels a side. The error is ErrKind for what is none, or is broken, and ErrPixels
// for what is too large to be decoded; its size is read before anything else.
func Clean(b []byte) ([]byte, error) {
	c, kind, err := image.DecodeConfig(bytes.NewReader(b))
	if err != nil || c.Width <= 0 || c.Height <= 0 {
		return nil, ErrKind
	}
	if c.Width > mostPixels/c.Height {
		return nil, ErrPixels
	}
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, ErrKind
	}
	held := 1
	if kind == "jpeg" {
		held = orientation(b)
	}
	var out bytes.Buffer
	if err := jpeg.Encode(&out, upright(img, held), &jpeg.Options{Quality: quality}); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// upright draws a picture on white, no larger than longest, turned as its orientation says
// (EXIF 2.32, table 4, tag 0x0112: 1 to 8).
func upright(img image.Image, held int) image.Image {
	from := img.Bounds()
	w, h := float64(from.Dx()), float64(from.Dy())
	s := math.Min(1, longest/math.Max(w, h))
	// The matrix takes a point of the picture, from its corner, to where it is drawn.
	var a, b, c, d float64 // x' = a x + b y, y' = c x + d y, before it is moved into view
	switch held {
	case 2:
		a, d = -1, 1
	case 3:
		a, d = -1, -1
	case 4:
		a, d = 1, -1
	case 5:
		b, c = 1, 1
	case 6:
		b, c = -1, 1
	case 7:
		b, c = -1, -1
	case 8:
		b, c = 1, -1
	default:
		a, d = 1, 1
	}
	dx, dy := -math.Min(0, a*w+b*h), -math.Min(0, c*w+d*h)
	wide, high := math.Abs(a*w+b*h), math.Abs(c*w+d*h)
	dst := image.NewRGBA(image.Rect(0, 0, max(1, int(math.Round(wide*s))), max(1, int(math.Round(high*s)))))
	draw.Draw(dst, dst.Bounds(), image.White, image.Point{}, draw.Src)
	x0, y0 := float64(from.Min.X), float64(from.Min.Y)
	m := [6]float64{s * a, s * b, s * (dx - a*x0 - b*y0), s * c, s * d, s * (dy - c*x0 - d*y0)}
	draw.ApproxBiLinear.Transform(dst, m, img, from, draw.Over, nil)
	return dst
}

// orientation is how a JPEG says that it was held, 1 where it does not: tag 0x0112 of the
// first directory of its Exif segment (EXIF 2.32, 4.5.4; TIFF 6.0, section 2).
func orientation(b []byte) int {
	for at := 2; at+4 <= len(b) && b[at] == 0xff && b[at+1] != 0xda; {
		n := int(binary.BigEndian.Uint16(b[at+2:]))
		end := at + 2 + n
		if n < 2 || end > len(b) {
			return 1
		}
		if body := b[at+4 : end]; b[at+1] == 0xe1 && bytes.HasPrefix(body, []byte("Exif\x00\x00")) {
			return tag(body[6:])
		}
		at = end
	}
	return 1
}

func tag(t []byte) int {
	if len(t) < 8 {
		return 1
	}
	var order binary.ByteOrder = binary.LittleEndian
	if t[0] == 'M' {
		order = binary.BigEndian
	}
	at := int(order.Uint32(t[4:]))
	if at < 8 || at+2 > len(t) {
		return 1
	}
	for i := range int(order.Uint16(t[at:])) {
		e := at + 2 + 12*i
		if e+12 > len(t) {
			return 1
		}
		if order.Uint16(t[e:]) == 0x0112 {
			if v := int(order.Uint16(t[e+8:])); v >= 1 && v <= 8 {
				return v
			}
			return 1
		}
	}
	return 1
}
